"""What a recogniser tells of a picture: where faces are, their templates, and how well they are seen.

A recogniser is asked over HTTP: `POST /faces` with a JPEG or PNG as body. It answers with JSON, `{"faces": [...]}`, each face as
`SeenFace` has it. The sizes that are wanted are those of ISO/IEC 19794-5 for pictures of faces.
"""

from typing import Annotated, Literal, NamedTuple

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator

from dromikon.core.lists.similarity import NoTemplate, read_template
from dromikon.core.words import t

#: From eye to eye, in pixels: below FEW nothing is compared reliably; ENOUGH are wanted of a picture by which somebody is known.
FEW, ENOUGH = 24.0, 60.0
#: How sharp edges are at least, and between which shares of white the light of a face lies.
SHARP, DARKEST, BRIGHTEST = 0.25, 0.22, 0.88
#: How far a head may be turned, in degrees.
TURNED = 15.0
#: The most faces of one picture, and the largest picture in bytes.
MOST_FACES, LARGEST_PICTURE = 50, 4_000_000

Share = Annotated[float, Field(ge=0, le=1)]


class SeenFace(BaseModel):
    """A face of a picture. `box`: left, top, right, bottom as shares of the picture; `eyes`: from eye to eye, in pixels; `sharp`
    and `light`: 0 to 1; `turned`: degrees away from the camera; `covered`: mouth or nose are not seen; `live`: whether it is a
    person and no picture of one, where the recogniser tells."""

    model_config = ConfigDict(frozen=True, extra="ignore")

    box: tuple[Share, Share, Share, Share]
    template: str = Field(max_length=6000)
    eyes: float = Field(ge=0, le=100_000)
    sharp: Share
    light: Share
    turned: float = Field(default=0, ge=0, le=180)
    covered: bool = False
    live: bool | None = None

    @field_validator("template")
    @classmethod
    def _a_template(cls, value: str) -> str:
        try:
            read_template(value)
        except NoTemplate as error:
            raise ValueError(str(error)) from error
        return value

    @field_validator("box")
    @classmethod
    def _has_area(cls, value: tuple[float, float, float, float]) -> tuple[float, float, float, float]:
        left, top, right, bottom = value
        if left >= right or top >= bottom:
            raise ValueError(t("a box ends right of and below where it begins"))
        return value


class _Answer(BaseModel):
    faces: tuple[SeenFace, ...] = Field(max_length=MOST_FACES)


class NoAnswer(ValueError):
    """What a recogniser told cannot be used; the message says why."""


def read_faces(content: bytes) -> tuple[SeenFace, ...]:
    """The faces of an answer, the largest first. Raises NoAnswer."""
    try:
        faces = _Answer.model_validate_json(content).faces
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"])
        raise NoAnswer(f"{place}: {first['msg']}" if place else first["msg"]) from error
    return tuple(sorted(faces, key=lambda face: -face.eyes))


class Shortcoming(NamedTuple):
    """What is wrong with how a face is seen, and what to do better. `grave`: it will hardly be known again by it."""

    what: Literal["eyes", "sharp", "light", "turned", "covered", "live"]
    words: str
    better: str
    grave: bool = False


def shortcomings(face: SeenFace) -> list[Shortcoming]:
    """What could be better about a picture by which somebody is to be known, the gravest first."""
    found = [*_size(face), *_clearness(face), *_showing(face)]
    return sorted(found, key=lambda s: not s.grave)


def _size(face: SeenFace) -> list[Shortcoming]:
    if face.eyes >= ENOUGH:
        return []
    words = t("{n} pixels between the eyes; {wanted} are wanted.", n=f"{face.eyes:.0f}", wanted=f"{ENOUGH:.0f}")
    return [Shortcoming("eyes", words, t("Take it from nearer, or use a larger picture."), face.eyes < FEW)]


def _clearness(face: SeenFace) -> list[Shortcoming]:
    found = []
    if face.sharp < SHARP:
        found.append(Shortcoming("sharp", t("It is blurred."), t("Hold still, and let the camera focus.")))
    if face.light < DARKEST:
        found.append(Shortcoming("light", t("It is too dark."), t("Turn the face towards a window or a lamp.")))
    if face.light > BRIGHTEST:
        found.append(Shortcoming("light", t("It is too bright."), t("Step out of the direct light.")))
    return found


def _showing(face: SeenFace) -> list[Shortcoming]:
    found = []
    if face.turned > TURNED:
        words = t("The head is turned by {n}°.", n=f"{face.turned:.0f}")
        found.append(Shortcoming("turned", words, t("Look straight into the camera.")))
    if face.covered:
        found.append(
            Shortcoming("covered", t("Mouth or nose are covered."), t("Take off scarf or mask for the picture."), True)
        )
    if face.live is False:
        words, better = t("It is a picture of a picture."), t("Take it of the person.")
        found.append(Shortcoming("live", words, better, True))
    return found
