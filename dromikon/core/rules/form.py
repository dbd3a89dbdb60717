"""The parts of a rule document as a person meets them: which fields each has, with what control and limits.

Read from the classes alone. The editor draws every part from this, the reference in docs/rules.md is printed from it, and
a field without a control is an error of ours that no page can hide.
"""

import types
from dataclasses import dataclass, replace
from enum import Enum
from typing import Annotated, Any, Literal, Union, get_args, get_origin

import annotated_types
from pydantic.fields import FieldInfo
from pydantic_core import PydanticUndefined

from dromikon.core.rules.actions import ACTIONS, Action
from dromikon.core.rules.causes import CAUSES
from dromikon.core.rules.conditions import CONDITIONS
from dromikon.core.rules.controls import Choice, Control, Flag, Inner, Number, Numbers
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.parts import Part
from dromikon.core.words import t

#: What a document calls parts of each registry: the field that says which one it is, and the registry.
REGISTRIES: dict[str, tuple[str, Any]] = {
    "cause": ("cause", CAUSES),
    "condition": ("test", CONDITIONS),
    "step": ("do", ACTIONS),
}
#: A step that is done once has nothing to say about repeats.
REPEATS = ("times", "gap")
#: What every step asks when it is due.
ASKED_LAST = ("provided", "hours")


@dataclass(frozen=True, slots=True)
class Field:
    """One field of a part. `many`: it holds several; `least` and `most` are limits of the number, or of how many;
    `part` names the part inside."""

    name: str
    control: Control
    required: bool
    optional: bool
    many: bool
    default: Any
    choices: tuple[Any, ...] = ()
    least: float | None = None
    most: float | None = None
    whole: bool = False
    part: str = ""

    def to_json(self) -> dict[str, Any]:
        """For the page that draws it."""
        c = self.control
        limits = {"least": self.least, "most": self.most}
        return {
            "name": self.name, "widget": c.widget, "label": t(c.label), "hint": t(c.hint), "bare": c.bare,
            "timing": c.timing,
            "when": {"field": c.when.field, "values": list(c.when.values), "negated": c.when.negated} if c.when else None,
            "start": c.start, "required": self.required, "optional": self.optional, "many": self.many,
            "default": self.default, "choices": list(self.choices), "whole": self.whole, "part": self.part,
            **{k: v for k, v in limits.items() if v is not None}, **c.more(), **self._words(),
        }  # fmt: skip

    def _words(self) -> dict[str, Any]:
        """How its choices, or yes and no, read in the language that is spoken."""
        match self.control:
            case Number(unit=unit) | Numbers(unit=unit) if unit:
                return {"unit": t(unit)}
            case Choice(words=words) if self.choices:
                return {"words": {choice: t(words.get(choice, str(choice))) for choice in self.choices}}
            case Flag(words=(str(yes), str(no))):
                return {"words": [t(yes), t(no)]}
        return {}


@dataclass(frozen=True, slots=True)
class Form:
    """A part: what it is called, what it is about, whose kind of event its fields speak of, and its fields."""

    name: str
    label: str
    about: str
    speaks_of: str
    fields: tuple[Field, ...]

    def to_json(self) -> dict[str, Any]:
        return {
            "label": t(self.label), "about": self.about, "speaks_of": self.speaks_of,
            "fields": [f.to_json() for f in self.fields],
        }  # fmt: skip


def form_of(part: type[Part]) -> Form:
    """What a part's form is made from. Raises TypeError for a field that does not say what it is for a person."""
    skipped = REPEATS if issubclass(part, Action) and not part.repeats else ()
    # What a step asks when it is due stands behind what it does.
    last = ASKED_LAST if issubclass(part, Action) else ()
    fields = tuple(
        _field(part, name, info)
        for name, info in sorted(part.model_fields.items(), key=lambda item: item[0] in last)
        if name not in (*skipped, *part.drawn) and name != "format" and not _is_tag(name, info)
    )
    return Form(part.__name__, getattr(part, "label", ""), _about(part), part.speaks_of, fields)


def _is_tag(name: str, info: FieldInfo) -> bool:
    tags = {tag for tag, _ in REGISTRIES.values()}
    return name in tags and not any(isinstance(m, Control) for m in info.metadata)


def _about(part: type[Part]) -> str:
    return " ".join((part.__doc__ or "").split())


