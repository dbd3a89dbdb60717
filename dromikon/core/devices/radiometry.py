"""How a thermal camera measures and shows heat."""

from typing import Annotated, ClassVar

from pydantic import Field

from dromikon.core.rules.controls import Number
from dromikon.core.rules.parts import Part
from dromikon.core.words import N_


class Radiometry(Part):
    """`emissivity`: what share of its heat a thing radiates; `distance` to it; `reflected`: how warm is what it reflects; `palette`:
    the token of the colours in which the camera shows heat."""

    drawn: ClassVar[tuple[str, ...]] = ("palette",)

    emissivity: Annotated[
        float,
        Field(ge=0.01, le=1),
        Number(N_("Emissivity"), hint=N_("paint, brick, skin: 0.95; bare metal: 0.1 to 0.4")),
    ]
    distance: Annotated[float, Field(ge=0, le=10_000), Number(N_("Distance to what is measured"), unit="m")]
    reflected: Annotated[
        float,
        Field(ge=-100, le=1_500),
        Number(N_("What it reflects is"), unit="°C", hint=N_("walls and sky around it")),
    ]
    palette: Annotated[str, Field(max_length=100)] = ""
