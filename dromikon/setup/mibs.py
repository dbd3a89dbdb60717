"""MIB modules: names for what traps tell by numbers."""

from typing import Annotated

from pydantic import Field

from dromikon.core.mibs.module import LONGEST, read
from dromikon.core.mibs.names import names_of
from dromikon.core.reading import NotReadable
from dromikon.core.rules.controls import FileText
from dromikon.core.rules.parts import Part
from dromikon.core.words import N_, t, tn
from dromikon.ids import id_or_new
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.setup.sort import Row, Saved, Sort, change, in_use, refuse
from dromikon.sources.mibs import definitions_of, kept
from dromikon.sources.models import Mib


class MibDocument(Part):
    """A module as its maker writes it."""

    text: Annotated[
        str,
        Field(min_length=1, max_length=LONGEST),
        FileText(N_("Module"), hint=N_("the text of a MIB file, as its maker hands it out"), accept=".mib,.my,.txt"),
    ]


def save_mib(access: Access, id: str | None, document: MibDocument, new_id: str | None = None) -> Mib:
    """Load a module, or another state of one: its names count from the next trap on. Raises Refused."""
    try:
        modules = read(document.text)
    except NotReadable as error:
        raise refuse("text", f"{str(error)[:1].upper()}{str(error)[1:]}.") from error
    name = modules[0].name
    mib = in_use(Mib, access, id, "MIB module") if id else Mib(site=access.site, id=id_or_new(new_id))
    if Mib.objects.filter(site=access.site, name=name, retired_at=None).exclude(pk=mib.pk).exists():
        raise refuse("text", f"{name} is loaded already; open it to load another state of it.")
    mib.name, mib.text = name, document.text
    mib.definitions = kept(tuple(d for module in modules for d in module.definitions))
    with change(access, "changed MIB module" if id else "added MIB module", f"mib:{mib.id}", name) as at:
        mib.changed_at = at
        mib.save(force_insert=not id)
    return mib


def retire_mib(access: Access, id: str) -> None:
    """Take a module away: what it named has its numbers alone."""
    mib = in_use(Mib, access, id, "MIB module")
    with change(access, "retired MIB module", f"mib:{mib.id}", mib.name) as at:
        mib.retired_at = at
        mib.save(update_fields=["retired_at"])


class Mibs(Sort[MibDocument]):
    name = "mibs"
    label = N_("MIB modules")
    one = N_("Load a module")
    about = N_("A MIB module gives names to what traps tell by numbers. Those of the standards are here already.")
    icon = "book"
    columns = (N_("names"), N_("lacks"))
    document = MibDocument
    may = May.EDIT_SOURCES

    def rows(self, who: Access) -> list[Row]:
        known = list(Mib.objects.filter(site=who.site, retired_at=None))
        lost = set(names_of(d for mib in known for d in definitions_of(mib.definitions)).lost)
        return [_row(mib, lost) for mib in known]

    def save(self, who: Access, id: str | None, document: MibDocument) -> Saved:
        return Saved(save_mib(who, id, document).id)

    def retire(self, who: Access, id: str) -> None:
        retire_mib(who, id)


def _row(mib: Mib, lost: set[str]) -> Row:
    """What a module lacks is what it builds upon and no module that is loaded has."""
    count = len(mib.definitions)
    lacks = sorted(lost.intersection(str(parent) for _, parent, _, _ in mib.definitions))
    shown = t("nothing") if not lacks else ", ".join(lacks[:5])
    return Row(mib.id, mib.name, MibDocument(text=mib.text), (tn("{count} name", "{count} names", count), shown))
