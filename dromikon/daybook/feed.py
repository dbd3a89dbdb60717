"""What pages are told, one function a topic: the only place that knows what a message of a topic holds.

Instants are ms UTC. `groups`: the recipients it is for, None for everybody at the site.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from dromikon.core.events import Event
from dromikon.core.instants import Instant


@dataclass(frozen=True, slots=True)
class News:
    """One message to pages. `subject`: what it is about, by its id."""

    site: str
    topic: str
    subject: str
    at: Instant
    data: Mapping[str, Any] = field(default_factory=dict)
    groups: Sequence[str] | None = None


def event(site: str, happened: Event) -> News:
    """Something happened."""
    seq = str(happened.seq)
    data = {
        "seq": seq, "kind": happened.kind, "point": happened.point, "phase": happened.phase.value,
        "at": happened.occurred_at,
    }  # fmt: skip
    return News(site, "event", seq, happened.at, data)


def run(site: str, ref: str, rule: str, point: str, zero: Instant, seq: int, at: Instant) -> News:
    """A rule fired for the event `seq`."""
    return News(site, "run", ref, at, {"rule": rule, "point": point, "at": zero, "event": str(seq)})


def line(site: str, ref: str, point: str, at: Instant) -> News:
    """A run wrote a line into the daybook."""
    return News(site, "line", ref, at, {"point": point, "at": at})


def step(site: str, ref: str, status: str, at: Instant) -> News:
    """A step of a run was sent, or will not be."""
    return News(site, "step", ref, at, {"run": ref, "status": status})


def alarm(
    site: str,
    id: int,
    state: str,
    zero: Instant,
    groups: Sequence[str],
    at: Instant,
    *,
    sound: str = "none",
    by: str = "",
    title: str = "",
) -> News:
    """An alarm was raised or is back (with its sound and title, so that any page can call attention), answered `by`
    somebody, joined by a repeat, or its condition ended."""
    data = {"alarm": id, "state": state, "sound": sound, "at": zero, "by": by, "title": title}
    return News(site, "alarm", str(id), at, data, groups)


def bookmark(site: str, subject: str, camera: str, zero: Instant, at: Instant) -> News:
    """A bookmark was made."""
    return News(site, "bookmark", subject, at, {"camera": camera, "at": zero})


def showing(
    site: str, ref: str, camera: str, until: Instant, groups: Sequence[str] | None, at: Instant, *, display: str = ""
) -> News:
    """A camera is put up on desks, or on a display."""
    return News(site, "showing", ref, at, {"camera": camera, "until": until, "display": display}, groups)


def display(site: str, id: str, at: Instant) -> News:
    """A display is set up otherwise."""
    return News(site, "display", id, at)


def call(site: str, id: int, station: str, state: str, at: Instant, *, by: str = "") -> News:
    """Somebody rings at a door station, is answered `by` somebody, or has gone."""
    return News(site, "call", str(id), at, {"call": id, "station": station, "state": state, "by": by})


def button(site: str, id: str, on: bool, by: str, at: Instant) -> News:
    """A desk button with two positions stands elsewhere."""
    return News(site, "button", id, at, {"on": on, "by": by})


def paused(site: str, rule: str, camera: str, until: Instant | None, at: Instant) -> News:
    """A rule is paused at a camera until an instant, or counts again there (None)."""
    return News(site, "paused", rule, at, {"camera": camera, "until": until})


def notice(site: str, ref: str, text: str, camera: str, until: Instant, groups: Sequence[str], at: Instant) -> News:
    """A line of text is put up on desks."""
    return News(site, "notice", ref, at, {"text": text, "camera": camera, "until": until}, groups)


def device(site: str, id: str, state: str, at: Instant) -> News:
    """A device came or went, or says something else of itself."""
    return News(site, "device", id, at, {"state": state})


def mode(site: str, value: str, until: Instant | None, at: Instant) -> News:
    """The site is in another mode, for good or until an instant."""
    return News(site, "mode", "", at, {"value": value, "until": until})


def counter(site: str, id: str, value: int, at: Instant) -> News:
    """A counter stands elsewhere."""
    return News(site, "counter", id, at, {"value": value})


def facts(site: str, at: Instant) -> News:
    """The engine goes by the changed configuration from now on."""
    return News(site, "facts", site, at)


def rule(site: str, id: str, enabled: bool, at: Instant) -> News:
    """A rule was saved, switched or deleted."""
    return News(site, "rule", id, at, {"enabled": enabled})


def watch_list(site: str, id: str, entries: int, at: Instant) -> News:
    """A list has other contents."""
    return News(site, "list", id, at, {"entries": entries})


def unclaimed(site: str, inbox: int, at: Instant) -> News:
    """A message came that nobody can use yet."""
    return News(site, "unclaimed", str(inbox), at)
