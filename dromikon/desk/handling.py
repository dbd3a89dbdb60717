"""What operators do with an alarm before they answer it: take it on, leave it to others, shelve it, have it back."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from django.db import transaction

from dromikon.clock import now_ms
from dromikon.core.alarms.instruction import steps_of
from dromikon.core.alarms.states import (
    AlarmState,
    NotPossible,
    Standing,
    give_back,
    shelve,
    take,
    unshelve,
)  # fmt: skip
from dromikon.core.rules.document import Problem
from dromikon.core.words import N_, t
from dromikon.daybook import feed
from dromikon.daybook.services import tell
from dromikon.desk.models import Alarm, AlarmAct
from dromikon.desk.services import addressed_alarm, visible_alarms
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused

MAX_WHY = 300
MINUTE = 60_000


def take_on(access: Access, alarm_id: int, over_from: bool = False) -> Alarm:
    """Say that one deals with it; from somebody else only `over_from` them. Raises Refused, Alarm.DoesNotExist."""
    person = str(access.person.pk)

    def does(alarm: Alarm, now: int) -> Standing:
        alarm.taken_name = access.person.shown_name
        return take(alarm.standing, person, over_from)

    return _handle(access, alarm_id, "taken", does)


def leave(access: Access, alarm_id: int) -> Alarm:
    """Leave it to others again. Raises Refused, Alarm.DoesNotExist."""

    def does(alarm: Alarm, now: int) -> Standing:
        standing = give_back(alarm.standing, str(access.person.pk))
        alarm.taken_name = ""
        return standing

    return _handle(access, alarm_id, "left", does)


def put_on_shelf(access: Access, alarm_id: int, minutes: int, why: str) -> Alarm:
    """Put it away for some minutes, with a reason. Raises Refused, Alarm.DoesNotExist."""
    why = why.strip()
    if not why:
        raise Refused([Problem(path="why", message="Say why: others ask when they find it on the shelf.")])
    if len(why) > MAX_WHY:
        raise Refused([Problem(path="why", message=f"A reason has at most {MAX_WHY} characters.")])

    def does(alarm: Alarm, now: int) -> Standing:
        standing = shelve(alarm.standing, now + minutes * MINUTE, now)
        alarm.shelved_name, alarm.shelved_why = access.person.shown_name, why
        return standing

    return _handle(access, alarm_id, "shelved", does, why=why)


def take_off_shelf(access: Access, alarm_id: int) -> Alarm:
    """Have it back before its time. Raises Refused, Alarm.DoesNotExist."""
    return _handle(access, alarm_id, "unshelved", lambda alarm, now: unshelve(alarm.standing, now))


def _handle(access: Access, alarm_id: int, act: str, does: Callable[[Alarm, int], Standing], why: str = "") -> Alarm:
    access.need(May.ACKNOWLEDGE)
    with transaction.atomic():
        alarm, now = addressed_alarm(access, alarm_id), now_ms()
        try:
            alarm.stand(does(alarm, now), now)
        except NotPossible as error:
            raise Refused([Problem(path="", message=str(error))]) from error
        alarm.save()
        name = access.person.shown_name
        AlarmAct.objects.create(
            alarm=alarm, site=alarm.site_id, at=now, act=act, name=name, why=why, until=alarm.shelved_until
        )
        record(access.site, access.person, f"{act} alarm", f"alarm:{alarm.pk}", now, title=alarm.title, **_reason(why))
        tell(feed.alarm(access.site.id, alarm.pk, alarm.state, alarm.zero, alarm.groups, now))
    return alarm


def _reason(why: str) -> dict[str, Any]:
    return {"why": why} if why else {}


def tick(access: Access, alarm_id: int, step: int, done: bool) -> Alarm:
    """A step of what is to do is done, or is not after all. Raises Refused, Alarm.DoesNotExist."""
    access.need(May.ACKNOWLEDGE)
    with transaction.atomic():
        alarm, now = addressed_alarm(access, alarm_id), now_ms()
        steps = steps_of(alarm.instruction)
        if not 0 <= step < len(steps):
            raise Refused([Problem(path="step", message="This alarm has no such step.")])
        if alarm.acknowledged_at is not None:
            raise Refused([Problem(path="step", message="This alarm has already been answered.")])
        if (step in alarm.ticked) is done:
            return alarm
        alarm.ticked = sorted({*alarm.ticked, step} if done else {*alarm.ticked} - {step})
        alarm.save(update_fields=["ticked"])
        name, act = access.person.shown_name, "ticked" if done else "unticked"
        AlarmAct.objects.create(alarm=alarm, site=alarm.site_id, at=now, act=act, name=name, why=steps[step][:300])
        record(access.site, access.person, f"{act} step", f"alarm:{alarm.pk}", now, step=steps[step])
        tell(feed.alarm(access.site.id, alarm.pk, alarm.state, alarm.zero, alarm.groups, now))
    return alarm


def suppressed(access: Access) -> list[Alarm]:
    """What the site's mode keeps from people, the newest first."""
    return list(visible_alarms(access).filter(state=AlarmState.SUPPRESSED).order_by("-id"))


def shelved(access: Access) -> list[Alarm]:
    """What is on the shelf for this person, what comes back next first."""
    return list(visible_alarms(access).filter(state=AlarmState.SHELVED).order_by("shelved_until"))


@dataclass(frozen=True, slots=True)
class Line:
    """One thing that happened to an alarm, in words."""

    at: int
    words: str
    name: str = ""
    why: str = ""
    until: int | None = None


_ACTS = {
    "taken": N_("taken on"),
    "left": N_("left to others"),
    "shelved": N_("shelved"),
    "unshelved": N_("taken off the shelf"),
    "back": N_("came back from the shelf"),
    "quiet": N_("suppressed by the mode"),
    "forward": N_("put before people, since the mode was left"),
    "did": N_("told the place to"),
    "ticked": N_("done"),
    "unticked": N_("not done after all"),
}


def history_of(alarm: Alarm) -> list[Line]:
    """All that happened to an alarm, in order."""
    lines = [Line(alarm.raised_at, t("raised"))]
    lines += [Line(a.at, t(_ACTS.get(a.act, a.act)), a.name, a.why, a.until) for a in alarm.acts.all()]
    if alarm.count > 1 and alarm.last_at:
        lines.append(Line(alarm.last_at, t("repeated, {count} times in all", count=alarm.count)))
    if alarm.ended_at:
        lines.append(Line(alarm.ended_at, t("its cause was over")))
    if alarm.acknowledged_at:
        lines.append(Line(alarm.acknowledged_at, t("answered"), alarm.acknowledged_name, alarm.note))
    return sorted(lines, key=lambda line: line.at)
