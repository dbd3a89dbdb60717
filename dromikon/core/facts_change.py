"""A change of facts as what has changed: a saved rule costs the journal its own size, however many rules there are.

A change names, for each part of the facts that differs, what is put (an item with the id of the one before it, where it is
new or has moved) and which ids are gone; single values are given whole. It is made from two values and applied to the JSON
of the one before, so that the journal can be read back without making values of what nobody asks for.
"""

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from dromikon.core.facts import Facts, Value

Body = dict[str, Any]
#: Parts that are a list of things with an id.
THINGS = (
    "areas", "points", "hours", "groups", "devices", "members", "lists", "counters", "destinations", "sounds", "displays",
    "rules",
)  # fmt: skip
#: The part that is a mapping of ids to lists.
MAPPING = "sightlines"
#: By this a change is told from whole facts.
MARK = "change"


def facts_change(before: Facts, after: Facts, to_json: Callable[[Value], Body]) -> Body | None:
    """What leads from one value to the other, in JSON; None when nothing has changed."""
    found: Body = {}
    for name in Facts.model_fields:
        old, new = getattr(before, name), getattr(after, name)
        if old is new or old == new:
            continue
        if name in THINGS:
            found[name] = _things(old, new, to_json)
        elif name == MAPPING:
            put = {key: list(value) for key, value in new.items() if old.get(key) != value}
            found[name] = {"put": put, "gone": [key for key in old if key not in new]}
        else:
            found[name] = list(new) if isinstance(new, tuple) else new
    return {MARK: found} if found else None


def _things(old: Sequence[Any], new: Sequence[Any], to_json: Callable[[Value], Body]) -> Body:
    known = {item.id: item for item in old}
    there = {item.id for item in new}
    order = [item.id for item in old if item.id in there]
    place = {id: i for i, id in enumerate(order)}
    put: list[list[Any]] = []
    before, last = "", -1
    for item in new:
        # Whoever stood before those it now stands behind has moved; so has whoever is new.
        stays = place.get(item.id, -1) > last
        if stays:
            last = place[item.id]
        if not stays or known[item.id] != item:
            put.append([None if stays else before, to_json(item)])
        before = item.id
    return {"put": put, "gone": [id for id in known if id not in there]}


def is_change(body: Body) -> bool:
    """Whether a journal entry of facts is a change, and not the whole."""
    return MARK in body


def applied(body: Body, change: Body) -> Body:
    """The facts after a change, as JSON, from those before. The body before is left as it is."""
    found = dict(body)
    for name, value in change[MARK].items():
        if name in THINGS:
            found[name] = _apply_things(found.get(name, ()), value)
        elif name == MAPPING:
            kept = {k: v for k, v in found.get(name, {}).items() if k not in set(value["gone"])}
            found[name] = kept | value["put"]
        else:
            found[name] = value
    return found


def _apply_things(items: Sequence[Body], change: Mapping[str, Any]) -> list[Body]:
    moved = {item["id"] for before, item in change["put"] if before is not None}
    gone = moved.union(change["gone"])
    kept = [item for item in items if item["id"] not in gone]
    changed = {item["id"]: item for before, item in change["put"] if before is None}
    found = [changed.get(item["id"], item) for item in kept] if changed else kept
    for before, item in change["put"]:
        if before is not None:
            found.insert(_behind(found, before), item)
    return found


def _behind(items: Sequence[Body], id: str) -> int:
    if not id:
        return 0
    return next((i + 1 for i, item in enumerate(items) if item["id"] == id), len(items))
