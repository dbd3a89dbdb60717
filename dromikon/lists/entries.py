"""The entries of a list's content, remembered."""

from functools import lru_cache

from dromikon.core.lists.watchlist import Entry
from dromikon.lists.models import Content


@lru_cache(maxsize=64)
def entries_of(content: str) -> tuple[Entry, ...]:
    """The entries of a content. A content does not change, but for an erasure,
    so the last few are remembered. Raises Content.DoesNotExist."""
    return tuple(Entry.model_validate(e) for e in Content.objects.get(digest=content).entries)
