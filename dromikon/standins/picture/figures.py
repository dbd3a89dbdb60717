"""Moving things as small drawings: people that walk, vans that drive, geese and a fox. Each is drawn larger and
shrunk, so that edges are smooth, and is tinted by the light it stands in."""

import math
import random

from PIL import Image, ImageDraw, ImageFont

from dromikon.standins.faces.features import features_of
from dromikon.standins.faces.head import draw_head
from dromikon.standins.picture.above import person_from_above
from dromikon.standins.picture.clothes import clothes_of
from dromikon.standins.picture.drawing import Figure, Tint, canvas, limb
from dromikon.standins.world.geometry import Lens
from dromikon.standins.world.tracks import Actor, Where
from dromikon.standins.world.tracks import tall as tall_of

#: A camera that looks down more steeply than this, in degrees, sees heads and shoulders.
STEEP = 65
#: From so many pixels a metre on one sees faces.
NEAR = 110
BAGS = ("#3a1712", "#12222e", "#2a2616")
VANS = ("#d8dad6", "#3d5866", "#7d8a4a", "#b9b2a2")


def draw(actor: Actor, here: Where, lens: Lens, tint: Tint, width: int, height: int, ground: float) -> Figure | None:
    """The figure of an actor, or None when it is out of the picture."""
    z = here.z + ground
    foot = lens.project(here.x, here.y, z, width, height)
    if foot is None or foot[2] < 1.5:
        return None
    metre = lens.focal(width) / foot[2]
    if not (-3 * metre < foot[0] < width + 3 * metre and -metre < foot[1] < height + 4 * metre):
        return None
    if actor.cls == "vehicle":
        return _van(actor, here, lens, tint, width, height, foot[2])
    if lens.tilt > STEEP and actor.cls == "human":
        return person_from_above(actor, here, lens, tint, (width, height))
    view = math.atan2(here.y - lens.y, here.x - lens.x)
    # 1 walks to the right of the picture, 0 towards or away from the camera.
    sideways = math.sin(view - here.heading)
    towards = math.cos(view - here.heading) < 0
    painter = {"animal": _animal, "thing": _bag}.get(actor.cls, _person)
    return painter(actor, here, foot, metre, sideways, towards, tint)


