"""What a check is: it reads a rule as a colleague would, or a whole rulebook. One more is one file here and one line in
`__init__`."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from dromikon.core.facts import Facts
from dromikon.core.rules.condition import Pair
from dromikon.core.rules.document import RuleDocument


@dataclass(frozen=True, slots=True)
class Mend:
    """A one-click mend: set `path` of the document to `value`."""

    label: str
    path: str
    value: Any


@dataclass(frozen=True, slots=True)
class Finding:
    """What a check found. `severity` is error (cannot go live) or warning."""

    check: str
    severity: str
    path: str
    reason: str
    hint: str = ""
    mend: Mend | None = None


@dataclass(frozen=True, slots=True)
class Known:
    """What is known besides documents and facts: how often each kind came at each point in its busiest hour of the past
    week, the hosts that a test has reached, and what the evaluator had to forget."""

    busiest_hour: Mapping[Pair, int] = field(default_factory=dict)
    tested_hosts: frozenset[str] = frozenset()
    #: How many subjects each rule had to forget early.
    forgotten: Mapping[str, int] = field(default_factory=dict)
    #: Lists whose source has given nothing good for long.
    stale_lists: frozenset[str] = frozenset()
    #: The kinds that points can send, where their device has told or they have sent before; others are left out.
    sends: Mapping[str, frozenset[str]] = field(default_factory=dict)
    #: How cameras are recorded: continuous, events or none; those of which nobody knows are left out.
    recorded: Mapping[str, str] = field(default_factory=dict)
    #: The scripts that may be run; None where nobody has looked.
    scripts: frozenset[str] | None = None


NOTHING_KNOWN = Known()


@dataclass(frozen=True)
class Reading:
    """One rule as a check reads it: id (empty for one that is not saved yet), document, the site, and what is known."""

    id: str
    document: RuleDocument
    facts: Facts
    known: Known = NOTHING_KNOWN

    @cached_property
    def triggers(self) -> frozenset[Pair]:
        """The (kind, point) pairs its cause is shown."""
        return frozenset(self.document.cause.triggers(self.facts))


Check = Callable[[Reading], Iterator[Finding]]
#: A check over several rules: answers with the id of a rule and what was found of it.
RulebookCheck = Callable[[list[Reading]], Iterator[tuple[str, Finding]]]
