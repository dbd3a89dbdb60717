"""Verbs on cases. Who may gather one sees the pictures already; handing it over takes more."""

from collections.abc import Sequence
from contextlib import closing
from pathlib import Path
from typing import Any

from django.db import transaction
from django.db.models import Max
from django.http import Http404
from pydantic import ValidationError

from dromikon import config
from dromikon.archive.services import camera_of
from dromikon.cases.models import Case, Piece
from dromikon.clock import now_ms
from dromikon.core.cases.blurring import Blur, Seen, seen_in
from dromikon.core.instants import Instant
from dromikon.core.kinds import KINDS
from dromikon.core.rules.document import Problem, problems_of
from dromikon.core.words import t
from dromikon.daybook.models import EventRow
from dromikon.desk.services import visible_alarms
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.records.sources.events import told
from dromikon.refusals import Refused
from dromikon.scene import store
from dromikon.sources.models import Point

#: A clip is at most so long, in ms; a case has so many pieces.
LONGEST_CLIP, MOST_PIECES = 15 * 60_000, 200
#: The folder of what was copied, by case.
FOLDER = "cases"


def find_case(access: Access, number: int) -> Case:
    """A case of the site. Raises Http404."""
    case = Case.objects.filter(pk=number, site=access.site).first()
    if case is None:
        raise Http404("There is no such case at this site.")
    return case


def open_case(access: Access, title: str, note: str = "") -> Case:
    """Begin one. Raises Refused, PermissionDenied."""
    access.need(May.BOOKMARK)
    title = " ".join(title.split())
    if not title or len(title) > 200:
        raise _refused("title", t("Give the case a heading of up to 200 characters."))
    with transaction.atomic():
        case = Case.objects.create(
            site=access.site,
            title=title,
            note=note.strip()[:4_000],
            opened_at=now_ms(),
            opened_name=access.person.shown_name,
        )
        record(access.site, access.person, "opened case", f"case:{case.pk}", case.opened_at, title=case.title)
    return case


def add_clips(
    access: Access, case: Case, cameras: Sequence[str], start: Instant, end: Instant, title: str = ""
) -> list[Piece]:
    """A clip of each camera, copied from its recorder as soon as that gives it. Raises Refused, PermissionDenied, Http404."""
    access.need(May.BOOKMARK)
    if not 0 < end - start <= LONGEST_CLIP:
        raise _refused("end", t("A clip has a start and an end at most 15 minutes later."))
    if start > now_ms():
        raise _refused("start", t("That lies ahead: nothing is recorded yet."))
    points = [camera_of(access, camera)[0] for camera in dict.fromkeys(cameras)]
    clips = [
        Piece(
            sort="clip", title=title.strip()[:300] or point.name, where=point.name, camera=point.id, start=start, end=end,
            state=Piece.State.WAITING,
        )
        for point in points
    ]  # fmt: skip
    return _add(access, case, clips)


def add_still(access: Access, case: Case, camera: str, at: Instant, title: str = "") -> Piece:
    """One picture of a camera. Raises Refused, PermissionDenied, Http404."""
    access.need(May.BOOKMARK)
    point, _ = camera_of(access, camera)
    piece = Piece(
        sort="still",
        title=title.strip()[:300] or point.name,
        where=point.name,
        camera=point.id,
        start=at,
        state=Piece.State.WAITING,
    )
    return _add(access, case, [piece])[0]


def add_note(access: Access, case: Case, text: str) -> Piece:
    """Words. Raises Refused, PermissionDenied."""
    access.need(May.BOOKMARK)
    text = text.strip()
    if not text or len(text) > 8_000:
        raise _refused("text", t("A note has from 1 to 8,000 characters."))
    return _add(access, case, [Piece(sort="note", title=text.splitlines()[0][:120], words=text, start=None)])[0]


def add_event(access: Access, case: Case, seq: int) -> Piece:
    """What happened, in words as they are now. Raises Refused, PermissionDenied, EventRow.DoesNotExist."""
    access.need(May.BOOKMARK)
    row = EventRow.objects.get(seq=seq, site=access.site.id)
    kind = KINDS.get(row.kind)
    point = Point.objects.filter(pk=row.point).first()
    piece = Piece(
        sort="event", title=kind.label if kind else row.kind, words=told(row), where=point.name if point else row.point,
        start=row.occurred_at, ref=str(row.seq),
    )  # fmt: skip
    return _add(access, case, [piece])[0]


def add_alarm(access: Access, case: Case, number: int) -> Piece:
    """An alarm with how it was answered, as it is now. Raises Refused, PermissionDenied, Alarm.DoesNotExist."""
    access.need(May.BOOKMARK)
    alarm = visible_alarms(access).get(pk=number)
    point = Point.objects.filter(pk=alarm.point).first()
    answered = t("answered by {name}: {note}", name=alarm.acknowledged_name, note=alarm.note or "–")
    piece = Piece(
        sort="alarm", title=alarm.title, words=answered if alarm.acknowledged_at else t("not answered yet"),
        where=point.name if point else alarm.point, start=alarm.zero, end=alarm.ended_at, ref=str(alarm.pk),
    )  # fmt: skip
    return _add(access, case, [piece])[0]