def _person(
    actor: Actor,
    here: Where,
    foot: tuple[float, float, float],
    metre: float,
    sideways: float,
    towards: bool,
    tint: Tint,
) -> Figure:
    tall = tall_of(actor.look)
    coat, trousers, hair, skin, bag, hat, long_coat = clothes_of(actor.look)
    scale = 3 if metre * tall < 130 else 2
    m = metre * scale
    image, pen = canvas(metre * 1.3, metre * tall * 1.06, scale)
    middle, base = image.width / 2, image.height - 1.0
    swing = math.sin(here.walked * math.tau / 1.45) if here.moving else 0.12
    reach = (0.16 + 0.84 * abs(sideways)) * 0.33 * swing
    way = 1 if sideways >= 0 else -1
    hip, shoulder = base - 0.49 * tall * m, base - 0.815 * tall * m
    half = (0.155 + 0.05 * (1 - abs(sideways))) * m
    lift = 0.05 * m * abs(swing)
    apart = 0.085 * m * (1 - abs(sideways))
    back, front = tint.of(trousers, 0.72), tint.of(trousers)
    for side, colour in ((-1, back), (1, front)):
        x = middle + side * apart
        toe = x + side * reach * m * way
        knee = ((x + toe) / 2 + 0.05 * m * way * abs(sideways), (hip + base) / 2)
        heel = base - 0.05 * m - (lift if side * swing < 0 else 0)
        limb(pen, [(x, hip), knee, (toe, heel)], 0.145 * m, colour)
        pen.ellipse(
            (toe - 0.09 * m, heel - 0.03 * m, toe + 0.09 * m + 0.06 * m * way * abs(sideways), heel + 0.055 * m),
            fill=tint.of("#1b1a1a"),
        )
    limb(
        pen,
        [(middle - half * 0.9, shoulder + 0.06 * m), (middle - half - reach * 0.6 * m, hip - 0.03 * m)],
        0.105 * m,
        tint.of(coat, 0.68),
    )
    hem = hip + (0.24 * m if long_coat else 0.06 * m)
    waist = half * 0.9
    pen.polygon(
        [(middle - half, shoulder + 0.05 * m), (middle - half * 0.55, shoulder - 0.015 * m), (middle + half * 0.55, shoulder - 0.015 * m),
         (middle + half, shoulder + 0.05 * m), (middle + waist, hip - 0.04 * m), (middle + half * 1.02, hem), (middle - half * 1.02, hem), (middle - waist, hip - 0.04 * m)],
        fill=tint.of(coat),
    )  # fmt: skip
    pen.polygon(
        [
            (middle + half * 0.25, shoulder),
            (middle + half, shoulder + 0.05 * m),
            (middle + half * 1.02, hem),
            (middle + half * 0.4, hem),
        ],
        fill=tint.of(coat, 0.82),
    )
    limb(
        pen,
        [(middle + half * 0.9, shoulder + 0.06 * m), (middle + half + reach * 0.6 * m, hip - 0.03 * m)],
        0.105 * m,
        tint.of(coat, 0.88),
    )
    if bag:
        pen.rounded_rectangle(
            (middle - half * 1.25, shoulder + 0.12 * m, middle - half * 0.35, hip - 0.02 * m),
            0.05 * m,
            fill=tint.of("#4b3a2a"),
        )
    head, r = shoulder - 0.155 * m, 0.118 * m
    pen.rectangle((middle - 0.05 * m, head, middle + 0.05 * m, shoulder), fill=tint.of(skin, 0.8))
    if towards and metre > NEAR:
        draw_head(pen, middle, head, r, features_of(actor.look), tint.of)
    else:
        seen = tint.of(skin) if towards else tint.of(hair)
        pen.ellipse((middle - r * 0.86, head - r, middle + r * 0.86, head + r), fill=seen)
        box = (middle - r * 0.95, head - r * 1.1, middle + r * 0.95, head + r * 0.95)
        pen.pieslice(box, 178, 362, fill=tint.of(hair))
    if hat:
        pen.pieslice((middle - r, head - r * 1.35, middle + r, head + r * 0.7), 178, 362, fill=tint.of(coat, 0.6))
    return _placed(image, scale, foot, metre * tall)


def _bag(
    actor: Actor,
    here: Where,
    foot: tuple[float, float, float],
    metre: float,
    sideways: float,
    towards: bool,
    tint: Tint,
) -> Figure:
    """A holdall that somebody has put down."""
    tall, scale = 0.46, 4
    image, pen = canvas(metre * 0.6, metre * tall * 1.1, scale)
    m = metre * scale
    middle, base = image.width / 2, image.height - 1.0
    half, top = 0.24 * m, base - 0.32 * m
    colour = BAGS[actor.look % len(BAGS)]
    pen.arc((middle - 0.13 * m, base - tall * m, middle + 0.13 * m, top + 0.1 * m), 180, 360, fill=tint.of(colour, 0.5),
            width=max(1, round(0.03 * m)))  # fmt: skip
    pen.rounded_rectangle((middle - half, top, middle + half, base), 0.06 * m, fill=tint.of(colour))
    pen.rectangle((middle - half, top + 0.12 * m, middle + half, top + 0.15 * m), fill=tint.of(colour, 0.6))
    return _placed(image, scale, foot, metre * tall)


