"""Verbs on the daybook: what becomes journal input, and what pages are told."""

from typing import Any

from dromikon import wake
from dromikon.daybook.feed import News
from dromikon.daybook.models import ActRow, Feed


def record_act(site: str, type: str, at: int, **body: Any) -> ActRow:
    """Give the evaluator an operator's act or a change of facts. Call inside the transaction of the change."""
    wake.wake_on_commit(wake.ENGINE)
    return ActRow.objects.create(site=site, at=at, type=type, body=body)


def tell(news: News) -> None:
    """Tell pages that something changed. Call inside the transaction of the change."""
    wake.wake_on_commit(wake.PAGES)
    groups = None if news.groups is None else list(news.groups)
    Feed.objects.create(
        site=news.site, topic=news.topic, subject=news.subject, at=news.at, data=dict(news.data), groups=groups
    )


def last_told() -> int:
    """How far pages have been told. A page that is being made asks before it reads anything else: what is told from then
    on it may not show yet."""
    return Feed.objects.order_by("-id").values_list("id", flat=True).first() or 0
