"""Check: something named does not exist (any more)."""

from collections.abc import Iterator

from dromikon.core.kinds import KINDS
from dromikon.core.rules.checks.base import Finding, Reading
from dromikon.core.rules.comparison import OCCURRED, FieldCondition
from dromikon.core.rules.in_list import ListCondition
from dromikon.core.rules.wording import COMMON, FILTERS, places
from dromikon.core.words import t

REFERENCE, NOWHERE, FIELD = "unknown-reference", "no-point", "unknown-field"


def unknown_reference(reading: Reading) -> Iterator[Finding]:
    """A point, area, hours or group that this site does not have."""
    document, facts = reading.document, reading.facts
    for path, what, ref in document.refs():
        if facts.name_of(what, ref.id) is None:
            reason = t("There is no {what} “{name}” at this site.", what=t(what), name=ref.name or ref.id)
            yield Finding(REFERENCE, "error", path, reason, t("Choose another {what} or take it out.", what=t(what)))


def no_point(reading: Reading) -> Iterator[Finding]:
    """A selection that no point of the right sort falls into, so that the rule can never fire."""
    for path, name, where in reading.document.cause.selections():
        kind = KINDS[name]
        if not where.resolve(reading.facts, kind.point_kinds):
            sorts = kind.point_kinds or ("point",)
            reason = t("No {list} is selected, so this never fires.", list=t(" or ").join(map(t, sorts)))
            hint = t("“{kind}” comes from a {sort}.", kind=kind.label, sort=t(sorts[0]))
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
                reason = t("“{label}” has no field “{field}”.", label=KINDS[about].label, field=field)
                yield Finding(
                    FIELD, "error", path, reason, t("It has: {fields}.", fields=", ".join(sorted(its)) or t("none"))
                )
    for i, step in enumerate(document.response):
        for name, text in step.texts():
            for place, filter_name in places(text):
                if place not in names and place not in COMMON:
                    reason = t(
                        "The text names a field “{place}” that “{label}” does not have.", place=place, label=kind.label
                    )
                    yield Finding(
                        FIELD, "error", f"response.{i}.{name}", reason, t("It may use: {offered}.", offered=offered)
                    )
                elif filter_name and filter_name not in FILTERS:
                    reason = t("There is no filter “{filter_name}”.", filter_name=filter_name)
                    yield Finding(
                        FIELD, "error", f"response.{i}.{name}", reason, t("There are: {list}.", list=", ".join(FILTERS))
                    )
