"""Adapter: what a Modbus device answered, already as values at points. What it told first after a connection, and what
it tells again though it has not changed, is told because we asked, and starts nothing."""

from collections.abc import Mapping
from typing import Any, Literal

from dromikon.core import reading
from dromikon.core.decoding import Decoded
from dromikon.core.events import Phase, Scalar
from dromikon.engine.adapters.base import Ingested, Sender, placed, unclaimed
from dromikon.engine.directory import Directory
from dromikon.intake.inbox import Stored


class ModbusAdapter:
    sent_by: Literal["intake", "device"] = "intake"

    def read(self, stored: Stored, directory: Directory, sender: Sender) -> list[Ingested]:
        try:
            content = reading.content(stored.message.body)
            return [
                placed(stored, sender, directory, _decoded(said, bool(content["first"])), None)
                for said in content["values"]
            ]
        except (ValueError, KeyError, TypeError) as error:
            return [unclaimed(stored, sender, f"The message cannot be read: {error}.")]


def _decoded(said: Mapping[str, Any], first: bool) -> Decoded:
    value = said["value"]
    if isinstance(value, bool):
        phase = Phase.BEGIN if value else Phase.END
        return Decoded(said["kind"], said["point"], phase, {}, told_on_request=first or bool(said.get("same")))
    fields: dict[str, Scalar] = {"value": value, **({"unit": said["unit"]} if said.get("unit") else {})}
    return Decoded(said["kind"], said["point"], Phase.READING, fields)
