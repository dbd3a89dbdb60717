"""Verbs on the desk."""

import re
from collections.abc import Iterable
from dataclasses import dataclass

from django.db import transaction
from django.db.models import Case, Q, QuerySet, When

from dromikon.archive.models import Bookmark
from dromikon.clock import now_ms
from dromikon.core.alarms.states import OPEN_TO_ANSWER, OUTCOMES, AlarmState, NotPossible, acknowledge
from dromikon.core.rules.document import Problem
from dromikon.daybook import feed
from dromikon.daybook.services import record_act, tell
from dromikon.desk.models import Alarm
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused

MAX_NOTE, MAX_TAGS, MAX_TAG = 2000, 20, 40


class AlreadyAnswered(Exception):
    """Somebody else was first; the message says who."""


def visible_alarms(access: Access) -> QuerySet[Alarm]:
    """The alarms of the site that this person may see."""
    alarms = Alarm.objects.filter(site=access.site)
    if access.may(May.SEE_ALL_ALARMS):
        return alarms
    mine = Q(pk__in=[])
    for group in access.groups:
        mine |= Q(groups_text__contains=f"|{group}|")
    return alarms.filter(mine)


def waiting(access: Access, most: int | None = None) -> list[Alarm]:
    """Alarms that are neither closed, shelved nor suppressed, most urgent first: those to be answered before those that are
    only still on; the first `most` of them."""
    return list(in_order(access)[:most])


def in_order(access: Access) -> QuerySet[Alarm]:
    """What `waiting` is made of."""
    away = (AlarmState.CLOSED, AlarmState.SHELVED, AlarmState.SUPPRESSED)
    to_answer = Case(When(state__in=OPEN_TO_ANSWER, then=0), default=1)
    return visible_alarms(access).exclude(state__in=away).order_by(to_answer, "rank", "-raised_at", "-id")


def alarms_by_point(access: Access) -> dict[str, str]:
    """By point, the priority of the most urgent alarm there that nobody has answered."""
    found = visible_alarms(access).filter(state__in=OPEN_TO_ANSWER).order_by("-rank")
    return dict(found.values_list("point", "priority"))


@dataclass(frozen=True, slots=True)
class Answer:
    """What is said of an alarm: a note and tags, which its run's bookmarks take over, and what it was."""

    note: str = ""
    tags: tuple[str, ...] = ()
    outcome: str = ""

    @classmethod
    def of(cls, note: str, tags: Iterable[str], outcome: str = "") -> "Answer":
        cleaned = sorted({t.strip().lstrip("#").lower() for t in tags if t.strip().lstrip("#")})
        return cls(note.strip(), tuple(cleaned), outcome)


def answer(
    access: Access, alarm_id: int, note: str = "", tags: Iterable[str] = (), at: int | None = None, outcome: str = ""
) -> Alarm:
    """Acknowledge an alarm, with a note and tags that its run's bookmarks take over.

    Raises AlreadyAnswered, Refused (a note is needed, or too long), PermissionDenied, Alarm.DoesNotExist.
    """
    access.need(May.ACKNOWLEDGE)
    given = Answer.of(note, tags, outcome)
    moment = at if at is not None else now_ms()
    with transaction.atomic():
        alarm = addressed_alarm(access, alarm_id)
        _answer(access, alarm, given, moment)
    return alarm


def answer_several(access: Access, ids: Iterable[int], given: Answer) -> tuple[list[int], dict[int, str]]:
    """Answer several alarms alike. Returns those that were, and for the others why not: each is answered for itself."""
    access.need(May.ACKNOWLEDGE)
    done, refused, moment = [], {}, now_ms()
    for id in dict.fromkeys(ids):
        try:
            with transaction.atomic():
                alarm = addressed_alarm(access, id)
                if alarm.alone:
                    raise Refused([Problem(path="alarms", message="This alarm is answered by itself.")])
                _answer(access, alarm, given, moment)
        except Alarm.DoesNotExist:
            refused[id] = "There is no such alarm."
        except (AlreadyAnswered, Refused) as error:
            refused[id] = _said(error)
        else:
            done.append(id)
    return done, refused


