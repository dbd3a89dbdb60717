"""Action: a script that an administrator has put into the scripts folder."""

from typing import Annotated, ClassVar, Literal, TypedDict

from pydantic import Field

from dromikon.core.facts import Facts
from dromikon.core.instants import iso
from dromikon.core.kinds import public_fields
from dromikon.core.rules.actions.base import Action, Delivery, Firing, Order
from dromikon.core.rules.controls import Words
from dromikon.core.rules.parts import Phrase, told


class ScriptOrder(TypedDict):
    """What the script is given as JSON on its standard input. `time` is ISO 8601; `text` is what the rule says."""

    rule: str
    kind: str
    point: str
    phase: str
    time: str
    fields: dict[str, str | int | float | bool | None]
    text: str


class ScriptAction(Action):
    """Run a script of the scripts folder by its name: no shell, the event as JSON on standard input, a time limit. It may do
    anything, so it is run once and never again."""

    label: ClassVar[str] = "Script"
    group: ClassVar[str] = "to other systems"
    icon: ClassVar[str] = "player-play"
    delivery: ClassVar[Delivery] = Delivery.ONCE_ONLY

    do: Literal["script"] = "script"
    script: Annotated[str, Words("Script in the scripts folder", start="on-event")] = Field(
        max_length=80, pattern=r"^[A-Za-z0-9][A-Za-z0-9_.-]*$"
    )
    text: Annotated[str, Words("Text it is given", places=True)] = Field(default="", max_length=500)

    def orders(self, firing: Firing) -> list[Order]:
        event = firing.event
        payload: ScriptOrder = {
            "rule": firing.rule_name, "kind": event.kind, "point": event.point, "phase": event.phase.value,
            "time": iso(event.occurred_at), "fields": public_fields(event.fields), "text": firing.said(self.text),
        }  # fmt: skip
        return [Order(f"script:{self.script}", payload)]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        return told("run the script {script}", part, script=self.script)

    def texts(self) -> list[tuple[str, str]]:
        return [("text", self.text)]
