"""What every sort of thing that is set up has, whatever it is."""

import hashlib
import json
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any, ClassVar, Generic, TypeVar

from django.db import transaction
from django.http import Http404
from pydantic import ValidationError
from pydantic_core import ErrorDetails

from dromikon.clock import now_ms
from dromikon.core.rules.document import Problem
from dromikon.core.rules.parts import Part
from dromikon.core.words import N_
from dromikon.daybook.services import record_act
from dromikon.people.access import Access, Everywhere
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.sites.models import Retirable

Who = Access | Everywhere
Document = TypeVar("Document", bound=Part)
Thing = TypeVar("Thing", bound=Retirable)


@dataclass(frozen=True, slots=True)
class Row:
    """One thing as it is listed. `about` goes with the sort's columns; `depth`: how far inside others it stands; verbs are
    those of the sort that can be done to it now."""

    id: str
    name: str
    document: Part
    about: tuple[str, ...] = ()
    depth: int = 0
    verbs: tuple[str, ...] = ()
    retirable: bool = True

    @property
    def version(self) -> str:
        """Tells whether it is still as it was when somebody opened it."""
        return version_of(self.document)


@dataclass(frozen=True, slots=True)
class Saved:
    """What came of a change: the thing's id, what is shown this once (a token, a password), and what is said of it."""

    id: str
    shown: str = ""
    said: str = ""


#: What is said of a test.
SENT = N_("Sent. What came of it stands in Deliveries.")


@dataclass(frozen=True, slots=True)
class Verb:
    """Something else that can be done to a thing: what its button reads, what it asks first, and the doing of it."""

    name: str
    label: str
    do: Callable[[Any, str], Saved]
    asks: str = ""


class Sort(Generic[Document]):
    """A sort of thing. Subclasses say what it is, and have the verbs."""

    name: ClassVar[str]
    label: ClassVar[str]
    #: What one of it is called: "Add an area".
    one: ClassVar[str]
    #: What belongs here, and how to begin: shown while there is none.
    about: ClassVar[str]
    icon: ClassVar[str] = "settings"
    columns: ClassVar[tuple[str, ...]] = ()
    document: type[Document]
    #: It is the installation's, not a site's.
    whole: ClassVar[bool] = False
    #: There is just one, which cannot be added or retired.
    single: ClassVar[bool] = False
    may: ClassVar[May] = May.SET_UP
    verbs: ClassVar[tuple[Verb, ...]] = ()

    def rows(self, who: Any) -> list[Row]:
        raise NotImplementedError

    def row(self, who: Any, id: str) -> Row:
        """Raises Http404."""
        found = next((row for row in self.rows(who) if row.id == id), None)
        if found is None:
            raise Http404("There is no such thing here.")
        return found

    def save(self, who: Any, id: str | None, document: Document) -> Saved:
        """Add one, or change one. Raises Refused, PermissionDenied."""
        raise NotImplementedError

    def retire(self, who: Any, id: str) -> None:
        """Take one out of use. Raises Refused, PermissionDenied."""
        raise NotImplementedError

    def used_by(self, who: Any, id: str) -> list[str]:
        """Names of what would miss it."""
        return []

    def allowed(self, who: Who) -> bool:
        """Whether somebody may set up such things."""
        return who.may if isinstance(who, Everywhere) else who.may(self.may)

    def check_allowed(self, who: Who) -> None:
        """Raise PermissionDenied."""
        if isinstance(who, Everywhere):
            who.need()
        else:
            who.need(self.may)

    def read(self, content: Any) -> Document:
        """A document from outside. Raises Refused with the path of each offending field."""
        try:
            return self.document.model_validate(content)
        except ValidationError as error:
            raise Refused(problems_of(error)) from error


def problems_of(error: ValidationError) -> list[Problem]:
    """What pydantic found, where it found it."""
    return [Problem(path=".".join(map(str, e["loc"])), message=_said(e)) for e in error.errors(include_url=False)]


def _said(error: ErrorDetails) -> str:
    """What is wrong, for a person."""
    limit = error.get("ctx", {})
    if error["type"] == "missing" or limit.get("min_length") == 1:
        return "This is needed."
    if error["type"] == "string_too_long":
        return f"At most {limit['max_length']} characters."
    if error["type"] == "string_pattern_mismatch":
        return "Letters, digits and . _ @ + - only, without gaps."
    text = error["msg"].removeprefix("Value error, ")
    return text if text.endswith((".", "?")) else f"{text}."


def version_of(document: Part) -> str:
    """A short digest of a document."""
    content = json.dumps(document.model_dump(mode="json"), sort_keys=True)
    return hashlib.sha256(content.encode()).hexdigest()[:16]


def refuse(path: str, message: str) -> Refused:
    """The refusal of one field."""
    return Refused([Problem(path=path, message=message)])


def in_use(model: type[Thing], access: Access, id: str, what: str, path: str = "id") -> Thing:
    """A thing of the site that is not retired; `what` it is called when it is not there. Raises Refused at the path."""
    found = model._default_manager.filter(site=access.site, id=id, retired_at=None).first()
    if found is None:
        raise refuse(path, f"There is no such {what} any more.")
    return found


@contextmanager
def change(access: Access, verb: str, subject: str, name: str) -> Iterator[int]:
    """One change of a site: in one transaction, in the audit trail, and told to the engine. Gives the instant."""
    at = now_ms()
    with transaction.atomic():
        yield at
        record(access.site, access.person, verb, subject, at, name=name)
        record_act(access.site.id, "facts", at)
