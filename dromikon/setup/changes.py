"""Changes as page and API ask for them: somebody else's change is not overwritten, and what rules name is not taken away
unasked."""

from typing import Any

from dromikon.refusals import Overtaken
from dromikon.setup.sort import Saved, Sort, Who, refuse


class StillNamed(Exception):
    """Something else would miss what is to be retired; the message says what."""


def save(sort: Sort[Any], who: Who, id: str | None, content: Any, version: str | None = None) -> Saved:
    """Add or change a thing. With the `version` that somebody began from, only when it still is that.

    Raises Refused, Overtaken, PermissionDenied, Http404.
    """
    sort.check_allowed(who)
    if id is not None and version is not None and sort.row(who, id).version != version:
        raise Overtaken("Somebody else has changed this meanwhile. Open it again to see how it is now.")
    if id is None and sort.single:
        raise refuse("", "There is just one of these.")
    return sort.save(who, id, sort.read(content))


def retire(sort: Sort[Any], who: Who, id: str, anyway: bool = False) -> None:
    """Take a thing out of use; what rules name only when it is said that it goes `anyway`.

    Raises StillNamed, Refused, PermissionDenied, Http404.
    """
    sort.check_allowed(who)
    row = sort.row(who, id)
    if sort.single or not row.retirable:
        raise refuse("", f"{row.name} cannot be taken away.")
    users = sort.used_by(who, id)
    if users and not anyway:
        raise StillNamed(f"{row.name} is named by {_some(users)}.")
    sort.retire(who, id)


def do(sort: Sort[Any], who: Who, id: str, verb: str) -> Saved:
    """Do one of the sort's other verbs to a thing. Raises Refused, PermissionDenied, Http404."""
    sort.check_allowed(who)
    row = sort.row(who, id)
    known = next((v for v in sort.verbs if v.name == verb and v.name in row.verbs), None)
    if known is None:
        raise refuse("", "That cannot be done to it now.")
    return known.do(who, id)


def _some(names: list[str]) -> str:
    shown = ", ".join(names[:4])
    return f"{shown} and {len(names) - 4} more" if len(names) > 4 else shown
