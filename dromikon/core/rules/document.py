"""The rule document, `dromikon-rule/1`: the one schema that editor, API, import, sentence, checks and engine read."""

from collections.abc import Iterator
from typing import TYPE_CHECKING, Annotated, Any, Literal, Union

from pydantic import Field, ValidationError, model_validator

from dromikon.core.facts import Facts
from dromikon.core.rules.actions import ACTIONS, Action
from dromikon.core.rules.causes import CAUSES, AnyCause
from dromikon.core.rules.condition import Pair
from dromikon.core.rules.conditions import CONDITIONS, AnyCondition
from dromikon.core.rules.parts import Part, Ref

FORMAT = "dromikon-rule/1"

if TYPE_CHECKING:
    AnyAction = Action
else:
    AnyAction = Annotated[Union[tuple(ACTIONS)], Field(discriminator="do")]

MAX_DEPTH = 12


class HoursPart(Part):
    """When the rule counts: inside or outside a named Hours."""

    hours: Ref
    inside: bool = True


class HoldOff(Part):
    """At most `most` firings within `seconds`, counted per rule, point, area, or value of a field; the rest is ignored.
    With the usual one, repeats are ignored for `seconds` after a firing."""

    seconds: float = Field(gt=0, le=86_400)
    most: int = Field(default=1, ge=1, le=1000)
    per: Literal["rule", "point", "area", "field"] = "point"
    field: str = Field(default="", max_length=64)

    @model_validator(mode="after")
    def _field_named(self) -> "HoldOff":
        if (self.per == "field") != bool(self.field):
            raise ValueError("name a field exactly when holding off per field")
        return self


class RuleDocument(Part):
    """One rule: cause, provided, hours, hold-off and response."""

    format: Literal["dromikon-rule/1"] = "dromikon-rule/1"
    name: str = Field(min_length=1, max_length=120)
    purpose: str = Field(default="", max_length=120)
    cause: AnyCause
    provided: AnyCondition | None = None
    hours: HoursPart | None = None
    hold_off: HoldOff | None = None
    response: tuple[AnyAction, ...] = Field(default=(), max_length=50)

    @model_validator(mode="before")
    @classmethod
    def _not_too_deep(cls, data: Any) -> Any:
        if isinstance(data, dict) and _depth(data.get("provided")) > MAX_DEPTH * 2:
            raise ValueError(f"conditions are nested more than {MAX_DEPTH} deep")
        return data

    def looks_at(self, facts: Facts) -> set[Pair]:
        """Every (kind, point) that conditions look at besides the event."""
        points = {point for _, point in self.cause.triggers(facts)}
        return self.cause.looks_at(facts) | (self.provided.concerns(points) if self.provided else set())

    def concerns(self, facts: Facts) -> set[Pair]:
        """Every (kind, point) whose events the rule must be told of, by its cause or its conditions."""
        return set(self.cause.triggers(facts)) | self.looks_at(facts)

    def refs(self) -> list[tuple[str, str, Ref]]:
        """Every reference, as (path, what it names, reference)."""
        found = [
            (f"cause.{inside}.{path}", what, ref)
            for inside, _, where in self.cause.selections()
            for path, what, ref in where.refs()
        ]
        for path, leaf in self.provided.leaves("provided") if self.provided else []:
            named = getattr(leaf, "point", None)
            found += [(f"{path}.point", "point", named)] if named else []
        if self.hours:
            found.append(("hours.hours", "hours", self.hours.hours))
        for i, step in enumerate(self.response):
            found += [(f"response.{i}.groups.{g}", "group", ref) for g, ref in enumerate(step.recipients() or ())]
            found += [(f"response.{i}.{field}", "point", ref) for field, ref in step.points()]
        return found

    def to_json(self) -> dict[str, Any]:
        """The document as JSON, without what has its default."""
        data: dict[str, Any] = self.model_dump(mode="json", exclude_defaults=True, by_alias=True)
        return {"format": FORMAT, **_with_tags(self, data)}


def _depth(value: Any) -> int:
    """Nesting depth of JSON, without recursion, so that a hostile document cannot exhaust the stack."""
    deepest, stack = 0, [(value, 1)]
    while stack:
        item, level = stack.pop()
        deepest = max(deepest, level)
        if level > 200:
            return level
        children = item.values() if isinstance(item, dict) else item if isinstance(item, list | tuple) else ()
        stack += [(child, level + 1) for child in children]
    return deepest


def _with_tags(document: RuleDocument, data: dict[str, Any]) -> dict[str, Any]:
    """Put back the discriminators, which are defaults of their classes but not of the document."""
    full = document.model_dump(mode="json", by_alias=True)

    def restore(short: Any, whole: Any) -> Any:
        if isinstance(short, dict):
            tags = {k: whole[k] for k in ("cause", "test", "do") if isinstance(whole.get(k), str)}
            return {**tags, **{k: restore(v, whole[k]) for k, v in short.items()}}
        if isinstance(short, list):
            return [restore(s, w) for s, w in zip(short, whole, strict=True)]
        return short

    restored: dict[str, Any] = restore(data, full)
    return restored


class Problem(Part):
    """Why a document is refused, and where."""

    path: str
    message: str


def problems_of(error: ValidationError) -> list[Problem]:
    """The problems of a refused document, with dotted paths that name only fields a person wrote."""
    return [Problem(path=".".join(_visible(e["loc"])), message=_plain(e)) for e in error.errors(include_url=False)]


def _visible(location: tuple[int | str, ...]) -> Iterator[str]:
    """Drop the discriminator values that the validator mixes into a path."""
    tags = {*CAUSES.names(), *ACTIONS.names(), *CONDITIONS.names()}
    previous: int | str = ""
    for item in location:
        is_tag = item in tags and (previous in ("cause", "provided", "of") or isinstance(previous, int))
        if not is_tag:
            yield str(item)
        previous = item


def _plain(error: Any) -> str:
    if error["type"] == "extra_forbidden":
        return f"there is no field {str(error['loc'][-1])!r} here"
    if error["type"] == "missing":
        return "this is needed"
    message: str = error["msg"]
    return message.removeprefix("Value error, ")
