"""One frame of a camera at a moment: lit scenery from the cache, moving things on top, name and time burnt in."""

import io
import os
import threading
from collections import OrderedDict
from concurrent.futures import ProcessPoolExecutor
from functools import lru_cache
from multiprocessing import active_children, get_context, parent_process
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFilter

from dromikon.standins.picture.cast import FAR, Surface, cast
from dromikon.standins.picture.compose import HEIGHT, WIDTH, burn_in, glow_of, paste, shade_ground, tint_of
from dromikon.standins.picture.drawing import Figure, Tint
from dromikon.standins.picture.figures import draw
from dromikon.standins.picture.lighting import lit
from dromikon.standins.picture.rain import rain_over
from dromikon.standins.picture.thermal import (
    BODY,
    BODY_WARMTH,
    coloured,
    covered,
    heat_picture,
    mark_regions,
    warm_things,
    warmth,
)
from dromikon.standins.world.detectors import Region
from dromikon.standins.world.scenes import CAMERAS, SCENES, VIEWS, Camera
from dromikon.standins.world.sky import Light, raining
from dromikon.standins.world.world import World

#: Scenery is cast larger and shrunk, for smooth edges.
CAST_WIDTH, CAST_HEIGHT = 1280, 720
#: How wide the cameras' own pictures are, for whoever wants to see who it is.
LARGE = 1920


