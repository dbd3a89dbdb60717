"""A picture of heat, white where it is hottest: by what things are made of, and how warm they were measured."""

from collections.abc import Callable, Iterable, Mapping
from functools import lru_cache

import numpy as np
from PIL import Image, ImageDraw

from dromikon.standins.picture.cast import Surface
from dromikon.standins.picture.compose import HEIGHT, WIDTH, font
from dromikon.standins.picture.drawing import Tint
from dromikon.standins.picture.noise import layers
from dromikon.standins.world.detectors import Detector, Region
from dromikon.standins.world.heat import PALETTES
from dromikon.standins.world.scenes import Camera, Scene

#: How warm everything else is, and what is shown black and white, in °C.
ROOM, COLD, HOT = 21.0, 15.0, 84.0
#: People are warm, whatever they wear.
BODY = Tint(0.62, 0.62, 0.62, grey=True)


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


def heat_picture(scene: Scene, classes: np.ndarray, measured: Mapping[str, float]) -> Image.Image:
    """The scenery as it radiates."""
    warmth = [ROOM, *(measured.get(w, ROOM) if isinstance(w, str) else w for _, w in scene.warm)]
    heat = np.array(warmth, np.float32)[classes] + _unevenness()
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


def mark_regions(
    picture: Image.Image, place: Camera, detectors: Iterable[Detector], measured: Callable[[str], float | None]
) -> None:
    """Each measured region with its temperature, as such cameras burn it in."""
    pen = ImageDraw.Draw(picture)
    for region in detectors:
        if not isinstance(region, Region) or region.sort != "heat":
            continue
        corners = [((x + 1) / 2 * WIDTH, (1 - y) / 2 * HEIGHT) for x, y in region.seen]
        value = measured(region.point)
        pen.line([*corners, corners[0]], fill=(235, 235, 235), width=2)
        text = f"{region.name}  {value:.1f} °C" if value is not None else region.name
        pen.text((min(x for x, _ in corners), max(y for _, y in corners) + 20), text, font=font(), fill=(255, 255, 255), anchor="ls",
                 stroke_width=2, stroke_fill=(18, 20, 22))  # fmt: skip
