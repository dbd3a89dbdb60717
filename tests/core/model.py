"""A second reading of the rule language: slow and obvious, over the whole history, written from docs/rules.md without the
evaluator. For a cause (and one condition *since*) it says at which moments, and for which event, a rule fires.

Histories are lists of events in order, at distinct moments; `firings` looks at all of them at once.
"""

from collections.abc import Iterator
from itertools import combinations
from typing import Any

from dromikon.core.events import Event, Phase

#: A firing: the moment of deciding, the place of the event it is about, and the places of the events that make it up.
Firing = tuple[int, int, tuple[int, ...]]


def firings(cause: dict[str, Any], history: list[Event], until: int) -> list[Firing]:
    """Every firing of a cause up to an instant, in order."""
    found = _CAUSES[cause["cause"]](cause, history, until)
    return sorted(f for f in found if f[0] <= until)


def since_holds(condition: dict[str, Any], history: list[Event], firing: Firing) -> bool:
    """Whether the condition *since* holds for a firing."""
    at, seq, made_of = firing
    point = condition["point"]["id"] if "point" in condition else _of(history, seq).point
    came = [
        e
        for e in history
        if e.kind == condition["kind"]
        and e.point == point
        and e.phase is not Phase.END
        # What came before that: at a moment of its own, a tick is decided before an event of the same moment.
        and (e.at < at)
        and e.seq not in made_of
    ]
    within = bool(came) and at - came[-1].at < condition["seconds"] * 1000
    return within is condition.get("within", True)


def _of(history: list[Event], seq: int) -> Event:
    return next(e for e in history if e.seq == seq)


def _fits(pattern: dict[str, Any], event: Event) -> bool:
    provided = pattern.get("provided")
    if provided is not None and event.fields.get(provided["field"]) != provided["value"]:
        return False
    points = [p["id"] for p in pattern["where"]["points"]]
    return event.kind == pattern["kind"] and event.phase == pattern["phase"] and event.point in points


def _groups(cause: dict[str, Any], history: list[Event]) -> Iterator[list[Event]]:
    """The histories of what belongs together."""
    per = cause.get("join", {}).get("per", "nothing")
    keys = {"nothing": lambda e: "", "point": lambda e: e.point, "field": lambda e: e.fields.get("object")}
    key = keys[per]
    for value in dict.fromkeys(key(e) for e in history if key(e) is not None):
        yield [e for e in history if key(e) == value]


def _event(cause: dict[str, Any], history: list[Event], until: int) -> Iterator[Firing]:
    for e in history:
        if _fits(cause, e):
            yield e.at, e.seq, (e.seq,)


def _lasting(cause: dict[str, Any], history: list[Event], until: int) -> Iterator[Firing]:
    for point in {p["id"] for p in cause["where"]["points"]}:
        told = [e for e in history if e.kind == cause["kind"] and e.point == point]
        on = False
        for i, e in enumerate(told):
            if e.phase is Phase.BEGIN and not on:
                due = e.at + cause["seconds"] * 1000
                ends = next((x.at for x in told[i:] if x.phase is Phase.END), until + 1)
                if due <= ends:
                    yield due, e.seq, (e.seq,)
            on = e.phase is Phase.BEGIN


def _missing(cause: dict[str, Any], history: list[Event], until: int) -> Iterator[Firing]:
    within = cause["within"] * 1000
    for group in _groups(cause, history):
        for i, first in enumerate(group):
            if not _fits(cause["first"], first):
                continue
            due = first.at + within
            if not any(_fits(cause["then"], e) and e.at < due for e in group[i + 1 :]):
                yield due, first.seq, (first.seq,)


def _together(cause: dict[str, Any], history: list[Event], until: int) -> Iterator[Firing]:
    for group in _groups(cause, history):
        begun = 0
        for i, e in enumerate(group):
            window = [x for x in group[begun : i + 1] if x.at > e.at - cause["within"] * 1000]
            latest = [next((x for x in reversed(window) if _fits(p, x)), None) for p in cause["of"]]
            if any(_fits(p, e) for p in cause["of"]) and all(latest):
                yield e.at, e.seq, tuple(sorted({x.seq for x in latest}))
                begun = i + 1


def _order(cause: dict[str, Any], history: list[Event], until: int) -> Iterator[Firing]:
    for group in _groups(cause, history):
        begun = 0
        for i, e in enumerate(group):
            window = [x for x in group[begun:i] if x.at > e.at - cause["within"] * 1000]
            chains = [
                (*chain, e)
                for chain in combinations(window, len(cause["of"]) - 1)
                if all(_fits(p, x) for p, x in zip(cause["of"], (*chain, e), strict=True))
            ]
            if chains:
                latest = max(chains, key=lambda chain: [x.seq for x in chain])
                yield e.at, e.seq, tuple(x.seq for x in latest)
                begun = i + 1


def _repeated(cause: dict[str, Any], history: list[Event], until: int) -> Iterator[Firing]:
    for group in _groups(cause, history):
        came: list[Event] = []
        for e in (x for x in group if _fits(cause["what"], x)):
            came = [x for x in came if x.at > e.at - cause["within"] * 1000] + [e]
            if len(came) >= cause["times"]:
                yield e.at, e.seq, tuple(x.seq for x in came)
                came = []


def _level(cause: dict[str, Any], history: list[Event], until: int) -> Iterator[Firing]:
    limit, back, held = cause["value"], cause.get("hysteresis", 0), cause.get("held", 0) * 1000
    sign = 1 if cause["way"] == "up" else -1
    for point in {p["id"] for p in cause["where"]["points"]}:
        readings = [e for e in history if e.kind == "sensor.reading" and e.point == point]
        past = False
        for i, e in enumerate(readings):
            over = sign * (e.fields["value"] - limit)
            was, past = past, over >= 0 or (past and over > -back)
            if i == 0 or was or not past:
                continue
            # It goes on until a reading is back.
            stays = past
            for later in readings[i + 1 :]:
                if later.at > e.at + held:
                    break
                over = sign * (later.fields["value"] - limit)
                if later.at < e.at + held and not (over >= 0 or over > -back):
                    stays = False
            if stays:
                yield e.at + held, e.seq, (e.seq,)


def _any(cause: dict[str, Any], history: list[Event], until: int) -> Iterator[Firing]:
    """Once for one event at one moment."""
    told = set()
    for one in cause["of"]:
        for at, seq, made_of in firings(one, history, until):
            if (at, seq) not in told:
                told.add((at, seq))
                yield at, seq, made_of


_CAUSES = {
    "event": _event, "lasting": _lasting, "missing": _missing, "together": _together, "order": _order,
    "repeated": _repeated, "level": _level, "any": _any,
}  # fmt: skip