def _field(part: type[Part], name: str, info: FieldInfo) -> Field:
    control = next((m for m in info.metadata if isinstance(m, Control)), None)
    if control is None:
        raise TypeError(f"{part.__name__}.{name} does not say what it is for a person: give it a control")
    inner, optional = _without_none(info.annotation)
    many = get_origin(inner) is tuple
    one = _unwrap(get_args(inner)[0]) if many else inner
    return _limited(
        Field(
            name=name,
            control=control,
            required=info.is_required(),
            optional=optional,
            many=many,
            default=None if info.default is PydanticUndefined else _plain(info.default),
            choices=_choices(one),
            whole=one is int,
            part=one.__name__ if isinstance(control, Inner) else "",
        ),
        info,
    )


def _limited(field: Field, info: FieldInfo) -> Field:
    for limit in info.metadata:
        match limit:
            case annotated_types.Ge(least) | annotated_types.MinLen(least):
                field = replace(field, least=_number(least))
            case annotated_types.Le(most) | annotated_types.MaxLen(most):
                field = replace(field, most=_number(most))
            case annotated_types.Gt(above):
                # The next that a person would say: one more, or a tenth of a unit.
                field = replace(field, least=_number(above) + (1 if field.whole else 0.1))
    return field


def _number(limit: Any) -> float:
    return limit if isinstance(limit, int) else float(limit)


def _without_none(annotation: Any) -> tuple[Any, bool]:
    annotation = _unwrap(annotation)
    if get_origin(annotation) in (Union, types.UnionType):
        others = [a for a in get_args(annotation) if a is not type(None)]
        if len(others) < len(get_args(annotation)) and len(others) == 1:
            return _unwrap(others[0]), True
    return annotation, False


def _unwrap(annotation: Any) -> Any:
    return get_args(annotation)[0] if get_origin(annotation) is Annotated else annotation


def _choices(annotation: Any) -> tuple[Any, ...]:
    if get_origin(annotation) is Literal:
        return get_args(annotation)
    if isinstance(annotation, type) and issubclass(annotation, Enum):
        return tuple(member.value for member in annotation)
    return ()


def _plain(value: Any) -> Any:
    if isinstance(value, Part):
        return value.model_dump(mode="json", exclude_defaults=True)
    return [_plain(item) for item in value] if isinstance(value, tuple) else value


def all_parts() -> dict[str, type[Part]]:
    """Every part that a rule document can hold, by the name of its class."""
    return parts_from(RuleDocument, *CAUSES, *CONDITIONS, *ACTIONS)


def parts_from(*roots: type[Part]) -> dict[str, type[Part]]:
    """Some parts and all that lie inside them, by the name of their class."""
    found: dict[str, type[Part]] = {}
    waiting: list[type[Part]] = [*roots]
    while waiting:
        part = waiting.pop(0)
        if part.__name__ in found:
            continue
        found[part.__name__] = part
        for info in part.model_fields.values():
            if any(isinstance(m, Inner) for m in info.metadata):
                inner, _ = _without_none(info.annotation)
                waiting.append(_unwrap(get_args(inner)[0]) if get_origin(inner) is tuple else inner)
    return found


def forms() -> dict[str, Any]:
    """All forms as JSON: the parts by name, and for each registry its tag and the parts that it offers."""
    return {
        "parts": {name: form_of(part).to_json() for name, part in all_parts().items()},
        "nodes": {
            what: {
                "tag": tag,
                "kinds": [_offered(name, known[name]) for name in known.names()],
            }
            for what, (tag, known) in REGISTRIES.items()
        },
        "root": RuleDocument.__name__,
    }


def _offered(name: str, part: Any) -> dict[str, str]:
    """A part as it is offered among others of its registry."""
    looks = {"icon": part.icon, "group": t(part.group), "way": part.way} if issubclass(part, Action) else {}
    return {"name": name, "part": part.__name__, "label": t(part.label), **looks}


def forms_of(root: type[Part]) -> dict[str, Any]:
    """The forms of one document and of what lies inside it, as JSON of the same shape."""
    parts = {name: form_of(part).to_json() for name, part in parts_from(root).items()}
    return {"parts": parts, "nodes": {}, "root": root.__name__}


__all__ = ["Field", "Form", "all_parts", "form_of", "forms", "forms_of", "parts_from"]
