"""What drawings of moving things have in common: light, a place in the picture, and limbs."""

from dataclasses import dataclass

from PIL import Image, ImageDraw

Colour = tuple[int, int, int]


@dataclass(frozen=True, slots=True)
class Tint:
    """How light changes a figure: factor for each channel, grey for infra-red."""

    red: float
    green: float
    blue: float
    grey: bool = False

    def of(self, colour: str, shade: float = 1.0) -> Colour:
        r, g, b = (int(colour[i : i + 2], 16) for i in (1, 3, 5))
        if self.grey:
            r = g = b = int(60 + (0.5 * r + 0.35 * g + 0.15 * b) * 0.62)
        factors = (self.red, self.green, self.blue)
        return tuple(min(255, int(c * k * shade)) for c, k in zip((r, g, b), factors, strict=True))  # type: ignore[return-value]


@dataclass(frozen=True, slots=True)
class Figure:
    """A drawing with its place in the picture and how far away it stands."""

    image: Image.Image
    left: int
    top: int
    depth: float
    box: tuple[float, float, float, float]


def canvas(wide: float, high: float, scale: int) -> tuple[Image.Image, ImageDraw.ImageDraw]:
    image = Image.new("RGBA", (max(3, int(wide * scale)), max(3, int(high * scale))), (0, 0, 0, 0))
    return image, ImageDraw.Draw(image)


def limb(pen: ImageDraw.ImageDraw, points: list[tuple[float, float]], thick: float, colour: Colour) -> None:
    pen.line(points, fill=colour, width=max(1, round(thick)), joint="curve")
    r = thick / 2
    for x, y in (points[0], points[-1]):
        pen.ellipse((x - r, y - r, x + r, y + r), fill=colour)
