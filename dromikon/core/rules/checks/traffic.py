"""Checks on what really goes on: busy kinds, calls never tested."""

from collections.abc import Iterator
from urllib.parse import urlsplit

from dromikon.core.kinds import KINDS
from dromikon.core.rules.causes.event import EventCause
from dromikon.core.rules.checks.base import Finding, Mend, Reading
from dromikon.core.rules.in_list import ListCondition
from dromikon.core.rules.state import CAP
from dromikon.core.words import t

HOLD_OFF, TESTED, FORGETS, STALE = "no-hold-off", "not-tested", "forgets-subjects", "stale-list"
#: More often than this in an hour wants a hold-off.
BUSY = 20


def no_hold_off(reading: Reading) -> Iterator[Finding]:
    """A rule that acts on every single event of a kind that came often within an hour of last week."""
    document = reading.document
    if document.hold_off is not None or not isinstance(document.cause, EventCause):
        return
    counts = ((reading.known.busiest_hour.get(pair, 0), pair) for pair in reading.triggers)
    most, pair = max(counts, default=(0, ("", "")))
    if most <= BUSY or not any(
        step.do in ("alarm", "popup", "notice", "webhook", "http") for step in document.response
    ):
        return
    name = reading.facts.name_of("point", pair[1]) or pair[1]
    reason = t(
        "“{label}” came {most} times within one hour of last week at {name}, and nothing is held off.",
        label=KINDS[pair[0]].label,
        most=most,
        name=name,
    )
    mend = Mend(t("Quiet for 60 s per point"), "hold_off", {"seconds": 60, "per": "point"})
    yield Finding(HOLD_OFF, "warning", "hold_off", reason, t("Let repeats rest for a while, or join them."), mend)


def forgets(reading: Reading) -> Iterator[Finding]:
    """More subjects came within its windows than a rule may remember, so that the oldest were forgotten."""
    count = reading.known.forgotten.get(reading.id, 0)
    if count:
        reason = t(
            "{count} subjects were forgotten early: more than {CAP} different ones came within its windows.",
            count=count,
            CAP=f"{CAP:,}",
        )
        hint = t("Shorten the window, or join by something that has fewer values.")
        yield Finding(FORGETS, "warning", "cause", reason, hint)


def stale_list(reading: Reading) -> Iterator[Finding]:
    """A comparison with a list that is kept current, but has not been for long."""
    for tree_path, _, tree in reading.document.conditions():
        for path, leaf in tree.leaves(tree_path):
            if isinstance(leaf, ListCondition) and leaf.among.id in reading.known.stale_lists:
                name = reading.facts.name_of("list", leaf.among.id) or leaf.among.id
                reason = t("The list “{name}” is stale: its source has given nothing usable for long.", name=name)
                yield Finding(
                    STALE,
                    "warning",
                    f"{path}.among",
                    reason,
                    t("Lists says when it was last fetched, and why not since."),
                )


def not_tested(reading: Reading) -> Iterator[Finding]:
    """A call to another system that no test has ever reached."""
    for i, step in enumerate(reading.document.response):
        host = urlsplit(str(getattr(step, "url", ""))).hostname
        if host and host not in reading.known.tested_hosts:
            reason = t("No call to {host} has ever been answered.", host=host)
            yield Finding(TESTED, "warning", f"response.{i}.url", reason, t("Send a test before it matters."))