def _animal(
    actor: Actor,
    here: Where,
    foot: tuple[float, float, float],
    metre: float,
    sideways: float,
    towards: bool,
    tint: Tint,
) -> Figure:
    goose = actor.look % 10 != 7
    scale = 4
    m = metre * scale * (0.92 if goose else 1.05)
    image, pen = canvas(metre * 1.3, metre * 0.95, scale)
    middle, base = image.width / 2, image.height - 1.0
    way = 1 if sideways >= 0 else -1
    long = 0.22 * m * (0.45 + 0.55 * abs(sideways))
    body, dark = ("#8d8577", "#4a443c") if goose else ("#a8602f", "#3a2a20")
    afloat = here.z < 0
    top = base - (0.16 if afloat else 0.34) * m
    if not afloat:
        swing = math.sin(here.walked * math.tau / 0.5) * 0.06 * m if here.moving else 0
        for dx in (-0.05, 0.06) if goose else (-0.18, -0.12, 0.13, 0.19):
            limb(
                pen,
                [(middle + dx * m, top), (middle + dx * m + swing * way, base)],
                0.035 * m,
                tint.of("#b3622d" if goose else dark),
            )
    pen.ellipse((middle - long, top - 0.13 * m, middle + long, top + 0.13 * m), fill=tint.of(body))
    pen.ellipse(
        (middle - long * 0.8, top - 0.02 * m, middle + long * 0.7, top + 0.13 * m),
        fill=tint.of("#d9d4c6" if goose else "#c98a58"),
    )
    pen.polygon(
        [
            (middle - way * long * 0.7, top - 0.05 * m),
            (middle - way * long * 1.35, top - 0.09 * m),
            (middle - way * long * 0.7, top + 0.06 * m),
        ],
        fill=tint.of(dark),
    )
    neck = middle + way * long * 0.85
    head = top - (0.34 if goose else 0.17) * m
    if goose:
        limb(
            pen,
            [
                (neck - way * 0.04 * m, top - 0.05 * m),
                (neck + way * 0.01 * m, head + 0.06 * m),
                (neck + way * 0.03 * m, head),
            ],
            0.075 * m,
            tint.of(dark),
        )
        pen.polygon(
            [
                (neck + way * 0.06 * m, head - 0.03 * m),
                (neck + way * 0.17 * m, head + 0.02 * m),
                (neck + way * 0.06 * m, head + 0.05 * m),
            ],
            fill=tint.of("#c46f2e"),
        )
    else:
        pen.ellipse((neck - 0.1 * m, head - 0.07 * m, neck + 0.1 * m, head + 0.09 * m), fill=tint.of(body))
        pen.polygon(
            [
                (neck + way * 0.05 * m, head - 0.02 * m),
                (neck + way * 0.2 * m, head + 0.05 * m),
                (neck + way * 0.05 * m, head + 0.08 * m),
            ],
            fill=tint.of(body, 0.8),
        )
    return _placed(image, scale, foot, metre * (0.7 if goose else 0.6))


