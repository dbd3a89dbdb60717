"""Portraits, as for a pass."""

from PIL import Image, ImageDraw

from dromikon.standins.faces.features import Features
from dromikon.standins.faces.head import draw_head
from dromikon.standins.picture.drawing import Colour, Tint

#: How large a portrait is, in pixels, and what lies behind.
SIZE, BEHIND, JACKET = 480, "#c9ced2", "#4b5a66"
DAYLIGHT = Tint(1.0, 1.0, 1.0)


def portrait(of: Features, size: int = SIZE, covered: bool = False) -> Image.Image:
    """Somebody's head and shoulders."""
    large = Image.new("RGB", (size * 2, size * 2), BEHIND)
    pen = ImageDraw.Draw(large)
    middle, centre, half = float(size), size * 0.88, size * 0.56
    pen.rectangle((middle - half * 0.4, centre, middle + half * 0.4, size * 2), fill=DAYLIGHT.of(of.skin, 0.82))
    pen.ellipse((middle - half * 1.7, centre + half * 1.25, middle + half * 1.7, size * 3), fill=JACKET)
    draw_head(pen, middle, centre, half, of, _shade, covered)
    return large.resize((size, size), Image.Resampling.LANCZOS)


def _shade(code: str, factor: float) -> Colour:
    return DAYLIGHT.of(code, factor)
