"""The kinds of event with their phases and fields, as forms offer them."""

from typing import Any

from dromikon.core.kinds import CLOCK, KINDS, NOT_COMPARED, FieldKind, Kind
from dromikon.core.rules.comparison import OCCURRED
from dromikon.core.words import t

OWN_TIME = {"name": OCCURRED, "type": "time", "unit": "", "choices": []}
OWN_TIME_LABEL = "the time"


def kinds_offered() -> list[dict[str, Any]]:
    """The kinds that somebody can choose: what the clock sets off is none of them."""
    return [_kind(k) for k in KINDS if k.name != CLOCK]


def _kind(kind: Kind) -> dict[str, Any]:
    return {
        "name": kind.name,
        "label": kind.label,
        "phases": [p.value for p in kind.phases],
        "point_kinds": list(kind.point_kinds),
        "fields": [
            *(_field(f) for f in kind.fields if f.type not in NOT_COMPARED),
            {**OWN_TIME, "label": t(OWN_TIME_LABEL)},
        ],
    }


def _field(field: FieldKind) -> dict[str, Any]:
    return {
        "name": field.name, "label": field.label, "type": field.type, "unit": field.unit,
        "choices": list(field.choices), "words": {choice: t(choice) for choice in field.choices},
    }  # fmt: skip
