"""Verbs on hours."""

import hashlib
import json
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
from dromikon.refusals import Overtaken, Refused


def version_of(known: Hours) -> str:
    """Tells whether hours are still as they were when somebody opened them."""
    content = json.dumps([known.name, known.document], sort_keys=True)
    return hashlib.sha256(content.encode()).hexdigest()[:16]


def save_hours(
    access: Access, name: str, content: Any, known: Hours | None = None, new_id: str | None = None, version: str = ""
) -> Hours:
    """Save a document of hours (seasons, exceptions, calendars) under a name; with `version` only where nobody else has
    changed them since. Raises Refused with the path of each offending part, Overtaken, PermissionDenied."""
    access.need(May.EDIT_RULES)
    document = kept_form(read_hours(name, content))
    at = now_ms()
    with transaction.atomic():
        if known is not None and version and version_of(Hours.objects.get(pk=known.pk)) != version:
            raise Overtaken(
                "Somebody else has changed these hours meanwhile. Load the page again to see how they stand."
            )
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


def read_hours(name: str, content: Any) -> HoursDocument:
    """A document of hours from outside. Raises Refused with the path of each offending part."""
    if not name.strip() or len(name) > 120:
        raise Refused([Problem(path="name", message="Name the hours in at most 120 characters.")])
    if not isinstance(content, dict) or {"id", "name"} & set(content):
        raise Refused([Problem(path="document", message="Give an object with seasons, exceptions and calendars.")])
    try:
        return HoursDocument.model_validate({**content, "id": "new", "name": name})
    except ValidationError as error:
        problems = [
            Problem(path="document." + ".".join(map(str, e["loc"])), message=e["msg"].removeprefix("Value error, "))
            for e in error.errors()
        ]
        raise Refused(problems) from error


def kept_form(document: HoursDocument) -> dict[str, Any]:
    """A document as it is kept and given out: without what is so by itself."""
    kept: dict[str, Any] = document.model_dump(mode="json", exclude={"id", "name"}, exclude_defaults=True)
    return kept
