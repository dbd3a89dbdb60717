"""Check: a door is released on a picture alone."""

from collections.abc import Iterator

from dromikon.core.rules.checks.base import Finding, Reading
from dromikon.core.rules.checks.outputs import driven
from dromikon.core.rules.comparison import FieldCondition
from dromikon.core.rules.condition import Condition
from dromikon.core.rules.situations import SinceCondition, StateCondition
from dromikon.core.words import t

ID = "door-by-picture"
#: Kinds that only say what a picture looks like.
BY_PICTURE = ("face.seen", "plate.read")
#: Kinds that somebody present has to do something for.
SECOND_FACTOR = ("access.granted", "button.pressed", "call.answered")
#: What a recogniser tells of somebody who is no picture.
LIVE = ("live", "is", "person")
#: The tag of an output that opens a door or barrier.
OPENS = "opens"
#: What a door is told by which somebody gets through.
DOOR_OPENS = ("release", "hold_open", "unlock")


def door_by_picture(reading: Reading) -> Iterator[Finding]:
    """A photo held to the camera would open: a second factor is one condition away."""
    document = reading.document
    kinds = {kind for kind, _ in reading.triggers}
    if not kinds or not kinds.issubset(BY_PICTURE):
        return
    if any(_second(leaf) for _, _, tree in document.conditions() for _, leaf in tree.leaves("")):
        return
    for i, _, point, set_to in driven(reading):
        known = reading.facts.point_by_id.get(point)
        if known is not None and (
            set_to in DOOR_OPENS if known.kind == "door" else OPENS in known.tags and set_to != "off"
        ):
            reason = t("{name} opens on a picture alone; a photo held to the camera opens it too.", name=known.name)
            hint = t(
                "Add a condition that a card was shown or a button pressed shortly before, or that a person is before the camera."
            )
            yield Finding(ID, "warning", f"response.{i}", reason, hint)


def _second(leaf: Condition) -> bool:
    """Whether a condition wants more than a picture: something done, or a person told from a picture of one."""
    if isinstance(leaf, SinceCondition | StateCondition):
        return leaf.kind in SECOND_FACTOR
    return isinstance(leaf, FieldCondition) and (leaf.field, leaf.op, leaf.value) == LIVE
