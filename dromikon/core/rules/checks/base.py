"""What a check is: it reads a rule as a colleague would. One more is one file here and one line in `__init__`."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from dromikon.core.facts import Facts
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


Check = Callable[[RuleDocument, Facts], Iterator[Finding]]
