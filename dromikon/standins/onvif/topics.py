"""What a device says it can send: a topic set made of declared topics."""

from collections.abc import Iterable
from dataclasses import dataclass
from xml.sax.saxutils import quoteattr

Items = tuple[tuple[str, str], ...]
#: The type of the one item that is an element.
RECTANGLE = "tt:Rectangle"


@dataclass(frozen=True, slots=True)
class Topic:
    """One topic below tns1, or below a namespace of its maker's own that its path names, whether it is a property, and the items of its source and data with their types."""

    path: str
    state: bool
    source: Items
    data: Items


def topic_set(topics: Iterable[Topic]) -> str:
    """A wstop:TopicSet."""
    tree: dict[str, object] = {}
    for topic in topics:
        here = tree
        for step in topic.path.split("/"):
            here = here.setdefault(step, {})  # type: ignore[assignment]
        here[""] = topic
    return f"<wstop:TopicSet>{_branches(tree, first=True)}</wstop:TopicSet>"


def _branches(tree: dict[str, object], first: bool = False) -> str:
    made = ""
    for name, below in tree.items():
        if isinstance(below, dict):
            topic = below.get("")
            mark = ' wstop:topic="true"' if isinstance(topic, Topic) else ""
            tag = f"tns1:{name}" if first and ":" not in name else name
            inner = _description(topic) if isinstance(topic, Topic) else ""
            made += f"<{tag}{mark}>{inner}{_branches(below)}</{tag}>"
    return made


def _description(topic: Topic) -> str:
    parts = "".join(
        f"<tt:{part}>{''.join(_item(n, t) for n, t in items)}</tt:{part}>"
        for part, items in (("Source", topic.source), ("Data", topic.data))
        if items
    )
    return f'<tt:MessageDescription IsProperty="{str(topic.state).lower()}">{parts}</tt:MessageDescription>'


def _item(name: str, type: str) -> str:
    sort = "Element" if type == RECTANGLE else "Simple"
    return f"<tt:{sort}ItemDescription Name={quoteattr(name)} Type={quoteattr(type)}/>"
