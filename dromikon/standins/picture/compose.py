"""What lies over the scenery of a picture: figures with their shadows, glows, the name and the time."""

import math
from datetime import UTC, datetime
from functools import lru_cache

import numpy as np
from PIL import Image, ImageDraw, ImageFilter, ImageFont

from dromikon.standins.picture.drawing import Figure, Tint
from dromikon.standins.picture.lighting import sun_strength
from dromikon.standins.world.calendar import ZONE
from dromikon.standins.world.scenes import Camera
from dromikon.standins.world.sky import Light

WIDTH, HEIGHT = 960, 540


@lru_cache(maxsize=4)
def glow_of(radius: int) -> Image.Image:
    y, x = np.mgrid[-radius : radius + 1, -radius : radius + 1]
    r = np.hypot(x, y) / radius
    return Image.fromarray((np.clip(np.exp(-r * 5) + (r < 0.06) - 0.007, 0, 1) * 255).astype(np.uint8))


def tint_of(now: Light) -> Tint:
    if now.night:
        return Tint(1.0, 1.0, 1.0, grey=True)
    bright = float(np.interp(now.height, (-4, 0, 6, 20), (0.42, 0.66, 0.92, 1.05)))
    warm = sun_strength(now) * max(0.0, 1 - now.height / 18) * 0.12
    return Tint(bright * (1 + warm), bright, bright * (1 - warm + (0.03 if now.cloud == 2 else 0)))


def shade_ground(picture: Image.Image, figure: Figure, now: Light, place: Camera) -> None:
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
    if size[0] > picture.width or size[1] > picture.height:
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


def paste(picture: Image.Image, figure: Figure, depth: np.ndarray) -> None:
    """Put a figure into the picture, behind whatever scenery is nearer."""
    image = figure.image
    x0, y0 = max(0, figure.left), max(0, figure.top)
    x1, y1 = min(picture.width, figure.left + image.width), min(picture.height, figure.top + image.height)
    if x0 >= x1 or y0 >= y1:
        return
    part = image.crop((x0 - figure.left, y0 - figure.top, x1 - figure.left, y1 - figure.top))
    hidden = depth[y0:y1, x0:x1] < figure.depth - 0.6
    alpha = part.getchannel("A")
    if hidden.any():
        alpha = Image.fromarray(np.where(hidden, 0, np.asarray(alpha)).astype(np.uint8))
    picture.paste(part.convert("RGB"), (x0, y0), alpha)


@lru_cache(maxsize=2)
def font(size: int = 17) -> ImageFont.ImageFont | ImageFont.FreeTypeFont:
    return ImageFont.load_default(size)


def burn_in(picture: Image.Image, title: str, at: int) -> None:
    wall = datetime.fromtimestamp(at / 1000, UTC).astimezone(ZONE)
    pen, scale = ImageDraw.Draw(picture), picture.width // WIDTH
    for text, anchor, x in (
        (title, "ls", 14 * scale),
        (f"{wall:%Y-%m-%d  %H:%M:%S}.{wall.microsecond // 100_000}", "rs", picture.width - 14 * scale),
    ):
        pen.text(
            (x, picture.height - 14 * scale),
            text,
            font=font(17 * scale),
            fill=(244, 244, 238),
            anchor=anchor,
            stroke_width=2 * scale,
            stroke_fill=(18, 20, 22),
        )
