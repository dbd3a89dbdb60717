"""Whom and what steps go to, as people call it."""

from dromikon.core.facts import Facts
from dromikon.core.words import N_, t

#: Lanes of the whole installation, whomever a step in them is for.
SHARED = {
    "mail": N_("The mail server"),
    "gateway:text": N_("The gateway for text messages"),
    "gateway:push": N_("The gateway for push messages"),
    "gateway:call": N_("The gateway for voice calls"),
    "gateway:chat": N_("The gateway for chat messages"),
}


def receiver(target: str, facts: Facts) -> str:
    """Whom or what a step goes to, as people call it."""
    sort, _, id = target.partition(":")
    if sort == "person":
        return next((m.name for m in facts.members if m.id == id), t("somebody who is gone"))
    if sort in ("host", "script"):
        return id
    if sort == "destination":
        return facts.name_of("destination", id) or t("a destination that is gone")
    point = facts.point_by_id.get(target)
    return point.name if point else facts.name_of("counter", target) or target


def at_the_other_end(lane: str, target: str, facts: Facts) -> str:
    """Who it is that a lane leads to, by the target of one of its steps."""
    return t(SHARED[lane]) if lane in SHARED else receiver(target, facts)
