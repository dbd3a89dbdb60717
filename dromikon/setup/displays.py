"""Displays: screens without anybody at them, on which rules put cameras up."""

from typing import Annotated, Literal

from django.utils.text import slugify
from pydantic import Field, model_validator

from dromikon.core.rules.controls import Choice, Pick, Words
from dromikon.core.rules.parts import Part, Ref
from dromikon.core.words import N_
from dromikon.daybook import feed
from dromikon.daybook.services import tell
from dromikon.desk.models import Display
from dromikon.ids import id_or_new
from dromikon.people.access import Access
from dromikon.setup.naming import rules_that_name
from dromikon.setup.sort import Row, Saved, Sort, change, in_use, refuse
from dromikon.sources.models import Point

CAMERA = ("camera",)
#: How many pictures stand beside and below each other.
LAYOUTS = {1: "1", 2: "2", 4: "2 × 2", 6: "3 × 2", 9: "3 × 3", 12: "4 × 3", 16: "4 × 4"}


class DisplayDocument(Part):
    """A display by its name, which is in its address, too."""

    name: Annotated[str, Field(min_length=1, max_length=60), Words(N_("Name"), hint=N_("in its address, too"))]
    cells: Annotated[
        Literal[1, 2, 4, 6, 9, 12, 16], Choice(N_("Pictures"), words={str(n): w for n, w in LAYOUTS.items()})
    ] = 4
    usual: Annotated[
        tuple[Ref, ...],
        Field(max_length=16),
        Pick(N_("Usually shows"), of="point", kinds=CAMERA, hint=N_("in this order, from the top left")),
    ] = ()
    shows: Annotated[
        tuple[Ref, ...],
        Field(max_length=200),
        Pick(N_("Only these may come up"), of="point", kinds=CAMERA, hint=N_("none: any camera of the site")),
    ] = ()

    @model_validator(mode="after")
    def _fits(self) -> "DisplayDocument":
        if not slugify(self.name):
            raise ValueError("Give it a name with letters or digits in it.")
        if len(self.usual) > self.cells:
            raise ValueError("It usually shows more cameras than it has pictures.")
        allowed = {ref.id for ref in self.shows}
        if allowed and any(ref.id not in allowed for ref in self.usual):
            raise ValueError("It usually shows a camera that may not come up there.")
        return self


def save_display(access: Access, id: str | None, document: DisplayDocument, new_id: str | None = None) -> Display:
    """Add a display, or change one: browsers that show it follow at once. Raises Refused."""
    display = in_use(Display, access, id, "display") if id else Display(site=access.site, id=id_or_new(new_id))
    display.name, display.slug = document.name.strip(), slugify(document.name)[:60]
    known = Display.objects.filter(site=access.site, slug=display.slug, retired_at=None).exclude(pk=display.pk)
    if known.exists():
        raise refuse("name", "Another display has this name.")
    display.cells = document.cells
    display.usual, display.shows = _cameras(access, document.usual, "usual"), _cameras(access, document.shows, "shows")
    with change(access, "changed display" if id else "added display", f"display:{display.id}", display.name) as at:
        display.save(force_insert=not id)
        tell(feed.display(access.site.id, display.id, at))
    return display


def _cameras(access: Access, refs: tuple[Ref, ...], path: str) -> list[str]:
    wanted = [ref.id for ref in refs]
    known = Point.objects.filter(site=access.site, kind="camera", retired_at=None, id__in=wanted)
    there = set(known.values_list("id", flat=True))
    gone = next((ref for ref in refs if ref.id not in there), None)
    if gone is not None:
        raise refuse(path, f"{gone.name or gone.id} is no camera of this site any more.")
    return wanted


def retire_display(access: Access, id: str) -> None:
    """Take a display away."""
    display = in_use(Display, access, id, "display")
    with change(access, "retired display", f"display:{display.id}", display.name) as at:
        display.retired_at = at
        display.save(update_fields=["retired_at"])
        tell(feed.display(access.site.id, display.id, at))


class Displays(Sort[DisplayDocument]):
    name = "displays"
    label = N_("Displays")
    one = N_("Add a display")
    about = N_(
        "A display is a screen without anybody at it, in any browser: it shows cameras, and what rules put up there."
    )
    icon = "video"
    columns = (N_("address"), N_("pictures"), N_("usually shows"))
    document = DisplayDocument

    def rows(self, who: Access) -> list[Row]:
        names = dict(Point.objects.filter(site=who.site, kind="camera").values_list("id", "name"))
        return [_row(display, names) for display in Display.objects.filter(site=who.site, retired_at=None)]

    def save(self, who: Access, id: str | None, document: DisplayDocument) -> Saved:
        return Saved(save_display(who, id, document).id)

    def retire(self, who: Access, id: str) -> None:
        retire_display(who, id)

    def used_by(self, who: Access, id: str) -> list[str]:
        return rules_that_name(who.site, id)


def _row(display: Display, names: dict[str, str]) -> Row:
    def refs(ids: list[str]) -> tuple[Ref, ...]:
        return tuple(Ref(id=id, name=names.get(id, "")) for id in ids)

    document = DisplayDocument(
        name=display.name, cells=display.cells, usual=refs(display.usual), shows=refs(display.shows)
    )  # fmt: skip
    shown = ", ".join(names.get(id, id) for id in display.usual)
    about = (f"/s/{display.site_id}/display/{display.slug}", LAYOUTS.get(display.cells, str(display.cells)), shown)
    return Row(display.id, display.name, document, about)
