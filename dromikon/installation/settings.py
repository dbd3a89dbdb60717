"""Settings of the whole installation: each a document with a default, kept when an administrator changes it."""

from typing import Any, ClassVar, TypeVar

from django.db import transaction

from dromikon.clock import now_ms
from dromikon.core.rules.parts import Part
from dromikon.installation.models import Setting
from dromikon.people.access import Everywhere
from dromikon.people.audit import record


class Document(Part):
    """Settings that belong together. Every field has a default."""

    #: Under which name they are kept.
    kept_as: ClassVar[str]


AnyDocument = TypeVar("AnyDocument", bound=Document)


def setting(sort: type[AnyDocument]) -> AnyDocument:
    """How it is set now. What an earlier release kept and this one does not know any more is left out."""
    kept: dict[str, Any] = Setting.objects.filter(name=sort.kept_as).values_list("value", flat=True).first() or {}
    return sort.model_validate({name: value for name, value in kept.items() if name in sort.model_fields})


def keep_setting(who: Everywhere, value: Document) -> None:
    """Set it from now on. Raises PermissionDenied."""
    who.need()
    at = now_ms()
    with transaction.atomic():
        Setting.objects.update_or_create(
            name=value.kept_as, defaults={"value": value.model_dump(mode="json"), "changed_at": at}
        )
        record(None, who.person, f"set {value.kept_as}", f"setting:{value.kept_as}", at)
