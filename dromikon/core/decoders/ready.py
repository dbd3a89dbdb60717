"""Decoders to begin with, for shapes in which many systems send. Each lacks only what is a site's own: its intake, which point is
called what, and the point itself where messages do not name one."""

from dataclasses import dataclass
from typing import Any

from dromikon.core.words import N_, t


@dataclass(frozen=True, slots=True)
class Ready:
    """A decoder to begin with, and a message that it reads."""

    id: str
    called: str
    document: dict[str, Any]
    example: str

    @property
    def name(self) -> str:
        """What it is called, in the language that is spoken."""
        return t(self.called)


def _field(name: str, path: str) -> dict[str, Any]:
    return {"name": name, "path": path}


READY: tuple[Ready, ...] = (
    Ready(
        "sensor", N_("A sensor's reading"),
        {
            "kind": "sensor.reading", "phase": "reading", "when": [{"path": "$.sensor", "how": "there"}, {"path": "$.value", "how": "there"}],
            "point_path": "$.sensor", "fields": [_field("value", "$.value"), _field("unit", "$.unit")], "time_path": "$.ts",
            "time_as": "seconds",
        },
        '{"sensor": "freezer-temp", "value": -19.5, "unit": "°C", "ts": 1795715000}',
    ),
    Ready(
        "readings", N_("A gateway's readings, several at a time"),
        {
            "kind": "sensor.reading", "phase": "reading", "each": "$.readings[*]", "when": [{"path": "$.value", "how": "there"}],
            "point_path": "$.id", "fields": [_field("value", "$.value"), _field("unit", "$.unit")], "time_path": "^.time",
        },
        '{"time": "2026-11-26T18:00:00Z", "readings": [{"id": "orchid-temp", "value": 24.1, "unit": "°C"}, '
        '{"id": "orchid-humidity", "value": 71, "unit": "%"}]}',
    ),
    Ready(
        "switch", N_("A contact that is on or off"),
        {
            "kind": "input.active", "when": [{"path": "$.device", "how": "there"}, {"path": "$.state", "how": "there"}],
            "point_path": "$.device", "phase_path": "$.state", "begins": ["on", "true", "1", "open", "active"],
            "ends": ["off", "false", "0", "closed", "inactive"],
        },
        '{"device": "leak", "state": "on"}',
    ),
    Ready(
        "alarm", N_("An alarm that is set and cleared"),
        {
            "kind": "input.active", "when": [{"path": "$.alarm.id", "how": "there"}], "point_path": "$.alarm.id",
            "phase_path": "$.alarm.event", "begins": ["set", "raised"], "ends": ["clear", "cleared"],
            "fields": [_field("text", "$.alarm.text")], "time_path": "$.time",
        },
        '{"time": "2026-11-26T18:00:00Z", "alarm": {"id": "leak", "event": "set", "text": "Water on the floor"}}',
    ),
    Ready(
        "lines", N_("Lines of name=value"),
        {
            "kind": "input.active", "when": [{"path": "$.name", "how": "there"}, {"path": "$.status", "how": "there"}],
            "point_path": "$.name", "phase_path": "$.status", "begins": ["ALARM", "1"], "ends": ["NORMAL", "OK", "0"],
        },
        "name=leak\nstatus=ALARM",
    ),
    Ready(
        "ups", N_("A UPS runs on battery (trap of the UPS MIB, RFC 1628)"),
        {
            "kind": "power.on_battery", "phase_path": "$.trap", "begins": ["1.3.6.1.2.1.33.2.3"], "ends": ["1.3.6.1.2.1.33.2.4"],
            "when": [{"path": "$.values[?@.value == '1.3.6.1.2.1.33.1.6.3.2'].oid", "how": "there"}],
        },
        '{"version": "v2c", "trap": "1.3.6.1.2.1.33.2.3", "uptime": 1, "values": [{"oid": "1.3.6.1.2.1.33.1.6.2.1.2.1", '
        '"value": "1.3.6.1.2.1.33.1.6.3.2"}]}',
    ),
    Ready(
        "link", N_("A link is down, or up again (traps of RFC 2863)"),
        {
            "kind": "input.active", "phase_path": "$.trap", "begins": ["1.3.6.1.6.3.1.1.5.3"], "ends": ["1.3.6.1.6.3.1.1.5.4"],
            "when": [{"path": "$.name", "how": "begins", "value": "link"}], "point_path": "$.named.ifIndex",
        },
        '{"version": "v2c", "trap": "1.3.6.1.6.3.1.1.5.3", "name": "linkDown", "named": {"ifIndex": 24, "ifDescr": "Uplink of the lodge"}}',
    ),
    Ready(
        "cloudevent", N_("A CloudEvent of a type of its own"),
        {
            "kind": "input.active", "when": [{"path": "$.specversion", "how": "there"}, {"path": "$.type", "how": "is", "value": "org.example.alarm"}],
            "point_path": "$.subject", "phase_path": "$.data.state", "begins": ["on"], "ends": ["off"], "time_path": "$.time",
        },
        '{"specversion": "1.0", "id": "1", "source": "/panel", "type": "org.example.alarm", "subject": "leak", '
        '"time": "2026-11-26T18:00:00Z", "data": {"state": "on"}}',
    ),
    Ready(
        "topic", N_("A sensor's topic at a broker (MQTT)"),
        {
            "kind": "sensor.reading", "phase": "reading", "when": [{"path": "$.topic", "how": "begins", "value": "quillmere/"}],
            "point_path": "$.levels[2]", "fields": [_field("value", "$.payload.value"), _field("unit", "$.payload.unit")],
        },
        '{"topic": "quillmere/orchid-house/temp", "levels": ["quillmere", "orchid-house", "temp"], "retained": false, '
        '"payload": {"value": 74.3, "unit": "°F"}}',
    ),
    Ready(
        "call", N_("A door station rings (its maker's own topic)"),
        {
            "kind": "call.rung", "when": [{"path": "$.topic", "how": "is", "value": "sta:Call/State"},
                                          {"path": "$.data.State", "how": "is", "value": "Ringing"}],
            "point_path": "$.source.Station",
        },
        '{"topic": "sta:Call/State", "operation": "Changed", "source": {"Station": "front"}, "data": {"State": "Ringing"}}',
    ),
    Ready(
        "plate", N_("A plate that was read"),
        {
            "kind": "plate.read", "when": [{"path": "$.plate", "how": "there"}], "point_path": "$.camera",
            "fields": [_field("plate", "$.plate"), _field("confidence", "$.confidence"), _field("direction", "$.direction")],
        },
        '{"camera": "service-plates", "plate": "QM17FKD", "confidence": 93, "direction": "in"}',
    ),
    Ready(
        "badge", N_("Somebody is let in or turned away"),
        {
            "kind": "access.granted", "when": [{"path": "$.result", "how": "is", "value": "granted"}], "point_path": "$.door",
            "fields": [_field("card", "$.card"), _field("person", "$.holder")], "time_path": "$.at",
        },
        '{"door": "vault-door", "result": "granted", "card": "Q-1041", "holder": "Agnes Marlowe", "at": "2026-11-26T18:00:00Z"}',
    ),
)  # fmt: skip
