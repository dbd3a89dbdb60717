"""What a camera's analytics see: whatever is drawn in its picture, as tt:Frame (ONVIF Analytics Service specification)."""

from collections.abc import Iterator
from dataclasses import dataclass
from xml.sax.saxutils import quoteattr

from dromikon.standins.onvif.device import StandInDevice
from dromikon.standins.onvif.events import stamp
from dromikon.standins.onvif.soap import NAMES
from dromikon.standins.picture.compose import HEIGHT, WIDTH
from dromikon.standins.picture.drawing import Tint
from dromikon.standins.picture.figures import draw
from dromikon.standins.picture.frame import Studio
from dromikon.standins.world.scenes import VIEWS, Camera
from dromikon.standins.world.tracks import Actor
from dromikon.standins.world.watching import Look, looked_at
from dromikon.standins.world.world import World

#: Only where a thing is drawn counts here, not in which light.
ANY_LIGHT = Tint(1.0, 1.0, 1.0)


@dataclass(frozen=True, slots=True)
class Thing:
    """One thing that the analytics see: who it is, what it is taken for and how surely, and its box as ONVIF has it (left, top, right,
    bottom, from -1 to 1, y upwards)."""

    actor: Actor
    look: Look
    box: tuple[float, float, float, float]


def things_at(world: World, place: Camera, at: int) -> Iterator[Thing]:
    """What the camera's analytics see at an instant: whatever is drawn in its picture."""
    view = VIEWS[world.view(place.id, at)]
    for actor in world.present(place.scene, at):
        here, look = actor.at(at), looked_at(view, actor, at - at % 1000, world.seed)
        figure = draw(actor, here, view.lens, ANY_LIGHT, WIDTH, HEIGHT, 0.0) if here and look else None
        if figure is not None and look is not None:
            yield Thing(actor, look, _normalised(figure.box))


def frame_of(studio: Studio, place: Camera, device: StandInDevice, at: int) -> str:
    """What the camera's analytics see at an instant, as a document."""
    things = []
    for thing in things_at(studio.world, place, at):
        (left, top, right, bottom), look = thing.box, thing.look
        things.append(
            f'<tt:Object ObjectId="{thing.actor.id}"><tt:Appearance><tt:Shape>'
            f'<tt:BoundingBox left="{left:.4f}" top="{top:.4f}" right="{right:.4f}" bottom="{bottom:.4f}"/>'
            f'<tt:CenterOfGravity x="{(left + right) / 2:.4f}" y="{(top + bottom) / 2:.4f}"/></tt:Shape>'
            f'<tt:Class><tt:Type Likelihood="{look.certain:.3f}">{look.named}</tt:Type></tt:Class>'
            "</tt:Appearance></tt:Object>"
        )
    told = quoteattr(stamp(device.clock()))
    return (
        f'<?xml version="1.0" encoding="UTF-8"?><tt:MetadataStream xmlns:tt="{NAMES["tt"]}"><tt:VideoAnalytics>'
        f"<tt:Frame UtcTime={told}>{''.join(things)}</tt:Frame></tt:VideoAnalytics></tt:MetadataStream>"
    )


def _normalised(box: tuple[float, float, float, float]) -> tuple[float, float, float, float]:
    """From pixels (left, top, right, bottom) to coordinates from -1 to 1, y upwards."""
    left, top, right, bottom = box
    return left / WIDTH * 2 - 1, 1 - top / HEIGHT * 2, right / WIDTH * 2 - 1, 1 - bottom / HEIGHT * 2
