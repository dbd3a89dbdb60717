"""One frame of a camera at a moment: lit scenery from the cache, moving things on top, name and time burnt in."""

import io
import math
import os
import threading
from collections import OrderedDict
from concurrent.futures import ProcessPoolExecutor
from datetime import UTC, datetime
from functools import lru_cache
from multiprocessing import active_children, get_context, parent_process
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFilter, ImageFont

from dromikon.standins.picture.cast import FAR, Surface, cast
from dromikon.standins.picture.figures import Figure, Tint, draw
from dromikon.standins.picture.lighting import lit, sun_strength
from dromikon.standins.world.days import ZONE
from dromikon.standins.world.scenes import SCENES, VIEWS, Camera
from dromikon.standins.world.sky import Light, light
from dromikon.standins.world.world import World

WIDTH, HEIGHT = 960, 540
#: Scenery is cast larger and shrunk, for smooth edges.
CAST_WIDTH, CAST_HEIGHT = 1280, 720


class Studio:
    """Draws frames. Lit scenery is kept on disk and the last few in memory."""

    def __init__(self, world: World, cache: Path | None = None, apart: bool = False) -> None:
        """`apart`: light scenery in a process of its own, so that frames go on meanwhile."""
        self.world, self._cache = world, cache
        self._pool = ProcessPoolExecutor(1, get_context("spawn"), _end_with_parent) if apart else None
        #: `drawn`: every camera's present scenery is there.
        self.closed, self.drawn, self.warm = threading.Event(), threading.Event(), False
        self._depths: dict[str, np.ndarray] = {}
        self._lit: OrderedDict[tuple[str, Light], Image.Image] = OrderedDict()
        self._making: dict[tuple[str, Light], threading.Lock] = {}
        self._recent: OrderedDict[tuple[str, int, int, int], bytes] = OrderedDict()
        self._lock = threading.Lock()

    def close(self) -> None:
        """End the process beside, if there is one."""
        self.closed.set()
        if self._pool is not None:
            self._pool.shutdown(wait=False, cancel_futures=True)
            for child in active_children():
                child.terminate()

    def frame(self, camera: str, at: int) -> Image.Image:
        """The picture of a camera at an instant, 960×540."""
        view = self.world.view(camera, at)
        place = VIEWS[view]
        now = light(at, self.world.seed)
        picture = self.scenery(view, now).copy()
        depth = self.depth(view)
        tint = _tint(now)
        self._open_doors(picture, place, at, now)
        figures = []
        for actor in self.world.present(place.scene, at):
            here = actor.at(at)
            figure = draw(actor, here, place.lens, tint, WIDTH, HEIGHT, 0.0) if here else None
            if figure:
                figures.append(figure)
        for figure in sorted(figures, key=lambda f: -f.depth):
            _shade_ground(picture, figure, now, place)
            _paste(picture, figure, depth)
        self._relay_lamp(picture, place, at, now)
        _burn_in(picture, place.title, at)
        return picture

    def jpeg(self, camera: str, at: int, width: int = WIDTH, quality: int = 82) -> bytes:
        """The picture as JPEG, scaled to `width`. The last ones are kept, since several people watch one camera."""
        key = camera, at, width, quality
        with self._lock:
            if key in self._recent:
                return self._recent[key]
        made = self._jpeg(camera, at, width, quality)
        with self._lock:
            # What is provoked now belongs to the future only; a drawn moment stays as it was.
            self._recent[key] = made
            while len(self._recent) > 64:
                self._recent.popitem(last=False)
        return made

    def _jpeg(self, camera: str, at: int, width: int, quality: int) -> bytes:
        picture = self.frame(camera, at)
        if width < WIDTH:
            picture = picture.resize((width, width * HEIGHT // WIDTH), Image.Resampling.BILINEAR, reducing_gap=2.0)
        out = io.BytesIO()
        picture.save(out, "JPEG", quality=quality)
        return out.getvalue()

    def scenery(self, camera: str, now: Light) -> Image.Image:
        """The scenery of a camera, or of a view of one, in a light: drawn once, then kept."""
        key = camera, now
        with self._lock:
            if key in self._lit:
                self._lit.move_to_end(key)
                return self._lit[key]
            making = self._making.setdefault(key, threading.Lock())
        # One light is drawn once, and while it is, other cameras go on.
        with making:
            if key in self._lit:
                return self._lit[key]
            name = f"{camera}_{now.height}_{now.side}_{now.cloud}.png"
            kept = self._cache / name if self._cache else None
            picture = Image.open(kept).convert("RGB") if kept and kept.exists() else self._light_up(camera, now)
            if kept and not kept.exists():
                kept.parent.mkdir(parents=True, exist_ok=True)
                picture.save(kept, compress_level=1)
            with self._lock:
                self._lit[key] = picture
                self._making.pop(key, None)
                if len(self._lit) > 24:
                    self._lit.popitem(last=False)
            return picture

    def depth(self, camera: str) -> np.ndarray:
        """Depth of the scenery at each pixel, in metres."""
        if camera not in self._depths:
            kept = self._cache / f"{camera}_depth.npy" if self._cache else None
            if kept and kept.exists():
                self._depths[camera] = np.load(kept)
            else:
                # In the process beside, which has cast the scene already.
                self._depths[camera] = self._pool.submit(_depth, camera).result() if self._pool else _depth(camera)
                if kept:
                    kept.parent.mkdir(parents=True, exist_ok=True)
                    np.save(kept, self._depths[camera])
        return self._depths[camera]

    def _light_up(self, camera: str, now: Light) -> Image.Image:
        lit_up = self._pool.submit(_light_up, camera, now).result() if self._pool else _light_up(camera, now)
        return Image.fromarray(lit_up).resize((WIDTH, HEIGHT), Image.Resampling.LANCZOS)

    def _open_doors(self, picture: Image.Image, place: Camera, at: int, now: Light) -> None:
        """The dark of an opening where a door stands open, and its leaf turned inwards."""
        for door, corners in SCENES[place.scene].leaves:
            seen = [place.lens.project(*corner, WIDTH, HEIGHT) for corner in corners]
            if any(p is None for p in seen) or not self.world.door_open(door, at):
                continue
            (x0, y0), (x1, y1), (x2, y2), (x3, y3) = [(p[0], p[1]) for p in seen if p]
            pen, tint = ImageDraw.Draw(picture), _tint(now)
            pen.polygon([(x0, y0), (x1, y1), (x2, y2), (x3, y3)], fill=tint.of("#15181b"))
            turned, drop = 0.22 * (x1 - x0), 0.06 * (y0 - y3)
            leaf = [(x0, y0), (x0 + turned, y0 - drop), (x3 + turned, y3 + drop), (x3, y3)]
            pen.polygon(leaf, fill=tint.of("#6f7b7f"))

    def _relay_lamp(self, picture: Image.Image, place: Camera, at: int, now: Light) -> None:
        lamp = SCENES[place.scene].relay_lamp
        if lamp is None or not any(self.world.relay(place.id, r, at) for r in place.relays):
            return
        spot = place.lens.project(*lamp, WIDTH, HEIGHT)
        if spot is None:
            return
        radius = 90 if now.night else 34
        glow = _glow(radius)
        warm = Image.new("RGB", glow.size, (255, 255, 250) if now.night else (255, 214, 140))
        picture.paste(warm, (round(spot[0]) - radius, round(spot[1]) - radius), glow)


def _end_with_parent() -> None:
    """A process that lights scenery must not outlive the stand-ins, however they end."""

    def watch() -> None:
        parent = parent_process()
        if parent is not None:
            parent.join()
        os._exit(0)

    threading.Thread(target=watch, daemon=True).start()


@lru_cache(maxsize=8)
def _surface(camera: str) -> Surface:
    place = VIEWS[camera]
    return cast(SCENES[place.scene], place.lens, CAST_WIDTH, CAST_HEIGHT)


def _depth(camera: str) -> np.ndarray:
    surface = _surface(camera)
    rows = np.arange(HEIGHT) * CAST_HEIGHT // HEIGHT
    columns = np.arange(WIDTH) * CAST_WIDTH // WIDTH
    return np.minimum(surface.depth, FAR)[rows][:, columns].astype(np.float32)


def _light_up(camera: str, now: Light) -> np.ndarray:
    place = VIEWS[camera]
    lens = place.lens
    return lit(SCENES[place.scene], _surface(camera), now, (lens.x, lens.y, lens.z))


@lru_cache(maxsize=4)
def _glow(radius: int) -> Image.Image:
    y, x = np.mgrid[-radius : radius + 1, -radius : radius + 1]
    r = np.hypot(x, y) / radius
    return Image.fromarray((np.clip(np.exp(-r * 5) + (r < 0.06) - 0.007, 0, 1) * 255).astype(np.uint8))


def _tint(now: Light) -> Tint:
    if now.night:
        return Tint(1.0, 1.0, 1.0, grey=True)
    bright = float(np.interp(now.height, (-4, 0, 6, 20), (0.42, 0.66, 0.92, 1.05)))
    warm = sun_strength(now) * max(0.0, 1 - now.height / 18) * 0.12
    return Tint(bright * (1 + warm), bright, bright * (1 - warm + (0.03 if now.cloud == 2 else 0)))


def _shade_ground(picture: Image.Image, figure: Figure, now: Light, place: Camera) -> None:
    """A soft shadow: below the feet under clouds, long and to the side in the sun."""
    left, top, right, bottom = figure.box
    wide, tall = right - left, bottom - top
    strength = sun_strength(now)
    reach = min(2.6, 1 / math.tan(math.radians(max(now.height, 14)))) if strength else 0.0
    away = math.radians(now.side - place.lens.looks + 180)
    dx, dy = math.sin(away) * reach * tall, -math.cos(away) * reach * tall * 0.32
    pad = 6
    x0, x1 = min(left, left + dx) - pad, max(right, right + dx) + pad
    y0, y1 = bottom + min(0, dy) - wide * 0.25 - pad, bottom + max(0, dy) + wide * 0.25 + pad
    size = (max(2, round(x1 - x0)), max(2, round(y1 - y0)))
    if size[0] > WIDTH or size[1] > HEIGHT:
        return
    mask = Image.new("L", size, 0)
    pen = ImageDraw.Draw(mask)
    middle, base = (left + right) / 2 - x0, bottom - y0
    pen.ellipse(
        (middle - wide * 0.5, base - wide * 0.14, middle + wide * 0.5, base + wide * 0.14),
        fill=100 if not now.night else 60,
    )
    if strength:
        half = wide * 0.3
        pen.polygon(
            [
                (middle - half, base),
                (middle + half, base),
                (middle + dx + half * 0.7, base + dy),
                (middle + dx - half * 0.7, base + dy),
            ],
            fill=int(95 * strength) + 30,
        )
    mask = mask.filter(ImageFilter.BoxBlur(max(1.0, wide * 0.05)))
    picture.paste((14, 18, 24), (round(x0), round(y0)), mask)


def _paste(picture: Image.Image, figure: Figure, depth: np.ndarray) -> None:
    """Put a figure into the picture, behind whatever scenery is nearer."""
    image = figure.image
    x0, y0 = max(0, figure.left), max(0, figure.top)
    x1, y1 = min(WIDTH, figure.left + image.width), min(HEIGHT, figure.top + image.height)
    if x0 >= x1 or y0 >= y1:
        return
    part = image.crop((x0 - figure.left, y0 - figure.top, x1 - figure.left, y1 - figure.top))
    hidden = depth[y0:y1, x0:x1] < figure.depth - 0.6
    alpha = part.getchannel("A")
    if hidden.any():
        alpha = Image.fromarray(np.where(hidden, 0, np.asarray(alpha)).astype(np.uint8))
    picture.paste(part.convert("RGB"), (x0, y0), alpha)


@lru_cache(maxsize=1)
def _font() -> ImageFont.ImageFont | ImageFont.FreeTypeFont:
    return ImageFont.load_default(17)


def _burn_in(picture: Image.Image, title: str, at: int) -> None:
    wall = datetime.fromtimestamp(at / 1000, UTC).astimezone(ZONE)
    pen = ImageDraw.Draw(picture)
    for text, anchor, x in (
        (title, "ls", 14),
        (f"{wall:%Y-%m-%d  %H:%M:%S}.{wall.microsecond // 100_000}", "rs", WIDTH - 14),
    ):
        pen.text(
            (x, HEIGHT - 14),
            text,
            font=_font(),
            fill=(244, 244, 238),
            anchor=anchor,
            stroke_width=2,
            stroke_fill=(18, 20, 22),
        )