def _placed(image: Image.Image, scale: int, foot: tuple[float, float, float], tall: float) -> Figure:
    small = image.resize((max(1, image.width // scale), max(1, image.height // scale)), Image.Resampling.BOX)
    left, top = round(foot[0] - small.width / 2), round(foot[1] - small.height + 1)
    return Figure(small, left, top, foot[2], (foot[0] - tall * 0.2, foot[1] - tall, foot[0] + tall * 0.2, foot[1]))


def _van(actor: Actor, here: Where, lens: Lens, tint: Tint, width: int, height: int, depth: float) -> Figure | None:
    """A delivery van as a body and a cab, faces drawn from far to near."""
    paint = random.Random(actor.look).choice(VANS)
    c, s = math.cos(here.heading), math.sin(here.heading)

    def place(forward: float, side: float, up: float) -> tuple[float, float, float]:
        return here.x + forward * c - side * s, here.y + forward * s + side * c, up

    def block(
        f0: float, f1: float, u0: float, u1: float, slope: float = 0.0
    ) -> list[tuple[list[tuple[float, float, float]], float]]:
        w = 0.95
        a = [place(f, sd, u) for f, u in ((f0, u0), (f1, u0), (f1 - slope, u1), (f0, u1)) for sd in (-w, w)]
        left, right = [a[0], a[2], a[4], a[6]], [a[1], a[3], a[5], a[7]]
        return [
            (left, 0.78),
            (right, 0.9),
            ([a[2], a[3], a[5], a[4]], 1.0),
            ([a[0], a[1], a[7], a[6]], 0.7),
            ([a[6], a[7], a[5], a[4]], 1.08),
        ]

    faces = [
        (corners, tint.of(paint, k)) for corners, k in block(-2.5, 1.0, 0.35, 2.35) + block(1.0, 2.5, 0.35, 1.95, 0.75)
    ]
    w = 0.96
    glass = tint.of("#26323a")
    details = [
        ([place(2.42, sd, 1.2) for sd in (-0.8, 0.8)] + [place(1.82, sd, 1.88) for sd in (0.8, -0.8)], glass),
        *(
            ([place(1.15, sd, 1.2), place(2.1, sd, 1.2), place(1.75, sd, 1.8), place(1.15, sd, 1.8)], glass)
            for sd in (-w, w)
        ),
        (
            [place(-2.51, -0.8, 1.3), place(-2.51, -0.08, 1.3), place(-2.51, -0.08, 1.95), place(-2.51, -0.8, 1.95)],
            glass,
        ),
        ([place(-2.51, 0.08, 1.3), place(-2.51, 0.8, 1.3), place(-2.51, 0.8, 1.95), place(-2.51, 0.08, 1.95)], glass),
    ]
    wheels = [
        [place(f + 0.36 * math.cos(t), sd, 0.36 + 0.36 * math.sin(t)) for t in (i * math.tau / 14 for i in range(14))]
        for f in (-1.6, 1.6)
        for sd in (-w, w)
    ]
    everything = [(corners, colour, 0.0) for corners, colour in faces]
    everything += [(corners, tint.of("#17181a"), 0.06) for corners in wheels] + [
        (corners, colour, 0.12) for corners, colour in details
    ]
    drawn = []
    for corners, colour, nearer in everything:
        pixels = [lens.project(*corner, width, height) for corner in corners]
        if any(p is None for p in pixels):
            return None
        away = sum(math.dist(corner, (lens.x, lens.y, lens.z)) for corner in corners) / len(corners) - nearer
        drawn.append((away, [(p[0], p[1]) for p in pixels if p], colour))
    us, vs = [u for _, ps, _ in drawn for u, _ in ps], [v for _, ps, _ in drawn for _, v in ps]
    left, top = math.floor(max(min(us), -400)) - 1, math.floor(max(min(vs), -400)) - 1
    wide, high = min(math.ceil(max(us)), width + 400) - left + 2, min(math.ceil(max(vs)), height + 400) - top + 2
    if wide <= 2 or high <= 2:
        return None
    image, pen = canvas(wide, high, 2)
    for _, points, colour in sorted(drawn, key=lambda d: -d[0]):
        pen.polygon([((u - left) * 2, (v - top) * 2) for u, v in points], fill=colour)
    if actor.sign:
        _plate(image, actor, here, lens, tint, (width, height), (left, top))
    small = image.resize((wide, high), Image.Resampling.BOX)
    return Figure(small, left, top, depth, (min(us), min(vs), max(us), max(vs)))


#: A plate, in metres.
PLATE_WIDE, PLATE_HIGH, PLATE_UP = 0.62, 0.16, 0.62


def _plate(
    image: Image.Image,
    actor: Actor,
    here: Where,
    lens: Lens,
    tint: Tint,
    size: tuple[int, int],
    corner: tuple[int, int],
) -> None:
    """The plate on the side that is turned to the camera: white in front, yellow behind."""
    c, s = math.cos(here.heading), math.sin(here.heading)
    front = (lens.x - here.x) * c + (lens.y - here.y) * s > 0
    ahead = 2.54 if front else -2.54
    seen = []
    for side, up in ((-1, 0), (1, 0), (1, 1), (-1, 1)):
        sideways = side * PLATE_WIDE / 2 * (-1 if front else 1)
        x, y = here.x + ahead * c - sideways * s, here.y + ahead * s + sideways * c
        seen.append(lens.project(x, y, PLATE_UP + up * PLATE_HIGH, *size))
    if any(p is None for p in seen):
        return
    points = [((p[0] - corner[0]) * 2, (p[1] - corner[1]) * 2) for p in seen if p]
    us, vs = [u for u, _ in points], [v for _, v in points]
    wide, high = round(max(us) - min(us)), round(max(vs) - min(vs))
    if wide < 14 or high < 5:
        return
    plate = Image.new("RGB", (wide * 2, high * 2), tint.of("#f3f3ee" if front else "#e8c53a"))
    pen = ImageDraw.Draw(plate)
    font = ImageFont.load_default(max(6, round(min(high * 1.75, wide * 2.9 / len(actor.sign)))))
    pen.text((wide, high), actor.sign, font=font, fill=tint.of("#15161a"), anchor="mm")
    image.paste(plate.resize((wide, high), Image.Resampling.LANCZOS), (round(min(us)), round(min(vs))))
