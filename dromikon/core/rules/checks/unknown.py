"""Check: something named does not exist (any more)."""

from collections.abc import Iterator

from dromikon.core.kinds import KINDS
from dromikon.core.rules.checks.base import Finding, Reading
from dromikon.core.rules.comparison import OCCURRED, FieldCondition
from dromikon.core.rules.in_list import ListCondition
from dromikon.core.rules.wording import COMMON, FILTERS, places

REFERENCE, NOWHERE, FIELD = "unknown-reference", "no-point", "unknown-field"


def unknown_reference(reading: Reading) -> Iterator[Finding]:
    """A point, area, hours or group that this site does not have."""
    document, facts = reading.document, reading.facts
    for path, what, ref in document.refs():
        if facts.name_of(what, ref.id) is None:
            reason = f"There is no {what} “{ref.name or ref.id}” at this site."
            yield Finding(REFERENCE, "error", path, reason, f"Choose another {what} or take it out.")


def no_point(reading: Reading) -> Iterator[Finding]:
    """A selection that no point of the right sort falls into, so that the rule can never fire."""
    for path, name, where in reading.document.cause.selections():
        kind = KINDS[name]
        if not where.resolve(reading.facts, kind.point_kinds):
            sorts = kind.point_kinds or ("point",)
            reason = f"No {' or '.join(sorts)} is selected, so this never fires."
            hint = f"“{kind.label}” comes from a {sorts[0]}."
            yield Finding(NOWHERE, "error", f"cause.{path}", reason, hint)


def unknown_field(reading: Reading) -> Iterator[Finding]:
    """A field or filter in a condition or text that the kind does not have."""
    document = reading.document
    kind = KINDS[document.cause.event_kind()]
    names = {f.name for f in kind.fields}
    offered = ", ".join(sorted(names | set(COMMON)))
    for tree_path, about, tree in document.conditions():
        its = {f.name for f in KINDS[about].fields}
        for path, leaf in tree.leaves(tree_path):
            field = leaf.field if isinstance(leaf, FieldCondition | ListCondition) else OCCURRED
            if field not in its and field != OCCURRED:
                reason = f"“{KINDS[about].label}” has no field “{field}”."
                yield Finding(FIELD, "error", path, reason, f"It has: {', '.join(sorted(its)) or 'none'}.")
    for i, step in enumerate(document.response):
        for name, text in step.texts():
            for place, filter_name in places(text):
                if place not in names and place not in COMMON:
                    reason = f"The text names a field “{place}” that “{kind.label}” does not have."
                    yield Finding(FIELD, "error", f"response.{i}.{name}", reason, f"It may use: {offered}.")
                elif filter_name and filter_name not in FILTERS:
                    reason = f"There is no filter “{filter_name}”."
                    yield Finding(FIELD, "error", f"response.{i}.{name}", reason, f"There are: {', '.join(FILTERS)}.")
