"""The operators' log and the hand-over at the end of a shift: made from what happened, with their notes."""

from collections.abc import Iterable
from dataclasses import asdict, dataclass
from typing import Any

from django.db import transaction

from dromikon.clock import now_ms
from dromikon.core.alarms.quality import pace_of
from dromikon.core.instants import Instant
from dromikon.core.kinds import KINDS
from dromikon.core.rules.document import Problem
from dromikon.core.words import N_, t
from dromikon.daybook.models import EventRow
from dromikon.desk.handling import shelved, suppressed
from dromikon.desk.models import Alarm, Call, Handover, ShiftNote
from dromikon.desk.services import visible_alarms, waiting
from dromikon.operating.pauses import paused
from dromikon.operating.quality import told
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.models import AuditEntry
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.rulebook.models import Rule
from dromikon.situation import situation_of
from dromikon.sources.models import Device, Point

MAX_NOTE = 2000
#: A first shift begins so long before its end, in ms; none is longer.
USUAL, LONGEST = 8 * 3_600_000, 48 * 3_600_000
#: So many lines of a log are shown, the last ones.
MOST_LINES = 500
#: What of the audit trail belongs into an operators' log, and how it reads there.
ACTS = {
    "set mode": N_("set the mode to {mode}"), "set counter": N_("set {name} to {value}"), "pressed": N_("pressed “{name}”"),
    "commanded": N_("told the place to {words}"), "paused rule": N_("paused “{name}” at a camera"),
    "resumed rule": N_("resumed “{name}”"), "answered call": N_("answered a call"), "ended call": N_("ended a call"),
    "shelved alarm": N_("shelved “{title}”: {why}"), "unshelved alarm": N_("had “{title}” back from the shelf"),
    "taken alarm": N_("took “{title}”"), "acknowledged": N_("answered “{title}”"), "bookmarked": N_("made a bookmark: {title}"),
}  # fmt: skip
#: Kinds of event that an operator wants to know of, besides alarms.
TOLD = ("device.lost", "picture.lost")


@dataclass(frozen=True, slots=True)
class Line:
    """One line of the log. `sort`: note, alarm, act, call or trouble. `alarm`: whose it is, where it is one's."""

    at: Instant
    sort: str
    words: str
    name: str = ""
    note: str = ""
    alarm: int | None = None
    priority: str = ""


def log_of(access: Access, start: Instant, end: Instant) -> list[Line]:
    """What happened and was done from `start` to before `end`, as far as somebody may see it, in order."""
    lines = [*_notes(access, start, end), *_alarms(access, start, end), *_acts(access, start, end)]
    lines += [*_missed(access, start, end), *_trouble(access, start, end)]
    return sorted(lines, key=lambda line: line.at)[-MOST_LINES:]


def shift_began(access: Access) -> Instant:
    """When the present shift began: at the last hand-over."""
    now = now_ms()
    last = Handover.objects.filter(site=access.site).order_by("-at").values_list("at", flat=True).first()
    return max(last, now - LONGEST) if last is not None else now - USUAL


def write_note(access: Access, text: str) -> ShiftNote:
    """Write into the log. Raises Refused, PermissionDenied."""
    access.need(May.ACKNOWLEDGE)
    text = _checked(text, "text", needed=True)
    at = now_ms()
    with transaction.atomic():
        note = ShiftNote.objects.create(
            site=access.site, at=at, person=access.person, name=access.person.shown_name, text=text
        )
        record(access.site, access.person, "noted", f"note:{note.pk}", at)
    return note


def hand_over(access: Access, note: str = "") -> Handover:
    """End the shift: what happened and what stands open is kept as it is now. Raises Refused, PermissionDenied."""
    access.need(May.ACKNOWLEDGE)
    note = _checked(note, "note", needed=False)
    start, at = shift_began(access), now_ms()
    with transaction.atomic():
        made = Handover.objects.create(
            site=access.site, start=start, at=at, person=access.person, name=access.person.shown_name, note=note,
            body=state_of(access, start, at),
        )  # fmt: skip
        record(access.site, access.person, "handed over", f"shift:{made.pk}", at)
    return made


def take_over(access: Access, id: int) -> Handover:
    """Say that one has read it. Raises Refused, PermissionDenied, Handover.DoesNotExist."""
    access.need(May.ACKNOWLEDGE)
    with transaction.atomic():
        known = Handover.objects.get(pk=id, site=access.site)
        if known.taken_at is not None:
            raise Refused([Problem(path="id", message=f"{known.taken_name} has taken it over already.")])
        known.taken_at, known.taken_name = now_ms(), access.person.shown_name
        known.save(update_fields=["taken_at", "taken_name"])
        record(access.site, access.person, "took over", f"shift:{known.pk}", known.taken_at)
    return known


