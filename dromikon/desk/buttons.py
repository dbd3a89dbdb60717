"""Desk buttons: which this person has, how they stand, and the pressing of one."""

from dataclasses import dataclass
from typing import Any

from django.db import transaction

from dromikon.clock import now_ms
from dromikon.core.buttons import ButtonPart
from dromikon.core.hours import Hours, Place
from dromikon.core.instants import Instant
from dromikon.core.kinds import PRESSED_AT
from dromikon.core.rules.document import Problem
from dromikon.daybook import feed
from dromikon.daybook.models import ActRow, EnginePosition, EvaluatorRow
from dromikon.daybook.services import record_act, tell
from dromikon.hours.models import Hours as HoursRow
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.sources.models import Point, Sightline


class NotNow(Exception):
    """It stands so already, or may not be pressed now; the message says why."""


@dataclass(frozen=True, slots=True)
class Button:
    """A button as it is shown: where it stands, and whether it is on (None: it has one position)."""

    id: str
    name: str
    part: ButtonPart
    cameras: tuple[str, ...]
    on: bool | None
    #: Why it cannot be pressed now; empty where it can.
    why_not: str = ""

    @property
    def word(self) -> str:
        """What it is called, in the position in which it stands."""
        return self.name if self.on is None else f"{self.name}: {self.part.word(self.on)}"

    @property
    def next_word(self) -> str:
        """What pressing it leads to."""
        return self.name if self.on is None else self.part.word(not self.on)

    def to_json(self) -> dict[str, Any]:
        return {
            "id": self.id, "name": self.name, "icon": self.part.icon, "asks": self.part.asks, "cameras": list(self.cameras),
            "on": self.on, "word": self.word, "next": self.next_word, "row": self.part.row or not self.cameras,
            "why_not": self.why_not,
        }  # fmt: skip


def part_of(point: Point) -> ButtonPart:
    """How a button is pressed; as it was before buttons could be set up: for a moment, by whoever may."""
    return ButtonPart.model_validate(point.button) if point.button else ButtonPart()


def buttons(access: Access) -> list[Button]:
    """The buttons that this person has, by name; those that they may not press say why."""
    points = list(Point.objects.filter(site=access.site, kind="button", retired_at=None).order_by("name"))
    stands, seen, at = _positions(access.site.id), _first_sightlines(points), now_ms()
    return [_button(access, p, stands.get(p.id, False), seen.get(p.id, ()), at) for p in points if _has(access, p)]


def press(access: Access, id: str, camera: str = "", on: bool | None = None) -> Button:
    """Press a button, at a camera where it stands under one. Of two positions it is told which one is wanted, so that two
    people who mean the same do not undo each other. Raises NotNow, Refused, PermissionDenied, Point.DoesNotExist."""
    access.need(May.PRESS)
    with transaction.atomic():
        point = Point.objects.get(pk=id, site=access.site, kind="button", retired_at=None)
        if not _has(access, point):
            raise Point.DoesNotExist
        at, stands = now_ms(), _positions(access.site.id).get(id, False)
        button = _button(access, point, stands, _first_sightlines([point]).get(id, ()), at)
        if button.why_not:
            raise NotNow(button.why_not)
        if camera and camera not in button.cameras:
            raise Refused([Problem(path="camera", message="The button does not stand under this camera.")])
        wanted = None if button.on is None else (not button.on if on is None else on)
        if wanted is not None and wanted == button.on:
            raise NotNow(f"It is “{button.part.word(wanted)}” already.")
        _press(access, button, wanted, camera, at)
    return button if wanted is None else _button(access, point, wanted, button.cameras, at)


def _press(access: Access, button: Button, wanted: bool | None, camera: str, at: Instant) -> None:
    position = "" if wanted is None else button.part.word(wanted)
    seen = Point.objects.filter(id=camera).first() if camera else None
    fields = {"person": access.person.shown_name} | ({"position": position} if position else {})
    fields |= {"camera": seen.name, PRESSED_AT: seen.id} if seen else {}
    told = {"position": position} if position else {}
    record(access.site, access.person, "pressed", f"point:{button.id}", at, name=button.name, **told)
    record_act(access.site.id, "pressed", at, point=button.id, fields=fields, on=wanted)
    if wanted is not None:
        tell(feed.button(access.site.id, button.id, wanted, access.person.shown_name, at))


def _has(access: Access, point: Point) -> bool:
    groups = [ref.id for ref in part_of(point).groups]
    return not groups or bool(access.groups.intersection(groups)) or access.may(May.EDIT_SOURCES)


def _button(access: Access, point: Point, on: bool, seen: tuple[str, ...], at: Instant) -> Button:
    part = part_of(point)
    cameras = tuple(ref.id for ref in part.cameras) or seen
    return Button(point.id, point.name, part, cameras, on if part.two else None, _why_not(access, part, at))


def _why_not(access: Access, part: ButtonPart, at: Instant) -> str:
    if not access.may(May.PRESS):
        return "Your role may not press buttons."
    known = HoursRow.objects.filter(id=part.hours.id, site=access.site).first() if part.hours else None
    if known is None:
        return ""
    hours = Hours.model_validate({**known.document, "id": known.id, "name": known.name})
    place = Place(access.site.zone, access.site.latitude, access.site.longitude)
    return "" if hours.contains(at, place) else f"It is pressed in the hours “{known.name}” only."


def _positions(site: str) -> dict[str, bool]:
    """How buttons with two positions stand: as the engine knows, and as was pressed since."""
    rows = EvaluatorRow.objects.filter(site=site, rule="", key__startswith="button.on@").values_list("key", "row")
    found = {key.partition("@")[2]: bool(row.get("on")) for key, row in rows}
    taken = EnginePosition.objects.values_list("act", flat=True).first() or 0
    since = ActRow.objects.filter(site=site, type="pressed", id__gt=taken).order_by("id")
    for body in since.values_list("body", flat=True):
        if body.get("on") is not None:
            found[body["point"]] = bool(body["on"])
    return found


def _first_sightlines(points: list[Point]) -> dict[str, tuple[str, ...]]:
    """The camera that a button stands under where it says none itself: the first that looks at it."""
    found: dict[str, tuple[str, ...]] = {}
    for point, camera in (
        Sightline.objects.filter(point__in=points).order_by("order").values_list("point_id", "camera_id")
    ):
        found.setdefault(point, (camera,))
    return found
