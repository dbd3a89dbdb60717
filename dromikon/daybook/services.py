"""Verbs on the daybook: what becomes journal input, and what pages are told."""

from typing import Any

from dromikon.core.kinds import KINDS
from dromikon.daybook.models import Act, Feed

HIDDEN = "(face template)"


def record_act(site: str, type: str, at: int, **body: Any) -> Act:
    """Give the evaluator an operator's act or a change of facts. Call inside the transaction of the change."""
    return Act.objects.create(site=site, at=at, type=type, body=body)


def shown_fields(kind: str, fields: dict[str, Any]) -> dict[str, Any]:
    """An event's fields as people and programs may see them: never a face template, which is biometric data."""
    known = KINDS.get(kind)
    hidden = {f.name for f in known.fields if f.type == "template"} if known else set()
    return {name: HIDDEN if name in hidden else value for name, value in fields.items()} if hidden else fields


def tell(site: str, topic: str, subject: str, at: int, data: dict[str, Any], groups: list[str] | None = None) -> None:
    """Tell pages that something changed. Call inside the transaction of the change."""
    Feed.objects.create(site=site, topic=topic, subject=subject, at=at, data=data, groups=groups)
