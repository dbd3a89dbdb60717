"""Recognisers: services that find faces in pictures, for enrolling people and for searching by a picture."""

from typing import Annotated

from pydantic import Field

from dromikon.core.rules.controls import Secret, Words
from dromikon.core.rules.parts import Part
from dromikon.core.words import N_
from dromikon.ids import id_or_new
from dromikon.lists.models import Recogniser
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.setup.service import save_service
from dromikon.setup.sort import Row, Saved, Sort, change, in_use


class RecogniserDocument(Part):
    """A recogniser by its address. The token that it was given stays when none is typed."""

    name: Annotated[str, Field(min_length=1, max_length=120), Words(N_("Name"))]
    address: Annotated[
        str, Field(min_length=1, max_length=500), Words(N_("Address"), hint=N_("such as https://192.0.2.30"))
    ]
    token: Annotated[str, Field(max_length=500), Secret(N_("Its bearer token"))] = ""


def save_recogniser(
    access: Access, id: str | None, document: RecogniserDocument, new_id: str | None = None
) -> Recogniser:
    """Add a recogniser, or change one. Raises Refused."""
    found = in_use(Recogniser, access, id, "recogniser") if id else Recogniser(site=access.site, id=id_or_new(new_id))
    given = document.name, document.address, document.token
    save_service(access, found, "recogniser", *given, example="https://192.0.2.30", new=not id)
    return found


def retire_recogniser(access: Access, id: str) -> None:
    """Take a recogniser away. Faces that are on lists stay, and cameras tell theirs as before."""
    found = in_use(Recogniser, access, id, "recogniser")
    with change(access, "retired recogniser", f"recogniser:{found.id}", found.name) as at:
        found.retired_at = at
        found.save(update_fields=["retired_at"])


class Recognisers(Sort[RecogniserDocument]):
    name = "recognisers"
    label = N_("Recognisers")
    one = N_("Add a recogniser")
    about = N_(
        "A recogniser finds faces in pictures: people are put on lists by a photo, and looked for by one. Its templates must be of the same make as those that the cameras tell."
    )
    icon = "user"
    columns = (N_("address"),)
    document = RecogniserDocument
    may = May.EDIT_SOURCES

    def rows(self, who: Access) -> list[Row]:
        known = Recogniser.objects.filter(site=who.site, retired_at=None).order_by("name")
        return [Row(r.id, r.name, RecogniserDocument(name=r.name, address=r.address), (r.address,)) for r in known]

    def save(self, who: Access, id: str | None, document: RecogniserDocument) -> Saved:
        return Saved(save_recogniser(who, id, document).id)

    def retire(self, who: Access, id: str) -> None:
        retire_recogniser(who, id)

    def used_by(self, who: Access, id: str) -> list[str]:
        return []
