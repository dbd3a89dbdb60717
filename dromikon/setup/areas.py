"""Areas: the places of a site, one inside another."""

from typing import Annotated

from pydantic import Field

from dromikon.core.rules.controls import Number, Pick, Words
from dromikon.core.rules.parts import Part, Ref
from dromikon.core.words import N_
from dromikon.ids import id_or_new
from dromikon.people.access import Access
from dromikon.setup.naming import rules_that_name
from dromikon.setup.sort import Row, Saved, Sort, change, in_use, refuse
from dromikon.sites.models import Area


class AreaDocument(Part):
    """A place that an operator knows by name."""

    name: Annotated[str, Field(min_length=1, max_length=120), Words(N_("Name"))]
    within: Annotated[Ref | None, Pick(N_("Lies within"), of="area", hint=N_("another area"))] = None
    order: Annotated[
        int, Field(ge=0, le=9999), Number(N_("Place in lists"), hint=N_("areas with smaller numbers come first"))
    ] = 0


def save_area(access: Access, id: str | None, document: AreaDocument, new_id: str | None = None) -> Area:
    """Add an area (under `new_id`, when its id is to be a certain one), or change one."""
    area = in_use(Area, access, id, "area") if id else Area(site=access.site, id=id_or_new(new_id))
    within = in_use(Area, access, document.within.id, "area", "within") if document.within else None
    if within is not None and area.id in _around(within):
        raise refuse("within", f"{within.name} lies within {area.name} itself.")
    area.name, area.parent, area.order = document.name.strip(), within, document.order
    with change(access, "changed area" if id else "added area", f"area:{area.id}", area.name):
        area.save(force_insert=not id)
    return area


def retire_area(access: Access, id: str) -> None:
    """Take an area away. What stood in it, and what lies within it, moves to the area around it."""
    area = in_use(Area, access, id, "area")
    with change(access, "retired area", f"area:{area.id}", area.name) as at:
        area.points.update(area=area.parent)
        area.devices.update(area=area.parent)
        Area.objects.filter(parent=area).update(parent=area.parent)
        area.retired_at = at
        area.save(update_fields=["retired_at"])


def _around(area: Area) -> set[str]:
    """An area and all that it lies within."""
    found: set[str] = set()
    here: Area | None = area
    while here is not None and here.id not in found:
        found.add(here.id)
        here = here.parent
    return found


class Areas(Sort[AreaDocument]):
    name = "areas"
    label = N_("Areas")
    one = N_("Add an area")
    about = N_(
        "Areas are the places that operators speak of: a gate, a hall, a yard. Alarms name them, rules choose them."
    )
    icon = "map-pin"
    columns = (N_("points"),)
    document = AreaDocument

    def rows(self, who: Access) -> list[Row]:
        areas = list(Area.objects.filter(site=who.site, retired_at=None).select_related("parent"))
        inside: dict[str | None, list[Area]] = {}
        for area in areas:
            inside.setdefault(area.parent_id, []).append(area)
        counts = dict.fromkeys((a.id for a in areas), 0)
        for (area_id,) in who.site.points.filter(retired_at=None).exclude(area=None).values_list("area_id"):
            counts[area_id] = counts.get(area_id, 0) + 1
        found: list[Row] = []

        def walk(parent: str | None, depth: int) -> None:
            for area in inside.get(parent, ()):
                found.append(_row(area, counts[area.id], depth))
                walk(area.id, depth + 1)

        walk(None, 0)
        return found

    def save(self, who: Access, id: str | None, document: AreaDocument) -> Saved:
        return Saved(save_area(who, id, document).id)

    def retire(self, who: Access, id: str) -> None:
        retire_area(who, id)

    def used_by(self, who: Access, id: str) -> list[str]:
        return rules_that_name(who.site, id)


def _row(area: Area, points: int, depth: int) -> Row:
    within = Ref(id=area.parent.id, name=area.parent.name) if area.parent else None
    return Row(area.id, area.name, AreaDocument(name=area.name, within=within, order=area.order), (str(points),), depth)