class Studio:
    """Draws frames. Lit scenery is kept on disk and the last few in memory."""

    def __init__(self, world: World, cache: Path | None = None, apart: bool = False) -> None:
        """`apart`: light scenery in a process of its own, so that frames go on meanwhile."""
        self.world, self._cache = world, cache
        self._pool = ProcessPoolExecutor(1, get_context("spawn"), _end_with_parent) if apart else None
        #: `drawn`: every camera's present scenery is there.
        self.closed, self.drawn, self.warm = threading.Event(), threading.Event(), False
        self._depths: dict[str, np.ndarray] = {}
        self._warm: dict[str, np.ndarray] = {}
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

    def frame(self, camera: str, at: int, scale: int = 1) -> Image.Image:
        """The picture of a camera at an instant, 960×540, or so many times as large: what moves is drawn as large, the
        scenery is enlarged."""
        view = self.world.view(camera, at)
        place = VIEWS[view]
        now = self.world.light(place.scene, at)
        if place.thermal:
            return _larger(self._thermal(place, view, at), scale)
        picture = _larger(self.scenery(view, now), scale)
        depth = self.depth(view)
        if scale > 1:
            depth = depth.repeat(scale, axis=0).repeat(scale, axis=1)
        tint = tint_of(now)
        self._open_doors(picture, place, at, now)
        self._puddles(picture, place, at, now)
        for figure in self.figures(place, at, tint, scale):
            shade_ground(picture, figure, now, place)
            paste(picture, figure, depth)
        self._glows(picture, place, at, now)
        if not SCENES[place.scene].roof and raining(at, self.world.seed):
            picture = rain_over(picture, at, now.night)
        burn_in(picture, place.title, at)
        return picture

    def _thermal(self, place: Camera, view: str, at: int) -> Image.Image:
        """Heat instead of light."""
        field = self._warmth(place, view, at)
        picture = heat_picture(field)
        for figure in self.figures(place, at, BODY):
            paste(picture, figure, self.depth(view))
        measuring = self.world.measuring(place.id, at)
        picture = coloured(picture, measuring.palette)
        self._mark_regions(picture, place, field, at)
        burn_in(picture, place.title, at)
        return picture

    def heat(self, camera: str, at: int) -> np.ndarray:
        """How warm it is at each pixel of a thermal camera's picture, people before it included, in °C: (height, width)."""
        view = self.world.view(camera, at)
        place = VIEWS[view]
        field, people = self._warmth(place, view, at).copy(), Image.new("RGB", (WIDTH, HEIGHT))
        for figure in self.figures(place, at, BODY):
            paste(people, figure, self.depth(view))
        field[np.asarray(people)[..., 0] > 0] = BODY_WARMTH
        return field

    def _mark_regions(self, picture: Image.Image, place: Camera, field: np.ndarray, at: int) -> None:
        known, measuring = self._measured(place, at), self.world.measuring(place.id, at)
        read: dict[Region, float | None] = {}
        for region in self.world.detectors(place.id, at):
            if isinstance(region, Region) and region.sort.startswith("heat"):
                drawn_afterwards = float(field[covered(region, picture.size)].max())
                value = known.get(region.point) if region.point else drawn_afterwards
                read[region] = None if value is None else measuring.reads(value)
        mark_regions(picture, read)

    def _warmth(self, place: Camera, view: str, at: int) -> np.ndarray:
        if view not in self._warm:
            self._warm[view] = warm_things(SCENES[place.scene], _surface(view), (HEIGHT, WIDTH))
        return warmth(SCENES[place.scene], self._warm[view], self._measured(place, at))

    def _measured(self, place: Camera, at: int) -> dict[str, float]:
        """How warm the garden's instruments find what is warm there."""
        points = (point for _, point in SCENES[place.scene].warm if isinstance(point, str))
        return {p: value for p in points if (value := self.world.measured(p, at)) is not None}

    def figures(self, place: Camera, at: int, tint: Tint, scale: int = 1) -> list[Figure]:
        """Everybody in the picture, the farthest first."""
        here = ((actor, actor.at(at)) for actor in self.world.present(place.scene, at))
        drawn = (
            draw(actor, where, place.lens, tint, WIDTH * scale, HEIGHT * scale, 0.0) for actor, where in here if where
        )
        return sorted((f for f in drawn if f), key=lambda f: -f.depth)

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
        picture = self.frame(camera, at, LARGE // WIDTH if width > WIDTH else 1)
        if width < picture.width:
            picture = picture.resize((width, width * HEIGHT // WIDTH), Image.Resampling.BILINEAR, reducing_gap=2.0)
        out = io.BytesIO()
        picture.save(out, "JPEG", quality=quality)
        return out.getvalue()

    def prepare(self, camera: str, at: int) -> None:
        """Draw whatever of a view's picture can be drawn ahead of an instant. A room needs both its lights."""
        place = VIEWS[camera]
        if not place.thermal:
            for now in self.world.lights(place.scene, at):
                self.scenery(camera, now)
        self.depth(camera)

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
            seen = [place.lens.project(*corner, *picture.size) for corner in corners]
            if any(p is None for p in seen) or not self.world.door_open(door, at):
                continue
            (x0, y0), (x1, y1), (x2, y2), (x3, y3) = [(p[0], p[1]) for p in seen if p]
            pen, tint = ImageDraw.Draw(picture), tint_of(now)
            pen.polygon([(x0, y0), (x1, y1), (x2, y2), (x3, y3)], fill=tint.of("#15181b"))
            turned, drop = 0.22 * (x1 - x0), 0.06 * (y0 - y3)
            leaf = [(x0, y0), (x0 + turned, y0 - drop), (x3 + turned, y3 + drop), (x3, y3)]
            pen.polygon(leaf, fill=tint.of("#6f7b7f"))

    def _glows(self, picture: Image.Image, place: Camera, at: int, now: Light) -> None:
        """What is seen of relays that are on."""
        for glow in SCENES[place.scene].glows:
            spot = place.lens.project(*glow.place, *picture.size)
            if spot is None or not self._is_on(place.scene, glow.relay, at):
                continue
            scale, metre = picture.width / WIDTH, place.lens.focal(picture.width) / spot[2]
            radius = round(min(260.0 * scale, max(14.0 * scale, glow.radius * metre)) * (2.6 if now.night else 1.0))
            shape = glow_of(radius)
            colour = (255, 255, 250) if now.night else glow.colour
            lit = Image.new("RGB", shape.size, colour)
            picture.paste(lit, (round(spot[0]) - radius, round(spot[1]) - radius), shape)

    def _is_on(self, scene: str, relay: str, at: int) -> bool:
        """Whether any camera of a scene has switched a relay on."""
        owners = (c.id for c in CAMERAS.values() if c.scene == scene and relay in c.relays)
        return any(self.world.relay(owner, relay, at) for owner in owners)

    def _puddles(self, picture: Image.Image, place: Camera, at: int, now: Light) -> None:
        """Water that stands where it should not."""
        for puddle in SCENES[place.scene].puddles:
            seen = [place.lens.project(x, y, 0.01, *picture.size) for x, y in puddle.outline]
            if None in seen or not self.world.input_on(puddle.point, at):
                continue
            corners = [(p[0], p[1]) for p in seen if p]
            mask = Image.new("L", picture.size, 0)
            ImageDraw.Draw(mask).polygon(corners, fill=190)
            mask = mask.filter(ImageFilter.GaussianBlur(5))
            tint = tint_of(now)
            picture.paste(Image.new("RGB", picture.size, tint.of("#2b3d47")), (0, 0), mask)
            shine = mask.filter(ImageFilter.GaussianBlur(9)).point(lambda v: max(0, v - 150) * 2)
            picture.paste(Image.new("RGB", picture.size, tint.of("#a9bcc4")), (0, 0), shine)


def _larger(picture: Image.Image, scale: int) -> Image.Image:
    """A picture of its own, so many times as large."""
    if scale == 1:
        return picture.copy()
    return picture.resize((picture.width * scale, picture.height * scale), Image.Resampling.BICUBIC)


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
