"""Topics with our prefixes, whatever prefixes a device chose, so that what it says it can send and what it sends are alike."""

from collections.abc import Iterable

from dromikon.wire.onvif.namespaces import PREFIXES

_KNOWN = {uri: prefix for prefix, uri in PREFIXES.items()}


def canonical(steps: Iterable[tuple[str | None, str | None, str]]) -> str:
    """A topic from its steps, each as (namespace, the device's own prefix, name). A step in the namespace of the one before
    carries no prefix: "tns1:RuleEngine/LineDetector/mk:Near"."""
    words, last = [], None
    for space, prefix, name in steps:
        if space and space != last:
            words.append(f"{_KNOWN.get(space, prefix or 'own')}:{name}")
            last = space
        else:
            words.append(name)
    return "/".join(words)
