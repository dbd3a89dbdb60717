"""Action: tell a manager of SNMP."""

from typing import Annotated, ClassVar, Literal, TypedDict

from pydantic import Field

from dromikon.core.facts import Facts
from dromikon.core.instants import iso
from dromikon.core.rules.actions.base import Action, Delivery, Firing, Order
from dromikon.core.rules.actions.destinations import DESTINATION
from dromikon.core.rules.controls import Choice, Flag, Pick, Words
from dromikon.core.rules.parts import Phrase, Ref, told


class SnmpOrder(TypedDict):
    """What a notification tells, by the objects of DROMIKON-MIB; `carry`: the variables of the trap that set it off, too."""

    site: str
    rule: str
    point: str
    area: str
    kind: str
    happened: str
    text: str
    severity: str
    run: str
    link: str
    carry: bool


class SnmpAction(Action):
    """Send a trap or an inform, as DROMIKON-MIB describes it. An inform is tried until the manager confirms; whether a trap
    arrived nobody knows."""

    label: ClassVar[str] = "SNMP"
    group: ClassVar[str] = "to other systems"
    icon: ClassVar[str] = "wave-sine"
    delivery: ClassVar[Delivery] = Delivery.REPEATABLE

    do: Literal["snmp"] = "snmp"
    manager: Annotated[Ref, Pick("Manager", of="destination", kinds=("snmp",))]
    text: Annotated[str, Words("Text", places=True, start="{rule}: {point}")] = Field(min_length=1, max_length=300)
    severity: Annotated[Literal["information", "low", "medium", "high", "critical"], Choice("Severity")] = "medium"
    carry: Annotated[bool, Flag("with the variables of the trap that set it off")] = False

    def orders(self, firing: Firing) -> list[Order]:
        values = firing.values()
        payload: SnmpOrder = {
            "site": firing.facts.name, "rule": firing.rule_name, "point": str(values["point"]),
            "area": str(values["area"]), "kind": firing.event.kind, "happened": iso(firing.zero),
            "text": firing.said(self.text), "severity": self.severity, "run": firing.run, "link": firing.link,
            "carry": self.carry,
        }  # fmt: skip
        return [Order(f"{DESTINATION}{self.manager.id}", payload)]

    def phrases(self, facts: Facts, part: str) -> list[Phrase]:
        name = facts.name_of("destination", self.manager.id) or self.manager.name or self.manager.id
        return told("tell {manager} {text} by SNMP", part, manager=name, text=f"“{self.text}”")

    def texts(self) -> list[tuple[str, str]]:
        return [("text", self.text)]

    def named(self) -> list[tuple[str, str, Ref]]:
        return [("manager", "destination", self.manager)]
