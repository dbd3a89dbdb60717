"""Intakes: addresses at which messages arrive, each with a token of its own."""

import secrets as random_secrets
from typing import Annotated

from pydantic import Field

from dromikon.core.rules.controls import Flag, Words
from dromikon.core.rules.parts import Part
from dromikon.core.words import N_, t
from dromikon.ids import id_or_new
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.secrets import digest_of_token
from dromikon.setup.sort import Row, Saved, Sort, Verb, change, in_use
from dromikon.sources.models import Intake

#: For so long after a rotation the token before counts, too, in ms.
OVERLAP = 24 * 3_600_000


class IntakeDocument(Part):
    """Where another system posts its messages."""

    name: Annotated[str, Field(min_length=1, max_length=120), Words(N_("Name"), hint=N_("the system that sends"))]
    enabled: Annotated[bool, Flag(N_("Takes messages"))] = True


def save_intake(
    access: Access, id: str | None, document: IntakeDocument, new_id: str | None = None, token: str = ""
) -> tuple[Intake, str]:
    """Add an intake, or change one. Answers with a new one's token, which is not to be had again."""
    intake = in_use(Intake, access, id, "intake") if id else Intake(site=access.site, id=id_or_new(new_id))
    shown = "" if id else token or new_token()
    if shown:
        intake.token_digest = digest_of_token(shown)
    intake.name, intake.enabled = document.name.strip(), document.enabled
    with change(access, "changed intake" if id else "added intake", f"intake:{intake.id}", intake.name):
        intake.save(force_insert=not id)
    return intake, shown


def rotate_token(access: Access, id: str) -> str:
    """A new token, shown this once. The one before counts for another day."""
    intake, made = in_use(Intake, access, id, "intake"), new_token()
    with change(access, "rotated intake token", f"intake:{intake.id}", intake.name) as at:
        intake.before_digest, intake.before_until = intake.token_digest, at + OVERLAP
        intake.token_digest = digest_of_token(made)
        intake.save(update_fields=["token_digest", "before_digest", "before_until"])
    return made


def end_overlap(access: Access, id: str) -> None:
    """The token before counts no more, at once."""
    intake = in_use(Intake, access, id, "intake")
    with change(access, "ended old intake token", f"intake:{intake.id}", intake.name):
        intake.before_digest, intake.before_until = "", None
        intake.save(update_fields=["before_digest", "before_until"])


def retire_intake(access: Access, id: str) -> None:
    """Take an intake away: what is sent to it is refused."""
    intake = in_use(Intake, access, id, "intake")
    with change(access, "retired intake", f"intake:{intake.id}", intake.name) as at:
        intake.retired_at, intake.enabled, intake.before_digest = at, False, ""
        intake.save(update_fields=["retired_at", "enabled", "before_digest"])


def new_token() -> str:
    return f"dri_{random_secrets.token_urlsafe(30)}"


def _rotate(who: Access, id: str) -> Saved:
    return Saved(id, rotate_token(who, id))


def _end_overlap(who: Access, id: str) -> Saved:
    end_overlap(who, id)
    return Saved(id)


class Intakes(Sort[IntakeDocument]):
    name = "intakes"
    label = N_("Intakes")
    one = N_("Add an intake")
    about = N_("An intake is an address at which another system posts its messages, with a token of its own.")
    icon = "webhook"
    columns = (N_("address"), N_("state"))
    document = IntakeDocument
    may = May.EDIT_SOURCES
    verbs = (
        Verb("rotate", N_("New token"), _rotate, N_("The token in use counts for another day. Make a new one?")),
        Verb(
            "end-overlap", N_("End the old token"), _end_overlap, N_("Whoever still sends with it is refused. End it?")
        ),
    )

    def rows(self, who: Access) -> list[Row]:
        return [_row(i) for i in Intake.objects.filter(site=who.site, retired_at=None).order_by("name")]

    def save(self, who: Access, id: str | None, document: IntakeDocument) -> Saved:
        intake, shown = save_intake(who, id, document)
        return Saved(intake.id, shown)

    def retire(self, who: Access, id: str) -> None:
        retire_intake(who, id)


def _row(intake: Intake) -> Row:
    state = N_("takes messages") if intake.enabled else N_("switched off")
    if intake.before_digest:
        state = N_("two tokens count")
    verbs = ("rotate", "end-overlap") if intake.before_digest else ("rotate",)
    document = IntakeDocument(name=intake.name, enabled=intake.enabled)
    return Row(intake.id, intake.name, document, (f"POST /in/{intake.id}", t(state)), verbs=verbs)
