"""Rain before a camera: streaks that are others in each picture, and less to be seen behind them. It costs hardly more than a picture
without: many are drawn each second."""

import random

from PIL import Image, ImageDraw

#: So many streaks, and for how long, in ms, they stand where they are.
STREAKS, LASTS = 150, 80
#: What is left of the light of the scenery, and what comes to it from the rain, of 255.
THROUGH, VEIL = 0.90, 15
#: How light streaks are, from far ones to near ones; by night they shine in the camera's own lamp.
DAY, NIGHT = (150, 196), (96, 170)
_VEILED = [min(255, round(value * THROUGH + VEIL)) for value in range(256)] * 3


def rain_over(picture: Image.Image, at: int, night: bool) -> Image.Image:
    """The picture of an instant with rain in it."""
    wet = picture if night else picture.point(_VEILED)
    pen, scale, rnd = ImageDraw.Draw(wet), picture.width / 960, random.Random(at // LASTS)
    dull, bright = NIGHT if night else DAY
    for _ in range(STREAKS):
        x, y, near = rnd.random() * wet.width, rnd.random() * wet.height, rnd.random() ** 2
        long, light = (6 + 22 * near) * scale, round(dull + (bright - dull) * near)
        pen.line((x, y, x - long * 0.12, y + long), fill=(light, light + 3, light + 6), width=max(1, round(scale)))
    return wet
