"""Recorders: where recordings of cameras are fetched."""

from typing import Annotated

from pydantic import Field

from dromikon.core.rules.controls import Secret, Words
from dromikon.core.rules.parts import Part
from dromikon.core.words import N_
from dromikon.ids import id_or_new
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.setup.service import save_service
from dromikon.setup.sort import Row, Saved, Sort, change, in_use
from dromikon.sources.models import Recorder


class RecorderDocument(Part):
    """A recorder by its address. The token that it was given stays when none is typed."""

    name: Annotated[str, Field(min_length=1, max_length=120), Words(N_("Name"))]
    address: Annotated[
        str, Field(min_length=1, max_length=500), Words(N_("Address"), hint=N_("such as https://192.0.2.20"))
    ]
    token: Annotated[str, Field(max_length=500), Secret(N_("Its bearer token"))] = ""


def save_recorder(access: Access, id: str | None, document: RecorderDocument, new_id: str | None = None) -> Recorder:
    """Add a recorder, or change one. Raises Refused."""
    found = in_use(Recorder, access, id, "recorder") if id else Recorder(site=access.site, id=id_or_new(new_id))
    given = document.name, document.address, document.token
    save_service(access, found, "recorder", *given, example="https://192.0.2.20", new=not id)
    return found


def retire_recorder(access: Access, id: str) -> None:
    """Take a recorder away. Its cameras have no recordings any more; stills that were kept stay."""
    recorder = in_use(Recorder, access, id, "recorder")
    with change(access, "retired recorder", f"recorder:{recorder.id}", recorder.name) as at:
        recorder.point_set.update(recorder=None)
        recorder.retired_at = at
        recorder.save(update_fields=["retired_at"])


class Recorders(Sort[RecorderDocument]):
    name = "recorders"
    label = N_("Recorders")
    one = N_("Add a recorder")
    about = N_("A recorder keeps the pictures of cameras: alarms, bookmarks and the Archive fetch them there.")
    icon = "movie"
    columns = (N_("address"), N_("cameras"))
    document = RecorderDocument
    may = May.EDIT_SOURCES

    def rows(self, who: Access) -> list[Row]:
        known = Recorder.objects.filter(site=who.site, retired_at=None).order_by("name")
        return [
            Row(
                r.id,
                r.name,
                RecorderDocument(name=r.name, address=r.address),
                (r.address, str(r.point_set.filter(retired_at=None).count())),
            )
            for r in known
        ]

    def save(self, who: Access, id: str | None, document: RecorderDocument) -> Saved:
        return Saved(save_recorder(who, id, document).id)

    def retire(self, who: Access, id: str) -> None:
        retire_recorder(who, id)

    def used_by(self, who: Access, id: str) -> list[str]:
        return list(who.site.points.filter(recorder_id=id, retired_at=None).values_list("name", flat=True))
