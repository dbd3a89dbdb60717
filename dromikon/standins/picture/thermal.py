"""A picture of heat, white where it is hottest: by what things are made of, and how warm they were measured."""

from collections.abc import Mapping
from functools import lru_cache

import numpy as np
from PIL import Image, ImageDraw

from dromikon.standins.picture.cast import Surface
from dromikon.standins.picture.compose import HEIGHT, WIDTH, font
from dromikon.standins.picture.drawing import Tint
from dromikon.standins.picture.noise import layers
from dromikon.standins.world.detectors import Region
from dromikon.standins.world.heat import PALETTES
from dromikon.standins.world.scenes import Scene

#: How warm everything else is, and what is shown black and white, in °C.
ROOM, COLD, HOT = 21.0, 15.0, 84.0
#: A pixel of the sensor covers so many of the picture's to each side.
PIXEL = 1
LINES = (235, 235, 235)
#: People are warm, whatever they wear: how they look, and by how many °C.
BODY, BODY_WARMTH = Tint(0.62, 0.62, 0.62, grey=True), 33.0


def warm_things(scene: Scene, surface: Surface, size: tuple[int, int]) -> np.ndarray:
    """For each pixel which of the scene's warm materials it is, from 1; 0 for all others."""
    numbers = {material: number for number, (material, _) in enumerate(scene.warm, 1)}
    of_things = np.array([0, *(numbers.get(thing.material, 0) for thing in scene.things)], np.uint8)
    # Things are numbered from 0, the ground is -1.
    classes = of_things[surface.owner + 1]
    height, width = size
    rows = np.arange(height) * classes.shape[0] // height
    columns = np.arange(width) * classes.shape[1] // width
    return classes[rows][:, columns]


def warmth(scene: Scene, classes: np.ndarray, measured: Mapping[str, float]) -> np.ndarray:
    """How warm the scenery is at each pixel, in °C."""
    things = [ROOM, *(measured.get(w, ROOM) if isinstance(w, str) else w for _, w in scene.warm)]
    return np.asarray(np.array(things, np.float32)[classes] + _unevenness())


def heat_picture(heat: np.ndarray) -> Image.Image:
    """The scenery as it radiates."""
    shown = np.clip((heat - COLD) / (HOT - COLD), 0, 1) ** 0.72
    grey = (shown * 245 + 5).astype(np.uint8)
    blurred = Image.fromarray(grey).resize((WIDTH // 3, HEIGHT // 3), Image.Resampling.BILINEAR)
    # A thermal sensor has few pixels.
    return blurred.resize((WIDTH, HEIGHT), Image.Resampling.BICUBIC).convert("RGB")


def coloured(picture: Image.Image, palette: str) -> Image.Image:
    """A grey picture in colours, from cold to hot."""
    stops = np.array(PALETTES[palette][1], float)
    grey, at = np.arange(256), np.linspace(0, 255, len(stops))
    table = np.stack([np.interp(grey, at, stops[:, channel]) for channel in range(3)], axis=1).astype(np.uint8)
    return Image.fromarray(table[np.asarray(picture.convert("L"))])


@lru_cache(maxsize=1)
def _unevenness() -> np.ndarray:
    """Nothing is equally warm everywhere, and it is warmer under the ceiling."""
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH].astype(np.float32)
    return (layers(x / 60, y / 60, 3, 131) - 0.5) * 4 + (HEIGHT / 2 - y) / HEIGHT * 3


def covered(region: Region, size: tuple[int, int]) -> np.ndarray:
    """Which pixels of a picture (width, height) a region covers: yes and no, by (height, width)."""
    mask = Image.new("1", size)
    pen, places = ImageDraw.Draw(mask), _places(region, size)
    if region.sort == "heat at a spot":
        (x, y), *_ = places
        pen.rectangle((x - PIXEL, y - PIXEL, x + PIXEL, y + PIXEL), fill=1)
    elif region.sort == "heat along a line":
        pen.line(places, fill=1, width=2 * PIXEL + 1)
    else:
        pen.polygon(places, fill=1, outline=1)
    return np.asarray(mask)


def mark_regions(picture: Image.Image, regions: Mapping[Region, float | None]) -> None:
    """Each measured region with its temperature in °C, as such cameras burn it in."""
    pen = ImageDraw.Draw(picture)
    for region, value in regions.items():
        corners = _places(region, picture.size)
        if region.sort == "heat at a spot":
            (x, y), *_ = corners
            pen.line([(x - 9, y), (x + 9, y)], fill=LINES, width=2)
            pen.line([(x, y - 9), (x, y + 9)], fill=LINES, width=2)
        else:
            pen.line(corners if region.sort == "heat along a line" else [*corners, corners[0]], fill=LINES, width=2)
        text = f"{region.name}  {value:.1f} °C" if value is not None else region.name
        pen.text((min(x for x, _ in corners), max(y for _, y in corners) + 20), text, font=font(), fill=(255, 255, 255), anchor="ls",
                 stroke_width=2, stroke_fill=(18, 20, 22))  # fmt: skip


def _places(region: Region, size: tuple[int, int]) -> list[tuple[float, float]]:
    width, height = size
    return [((x + 1) / 2 * (width - 1), (1 - y) / 2 * (height - 1)) for x, y in region.seen]
