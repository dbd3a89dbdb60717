"""Verbs on hours."""

from typing import Any

from django.db import transaction
from pydantic import ValidationError

from dromikon.clock import now_ms
from dromikon.core.hours import Hours as HoursDocument
from dromikon.core.rules.document import Problem
from dromikon.daybook.services import record_act
from dromikon.hours.models import Hours
from dromikon.ids import id_or_new
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused


def save_hours(access: Access, name: str, content: Any, known: Hours | None = None, new_id: str | None = None) -> Hours:
    """Save a document of hours (seasons, exceptions, calendars) under a name. Raises Refused with the path of each
    offending part, PermissionDenied."""
    access.need(May.EDIT_RULES)
    document = _read(name, content)
    at = now_ms()
    with transaction.atomic():
        saved = known or Hours(site=access.site, id=id_or_new(new_id))
        saved.name, saved.document = name.strip(), document
        saved.save()
        record(
            access.site, access.person, "changed hours" if known else "made hours", f"hours:{saved.id}", at, name=name
        )
        record_act(access.site.id, "facts", at)
    return saved


def delete_hours(access: Access, known: Hours) -> None:
    """Take hours away. Rules that name them never count any more, and a check says so."""
    access.need(May.EDIT_RULES)
    at = now_ms()
    with transaction.atomic():
        record(access.site, access.person, "deleted hours", f"hours:{known.id}", at, name=known.name)
        known.delete()
        record_act(access.site.id, "facts", at)


def _read(name: str, content: Any) -> dict[str, Any]:
    if not name.strip() or len(name) > 120:
        raise Refused([Problem(path="name", message="Name the hours in at most 120 characters.")])
    if not isinstance(content, dict) or {"id", "name"} & set(content):
        raise Refused([Problem(path="document", message="Give an object with seasons, exceptions and calendars.")])
    try:
        document = HoursDocument.model_validate({**content, "id": "new", "name": name})
    except ValidationError as error:
        problems = [
            Problem(path="document." + ".".join(map(str, e["loc"])), message=e["msg"].removeprefix("Value error, "))
            for e in error.errors()
        ]
        raise Refused(problems) from error
    kept: dict[str, Any] = document.model_dump(mode="json", exclude={"id", "name"}, exclude_defaults=True)
    return kept