def _said(error: AlreadyAnswered | Refused) -> str:
    return " ".join(p.message for p in error.problems) if isinstance(error, Refused) else str(error)


def addressed_alarm(access: Access, alarm_id: int) -> Alarm:
    """An alarm that is for this person. Raises Alarm.DoesNotExist."""
    alarm = Alarm.objects.get(pk=alarm_id, site=access.site)
    if not access.receives(alarm.groups):
        raise Alarm.DoesNotExist
    return alarm


def _answer(access: Access, alarm: Alarm, given: Answer, moment: int) -> None:
    if alarm.acknowledged_at is not None:
        raise AlreadyAnswered(f"{alarm.acknowledged_name} has already answered this alarm.")
    _check(alarm, given)
    try:
        standing = acknowledge(alarm.standing)
    except NotPossible as error:
        raise AlreadyAnswered(str(error)) from error
    alarm.acknowledged_at, alarm.acknowledged_by = moment, access.person
    alarm.acknowledged_name, alarm.note, alarm.tags = access.person.shown_name, given.note, list(given.tags)
    alarm.outcome = given.outcome
    alarm.stand(standing, moment)
    alarm.words = " ".join((alarm.title, given.note, *(f"#{t}" for t in given.tags))).casefold()
    alarm.save()
    for bookmark in Bookmark.objects.filter(run=alarm.run):
        bookmark.note = given.note or bookmark.note
        bookmark.tags = sorted({*bookmark.tags, *given.tags})
        bookmark.gather_words()
        bookmark.save(update_fields=["note", "tags", "words"])
    told = {"title": alarm.title, "note": given.note, "tags": list(given.tags)}
    told |= {"outcome": given.outcome} if given.outcome else {}
    record(access.site, access.person, "acknowledged", f"alarm:{alarm.pk}", moment, **told)
    record_act(access.site.id, "acknowledged", moment, run=alarm.run, person=str(access.person.pk))
    by = alarm.acknowledged_name
    tell(feed.alarm(access.site.id, alarm.pk, alarm.state, alarm.zero, alarm.groups, moment, by=by))


def find_alarms(access: Access, text: str, tag: str = "") -> QuerySet[Alarm]:
    """Answered alarms that the person may see, by words of their title, note or tags, newest first."""
    found = visible_alarms(access).exclude(words="").order_by("-zero", "-id")
    for word in text.casefold().split()[:10]:
        found = found.filter(words__contains=word)
    return found.filter(words__regex=rf"(^|\s)#{re.escape(tag.strip().lstrip('#').casefold())}($|\s)") if tag else found


def _check(alarm: Alarm, given: Answer) -> None:
    problems = []
    if alarm.note_required and not given.note:
        problems.append(Problem(path="note", message="Say in a few words what it was; this alarm needs a note."))
    if len(given.note) > MAX_NOTE:
        problems.append(Problem(path="note", message=f"A note has at most {MAX_NOTE} characters."))
    if alarm.tags_required and not given.tags:
        problems.append(Problem(path="tags", message="Give it a tag by which it is found again; this alarm needs one."))
    if len(given.tags) > MAX_TAGS or any(len(t) > MAX_TAG for t in given.tags):
        problems.append(Problem(path="tags", message=f"At most {MAX_TAGS} tags of {MAX_TAG} characters each."))
    if alarm.outcome_required and not given.outcome:
        problems.append(Problem(path="outcome", message="Say what it was: real, false, a test, or your own people."))
    if given.outcome and given.outcome not in OUTCOMES:
        problems.append(Problem(path="outcome", message=f"An outcome is one of {', '.join(OUTCOMES)}."))
    if problems:
        raise Refused(problems)