def state_of(access: Access, start: Instant, end: Instant) -> dict[str, Any]:
    """How a shift went, and how the site stands at its end: plain values, which stay as they were."""
    alarms = [a for a in told(access, start, end) if not a.suppressed]
    pace = pace_of(alarms)
    calls = Call.objects.filter(site=access.site, rung_at__gte=start, rung_at__lt=end)
    situation = situation_of(access.site)
    return {
        "alarms": {
            "raised": len(alarms), "answered": pace.answered, "median": pace.median,
            "false": sum(1 for a in alarms if a.outcome == "false"), "real": sum(1 for a in alarms if a.outcome == "real"),
        },
        "calls": {"all": calls.count(), "missed": calls.filter(state="missed").count()},
        "open": [_open(alarm) for alarm in waiting(access)],
        "shelved": [{**_open(a), "until": a.shelved_until, "by": a.shelved_name, "why": a.shelved_why} for a in shelved(access)],
        "suppressed": [_open(alarm) for alarm in suppressed(access)],
        "paused": _paused(access),
        "mode": situation["mode"], "mode_until": situation["until"],
        "lost": list(Device.objects.filter(site=access.site, retired_at=None, enabled=True, state="lost").values_list("name", flat=True)),
        "log": [asdict(line) for line in log_of(access, start, end)],
    }  # fmt: skip


def _open(alarm: Alarm) -> dict[str, Any]:
    return {
        "id": alarm.pk,
        "title": alarm.title,
        "priority": alarm.priority,
        "since": alarm.zero,
        "taken": alarm.taken_name,
    }


def _paused(access: Access) -> list[dict[str, Any]]:
    known = paused(access.site)
    rules = {r.id: r.name for r in Rule.objects.filter(id__in={rule for rule, _ in known})}
    cameras = dict(Point.objects.filter(id__in={camera for _, camera in known}).values_list("id", "name"))
    return [
        {"rule": rules.get(rule, rule), "camera": cameras.get(camera, camera), "until": until}
        for (rule, camera), until in known.items()
    ]


def _checked(text: str, path: str, needed: bool) -> str:
    text = text.strip()
    if needed and not text:
        raise Refused([Problem(path=path, message="Write what the next one should know.")])
    if len(text) > MAX_NOTE:
        raise Refused([Problem(path=path, message=f"A note has at most {MAX_NOTE} characters.")])
    return text


def _notes(access: Access, start: Instant, end: Instant) -> list[Line]:
    notes = ShiftNote.objects.filter(site=access.site, at__gte=start, at__lt=end)
    return [Line(n.at, "note", n.text, n.name) for n in notes]


def _alarms(access: Access, start: Instant, end: Instant) -> list[Line]:
    raised = visible_alarms(access).filter(raised_at__gte=start, raised_at__lt=end).order_by("-id")[:MOST_LINES]
    return [Line(a.raised_at, "alarm", a.title, a.acknowledged_name, a.note, a.pk, a.priority) for a in raised]


def _acts(access: Access, start: Instant, end: Instant) -> list[Line]:
    entries = AuditEntry.objects.filter(site=access.site, at__gte=start, at__lt=end, verb__in=ACTS).order_by("-id")
    lines = [
        Line(e.at, "act", t(ACTS[e.verb], **_spoken_of(e.detail)), e.name, alarm=_alarm_of(e.subject))
        for e in entries[:MOST_LINES]
    ]
    mine = _seen_by(access, {line.alarm for line in lines})
    return [line for line in lines if line.alarm is None or line.alarm in mine]


def _alarm_of(subject: str) -> int | None:
    """Which alarm an entry of the audit trail is about."""
    sort, _, id = subject.partition(":")
    return int(id) if sort == "alarm" and id.isdigit() else None


def _seen_by(access: Access, alarms: Iterable[int | None]) -> set[int]:
    """Which of some alarms are for somebody to see."""
    return set(visible_alarms(access).filter(pk__in=[a for a in alarms if a is not None]).values_list("pk", flat=True))


def as_seen_by(access: Access, body: dict[str, Any]) -> dict[str, Any]:
    """A hand-over without the alarms that are not for its reader."""
    lists = ("open", "shelved", "suppressed")
    named = [a["id"] for name in lists for a in body.get(name, ())] + [line["alarm"] for line in body.get("log", ())]
    mine = _seen_by(access, named)
    kept = {name: [a for a in body.get(name, ()) if a["id"] in mine] for name in lists}
    log = [line for line in body.get("log", ()) if line["alarm"] is None or line["alarm"] in mine]
    return {**body, **kept, "log": log}


def _spoken_of(detail: dict[str, Any]) -> dict[str, str]:
    """What lines of the log speak of; what an entry lacks is empty."""
    return {name: str(detail.get(name, "")) for name in ("mode", "name", "value", "words", "title", "why")}


def _missed(access: Access, start: Instant, end: Instant) -> list[Line]:
    calls = Call.objects.filter(site=access.site, rung_at__gte=start, rung_at__lt=end, state="missed")
    names = dict(Point.objects.filter(id__in=calls.values("station")).values_list("id", "name"))
    return [
        Line(c.rung_at, "call", t("{point}: nobody answered", point=names.get(c.station, c.station))) for c in calls
    ]


def _trouble(access: Access, start: Instant, end: Instant) -> list[Line]:
    rows = EventRow.objects.filter(
        site=access.site.id,
        kind__in=TOLD,
        phase="begin",
        occurred_at__gte=start,
        occurred_at__lt=end,
        initial=False,
        test=False,
    ).order_by("-seq")[:MOST_LINES]
    names = dict(Point.objects.filter(id__in=[r.point for r in rows]).values_list("id", "name"))
    return [Line(r.occurred_at, "trouble", f"{names.get(r.point, r.point)} {KINDS[r.kind].says}") for r in rows]