def move_piece(access: Access, case: Case, number: int, way: int) -> None:
    """One place up (-1) or down (1). Raises Refused, PermissionDenied, Http404."""
    access.need(May.BOOKMARK)
    with transaction.atomic():
        _still_open(case)
        pieces = list(case.pieces.all())
        at = next((i for i, piece in enumerate(pieces) if piece.pk == number), None)
        if at is None:
            raise Http404("There is no such piece in this case.")
        to = max(0, min(len(pieces) - 1, at + way))
        pieces.insert(to, pieces.pop(at))
        for place, piece in enumerate(pieces):
            if piece.place != place:
                piece.place = place
                piece.save(update_fields=["place"])


def take_out(access: Access, case: Case, number: int) -> None:
    """Take a piece out; what was copied of it is deleted. Raises Refused, PermissionDenied, Http404."""
    access.need(May.BOOKMARK)
    with transaction.atomic():
        _still_open(case)
        piece = case.pieces.filter(pk=number).first()
        if piece is None:
            raise Http404("There is no such piece in this case.")
        piece.delete()
        record(
            access.site,
            access.person,
            "took out of case",
            f"case:{case.pk}",
            now_ms(),
            title=case.title,
            piece=piece.title,
        )
    for file in filter(None, (piece.file, piece.original)):
        path_of(case, file).unlink(missing_ok=True)


def hide_in(access: Access, case: Case, number: int, content: Any) -> Piece:
    """Have somebody hidden in a clip, or nobody any more. Raises Refused, PermissionDenied, Http404."""
    access.need(May.BOOKMARK)
    try:
        blur = Blur.model_validate(content)
    except ValidationError as error:
        raise Refused(problems_of(error)) from error
    with transaction.atomic():
        _still_open(case)
        piece = case.pieces.filter(pk=number, sort="clip").exclude(file="").first()
        if piece is None:
            raise Http404("There is no such clip in this case.")
        spare = piece.file if piece.original else ""
        if piece.original:
            piece.file, piece.sha256, piece.original, piece.original_sha256 = (
                piece.original,
                piece.original_sha256,
                "",
                "",
            )
        piece.blur = blur.model_dump(mode="json") if blur.does_something else None
        piece.state = Piece.State.WAITING if piece.blur else Piece.State.READY
        piece.tried_at, piece.why = 0, ""
        piece.save()
        record(
            access.site, access.person, "hid in case", f"case:{case.pk}", now_ms(), title=case.title, piece=piece.title
        )
    if spare:
        path_of(case, spare).unlink(missing_ok=True)
    return piece


def who_is_in(case: Case, piece: Piece) -> list[Seen]:
    """Who is in a clip, by what its camera said it saw."""
    if piece.sort != "clip" or piece.start is None or piece.end is None:
        return []
    with closing(store.connect()) as opened:
        return seen_in(store.sights(opened, piece.camera, piece.start, piece.end))


def close_case(access: Access, case: Case) -> None:
    """Nothing comes in any more. Raises Refused while something is waiting, PermissionDenied."""
    access.need(May.SEE_AUDIT)
    with transaction.atomic():
        _still_open(case)
        if case.pieces.filter(state=Piece.State.WAITING).exists():
            raise _refused("", t("A clip is still being copied. Close the case once it is there."))
        case.closed_at, case.closed_name = now_ms(), access.person.shown_name
        case.save()
        record(access.site, access.person, "closed case", f"case:{case.pk}", case.closed_at, title=case.title)


def delete_case(access: Access, case: Case) -> None:
    """A case with all that was copied for it. Raises PermissionDenied."""
    access.need(May.SET_UP)
    files = [file for pair in case.pieces.values_list("file", "original") for file in pair if file]
    number = case.pk
    with transaction.atomic():
        record(
            access.site,
            access.person,
            "deleted case",
            f"case:{number}",
            now_ms(),
            title=case.title,
            pieces=case.pieces.count(),
        )
        case.delete()
    folder = config.data() / FOLDER / str(number)
    for file in files:
        (folder / file).unlink(missing_ok=True)
    if folder.is_dir() and not any(folder.iterdir()):
        folder.rmdir()


def path_of(case: Case, file: str) -> Path:
    """Where something that was copied lies."""
    return config.data() / FOLDER / str(case.pk) / file


def _add(access: Access, case: Case, pieces: list[Piece]) -> list[Piece]:
    at = now_ms()
    with transaction.atomic():
        _still_open(case)
        last = case.pieces.aggregate(last=Max("place"))["last"]
        if case.pieces.count() + len(pieces) > MOST_PIECES:
            raise _refused("", t("A case has at most {most} pieces.", most=MOST_PIECES))
        for place, piece in enumerate(pieces, 0 if last is None else last + 1):
            piece.case, piece.place, piece.added_at, piece.added_name = case, place, at, access.person.shown_name
            piece.save(force_insert=True)
            told = {"title": case.title, "piece": piece.title, "sort": piece.sort}
            record(access.site, access.person, "added to case", f"case:{case.pk}", at, **told)
    return pieces


def _still_open(case: Case) -> None:
    if Case.objects.filter(pk=case.pk).values_list("closed_at", flat=True).get() is not None:
        raise _refused("", t("The case is closed: it stays as it was handed over."))


def _refused(path: str, message: str) -> Refused:
    return Refused([Problem(path=path, message=message)])
