"""Who passed: faces and plates that cameras read, with what lists know of them, and who was there on which day."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Literal

from dromikon.authoring.sightings import SAME_FACE, value_of
from dromikon.core.boxes import cut_out, read_box
from dromikon.core.counting import day_start
from dromikon.core.facts import Facts
from dromikon.core.hours import wall_clock
from dromikon.core.instants import Instant, iso
from dromikon.core.lists.plates import tidy
from dromikon.core.lists.similarity import NoTemplate, Templates
from dromikon.core.lists.watchlist import WatchList as ListValue
from dromikon.core.passages import Passage, Presence, Reading, passages, presences
from dromikon.core.rules.document import Problem
from dromikon.core.words import t
from dromikon.daybook.models import EventRow
from dromikon.facts import names_of
from dromikon.lists.models import WatchList
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.refusals import Refused

Sort = Literal["faces", "plates"]
#: The kind of event of a sort, its field, and the lists that know of it.
SORTS: dict[Sort, tuple[str, str, str]] = {
    "faces": ("face.seen", "template", "people"), "plates": ("plate.read", "plate", "plates"),
}  # fmt: skip
#: So similar, in percent, somebody may be whom a picture shows.
PERHAPS = 70.0
#: So many readings are looked through at once; so long, in ms.
MOST, LONGEST = 20_000, 400 * 86_400_000
#: The size of pictures of which parts are shown.
WIDE, TALL = 1920, 1080


@dataclass(frozen=True, slots=True)
class Passed:
    """A passage with what is known of it: the entry that it is, its list (empty for a stranger) and the colour of that, how similar it is in percent, and
    the first camera that looks there."""

    passage: Passage
    who: str
    list: str
    colour: str
    similar: float | None
    place: str
    camera: str

    @property
    def part(self) -> str:
        """The part of a picture of WIDE by TALL pixels that shows them; empty where that was not said."""
        box = read_box(self.passage.best.box)
        if box is None:
            return ""
        left, top, right, bottom = cut_out(box, WIDE, TALL)
        return f"{left} {top} {right - left} {bottom - top}"

    @property
    def known(self) -> bool:
        return bool(self.list)


def passed(access: Access, sort: Sort, start: Instant, end: Instant) -> Iterator[Passed]:
    """Who passed in a stretch, the latest first; each is looked up in the lists when it is asked for. Raises Refused,
    PermissionDenied."""
    return _looked_up(access, sort, reversed(_passages(access, sort, start, end)))


def _looked_up(access: Access, sort: Sort, found: Iterable[Passage]) -> Iterator[Passed]:
    facts, lists = names_of(access.site), _lists(access, sort)
    return (_passed(p, sort, facts, lists) for p in found)


def _passages(access: Access, sort: Sort, start: Instant, end: Instant) -> list[Passage]:
    access.need(May.EDIT_LISTS)
    if not 0 < end - start <= LONGEST:
        raise Refused([Problem(path="end", message="A stretch ends after it begins, and is at most 400 days long.")])
    readings = _readings(access, sort, start, end)
    if len(readings) > MOST:
        raise Refused(
            [Problem(path="start", message=f"More than {MOST} were read in that stretch: choose a shorter one.")]
        )
    return passages(readings, same_face if sort == "faces" else same_plate)


def _readings(access: Access, sort: Sort, start: Instant, end: Instant) -> list[Reading]:
    """In order, but for one more than can be looked through."""
    kind, field, _ = SORTS[sort]
    rows = EventRow.objects.filter(
        site=access.site.id, kind=kind, occurred_at__gte=start, occurred_at__lt=end, initial=False, test=False
    ).order_by("occurred_at")[: MOST + 1]
    return [
        Reading(
            r.seq, r.occurred_at, r.point, str(r.fields[field]), float(r.fields.get("confidence") or 0),
            str(r.fields.get("box") or ""),
        )
        for r in rows if r.fields.get(field)
    ]  # fmt: skip


def _lists(access: Access, sort: Sort) -> list[tuple[WatchList, ListValue]]:
    known = WatchList.objects.filter(site=access.site, sort=SORTS[sort][2]).select_related("content")
    return [(x, value_of(x)) for x in known]


def same_face(one: str, other: str) -> bool:
    """Whether two templates are of one person; what is no template, or of another length, is of nobody."""
    return _likeness(one, other) >= SAME_FACE


def _likeness(one: str, other: str) -> float:
    try:
        nearest = Templates.of([one]).nearest(other)
    except NoTemplate:
        return 0.0
    return nearest[1] if nearest else 0.0


def same_plate(one: str, other: str) -> bool:
    return tidy(one) == tidy(other)


def _passed(passage: Passage, sort: Sort, facts: Facts, lists: Sequence[tuple[WatchList, ListValue]]) -> Passed:
    who, known, similar = _known(passage.best, sort, facts, lists)
    point = passage.best.point
    cameras = facts.cameras_of(point)
    return Passed(
        passage, who, known.name if known else "", known.colour if known else "", similar,
        facts.name_of("point", point) or point, cameras[0] if cameras else "",
    )  # fmt: skip


def _known(
    best: Reading, sort: Sort, facts: Facts, lists: Sequence[tuple[WatchList, ListValue]]
) -> tuple[str, WatchList | None, float | None]:
    """Who it is, of which list, and how similar; of a plate that no list has, the plate itself."""
    today = wall_clock(best.at, facts.zone).date()
    lists = [(known, listed) for known, listed in lists if not known.cameras or best.point in known.cameras]
    if sort == "plates":
        for known, listed in lists:
            if match := listed.exact(best.value, today):
                return match.entry.shown, known, None
        return best.value, None, None
    return _face(best.value, today, lists)


def _face(
    template: str, today: date, lists: Sequence[tuple[WatchList, ListValue]]
) -> tuple[str, WatchList | None, float | None]:
    """The most similar entry of all lists that takes a face so similar for it."""
    most: float | None = None
    best: tuple[float, str, WatchList] | None = None
    for known, listed in lists:
        try:
            match = listed.similar(template, today)
        except NoTemplate:
            return "", None, None
        if match is None or match.similarity is None:
            continue
        most = max(most or 0.0, match.similarity)
        if match.similarity >= known.likeness and (best is None or match.similarity > best[0]):
            best = match.similarity, match.entry.shown, known
    shown = round(best[0] if best else most, 1) if most is not None else None
    return (best[1], best[2], shown) if best else ("", None, shown)


def like(access: Access, sort: Sort, event: int, start: Instant, end: Instant) -> Iterator[Passed]:
    """Those of the same face or plate as an event read, the latest first. Raises Refused, PermissionDenied."""
    row = EventRow.objects.filter(site=access.site.id, seq=event).first()
    value = row.fields.get(SORTS[sort][1]) if row is not None else None
    if not value:
        raise Refused([Problem(path="like", message="This event has read nothing of that sort.")])
    same = same_face if sort == "faces" else same_plate
    found = reversed(_passages(access, sort, start, end))
    return _looked_up(access, sort, (p for p in found if same(str(value), p.best.value)))


def resembling(access: Access, template: str, start: Instant, end: Instant) -> list[tuple[Passed, float]]:
    """Those whose face resembles a template, the most similar first, with how similar in percent. Raises Refused,
    PermissionDenied."""
    found = _passages(access, "faces", start, end)
    alike = sorted(Templates.of([p.best.value for p in found]).like(template, PERHAPS), key=lambda one: -one[1])
    looked_up = _looked_up(access, "faces", (found[place] for place, _ in alike))
    return list(zip(looked_up, (percent for _, percent in alike), strict=True))


def attendance(access: Access, sort: Sort, start: Instant, end: Instant) -> list[Presence]:
    """Who of the lists was there on which day, on the site's wall clock. Raises Refused, PermissionDenied."""
    zone = access.site.zone
    known = ((p.who, p.passage) for p in passed(access, sort, start, end) if p.known)
    return presences(known, lambda at: day_start(at, zone))


def table_of(access: Access, found: Sequence[Presence]) -> list[list[str | int]]:
    """Head and rows of an attendance table; times by the site's wall clock, the first also in UTC."""
    facts, zone = names_of(access.site), access.site.zone
    head = [t("Day"), t("Who"), t("First"), t("Last"), t("Times"), t("Where"), t("Not seen"), t("First (UTC)")]
    return [list(head), *(_row(p, facts, zone) for p in found)]


def _row(p: Presence, facts: Facts, zone: str) -> list[str | int]:
    places = ", ".join(facts.name_of("point", point) or point for point in p.places)
    gaps = ", ".join(f"{_clock(a, zone)}–{_clock(b, zone)}" for a, b in p.gaps)
    day = wall_clock(p.day, zone).strftime("%Y-%m-%d")
    return [day, p.who, _clock(p.first, zone), _clock(p.last, zone), p.count, places, gaps, iso(p.first)]


def _clock(at: Instant, zone: str) -> str:
    return wall_clock(at, zone).strftime("%H:%M")
