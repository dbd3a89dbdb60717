"""The rule document, `dromikon-rule/1`: the one schema that editor, API, import, sentence, checks and engine read."""

from collections.abc import Iterator
from typing import TYPE_CHECKING, Annotated, Any, Literal, Union

from pydantic import Field, ValidationError, field_validator, model_validator

from dromikon.core.facts import Facts
from dromikon.core.reading import whole_or_none
from dromikon.core.rules.actions import ACTIONS, Action
from dromikon.core.rules.causes import CAUSES, AnyCause
from dromikon.core.rules.condition import Condition, Pair
from dromikon.core.rules.conditions import CONDITIONS, AnyCondition
from dromikon.core.rules.controls import Choice, Flag, Inner, Name, Nodes, Number, When, WordList, Words
from dromikon.core.rules.parts import Part, Ref
from dromikon.core.rules.within import HoursPart
from dromikon.core.words import t

FORMAT = "dromikon-rule/1"

if TYPE_CHECKING:
    AnyAction = Action
else:
    AnyAction = Annotated[Union[tuple(ACTIONS)], Field(discriminator="do")]

MAX_DEPTH = 12


class HoldOff(Part):
    """At most `most` firings within `seconds`, counted per rule, point, area, or value of a field. With the usual one,
    repeats are kept back for `seconds` after a firing.

    `then` says what becomes of the rest: `ignore` it, `join` it to the open alarm with a count (until somebody answers,
    and for as long as repeats come within `seconds` of each other), or `sum` it up in one daybook line at the end."""

    seconds: Annotated[float, Number("for", unit="s", start=60)] = Field(gt=0, le=86_400)
    most: Annotated[int, Number("after", unit="firings")] = Field(default=1, ge=1, le=1000)
    per: Annotated[Literal["rule", "point", "area", "field"], Choice("per")] = "point"
    field: Annotated[
        str, Name("Which field", of="field", only="text,choice,number", bare=True, when=When("per", ("field",)))
    ] = Field(default="", max_length=64)
    then: Annotated[
        Literal["ignore", "join", "sum"],
        Choice("and", words={"ignore": "ignore them", "join": "join them to the alarm", "sum": "sum them up"}),
    ] = "ignore"

    @model_validator(mode="after")
    def _fits(self) -> "HoldOff":
        if (self.per == "field") != bool(self.field):
            raise ValueError(t("name a field exactly when holding off per field"))
        if self.then == "join" and self.most > 1:
            raise ValueError(t("repeats are joined to one alarm: leave 'most' at 1"))
        return self


class Stop(Part):
    """When what is still pending after the start is cancelled and what is held is let go: at the `on_end` of the state,
    when somebody has answered (`on_acknowledged`), or when nobody has within `unanswered` seconds."""

    on_end: Annotated[bool, Flag("when it ends")] = False
    on_acknowledged: Annotated[bool, Flag("when somebody has answered", start=True)] = False
    unanswered: Annotated[float | None, Number("when nobody has answered within", unit="s")] = Field(
        default=None, gt=0, le=86_400
    )

    @model_validator(mode="after")
    def _says_when(self) -> "Stop":
        if not (self.on_end or self.on_acknowledged or self.unanswered):
            raise ValueError(t("say when the response stops: on_end, on_acknowledged or unanswered"))
        return self


class RuleDocument(Part):
    """One rule: cause, provided, hours, hold-off and response."""

    format: Literal["dromikon-rule/1"] = "dromikon-rule/1"
    name: Annotated[str, Words("Name")] = Field(min_length=1, max_length=120)
    purpose: Annotated[str, Words("Purpose", hint="Rules of one purpose stand together in the Rulebook")] = Field(
        default="", max_length=120
    )
    tags: Annotated[
        tuple[Annotated[str, Field(min_length=1, max_length=40)], ...], WordList("Tags", hint="with commas")
    ] = Field(default=(), max_length=20)
    cause: Annotated[AnyCause, Nodes("Cause", of="cause")]
    provided: Annotated[AnyCondition | None, Nodes("Provided", of="condition")] = None
    hours: Annotated[HoursPart | None, Inner("Hours", hint="only inside or outside some Hours")] = None
    hold_off: Annotated[HoldOff | None, Inner("Hold-off", hint="keep repeats back")] = None
    response: Annotated[tuple[AnyAction, ...], Nodes("Response", of="step")] = Field(default=(), max_length=50)
    #: What a repeat of the cause at the same point does while steps are pending or held: run beside it, hold for
    #: longer, begin anew, or nothing.
    again: Annotated[
        Literal["new", "extend", "restart", "ignore"],
        Choice(
            "Again",
            hint="when it comes again at the same point while steps are pending or held",
            words={
                "new": "run beside it",
                "extend": "hold for longer",
                "restart": "begin anew",
                "ignore": "take no notice",
            },
        ),
    ] = "new"
    stop: Annotated[Stop | None, Inner("Stop", hint="cancel what is pending and let go what is held")] = None

    #: Whether somebody may say that they want to hear nothing of it by mail, text, push or call.
    mutable: Annotated[bool, Flag("people may mute it for themselves", hint="Muting")] = False

    @model_validator(mode="before")
    @classmethod
    def _readable(cls, data: Any) -> Any:
        if isinstance(data, dict) and depth(data) > MAX_DEPTH * 2 + 4:
            raise ValueError(t("conditions are nested more than {MAX_DEPTH} deep", MAX_DEPTH=MAX_DEPTH))
        return data

    @field_validator("format", mode="before")
    @classmethod
    def _of_this_version(cls, value: Any) -> Any:
        name, _, number = str(value).partition("/")
        if name == "dromikon-rule" and (whole_or_none(number) or 0) > 1:
            raise ValueError(
                t(
                    "this document is of a later version ({version}); this installation reads {ours}",
                    version=value,
                    ours=FORMAT,
                )
            )
        return value

    def conditions(self) -> list[tuple[str, str, Condition]]:
        """Every tree of conditions, as (path, the kind it is about, tree)."""
        kind = self.cause.event_kind()
        own = [("provided", kind, self.provided)] if self.provided is not None else []
        steps = [(f"response.{i}.provided", kind, s.provided) for i, s in enumerate(self.response) if s.provided]
        return [*((f"cause.{path}", kind, tree) for path, kind, tree in self.cause.conditions()), *own, *steps]

    def within(self) -> list[tuple[str, HoursPart]]:
        """Every mention of hours that count, as (path, part)."""
        own = [("hours", self.hours)] if self.hours is not None else []
        return [*own, *((f"response.{i}.hours", s.hours) for i, s in enumerate(self.response) if s.hours)]

    def looks_at(self, facts: Facts) -> set[Pair]:
        """Every (kind, point) that conditions look at besides the event."""
        points = {point for _, point in self.cause.triggers(facts)}
        trees = [self.provided, *(step.provided for step in self.response)]
        return self.cause.looks_at(facts).union(*(tree.concerns(points) for tree in trees if tree))

    def concerns(self, facts: Facts) -> set[Pair]:
        """Every (kind, point) whose events the rule must be told of, by its cause or its conditions."""
        return set(self.cause.triggers(facts)) | self.looks_at(facts)

    @property
    def reach(self) -> float:
        """How far back, in seconds, what has happened can still matter to the rule."""
        since = [float(getattr(leaf, "seconds", 0)) for _, _, tree in self.conditions() for _, leaf in tree.leaves("")]
        held = [step.after + max(step.planned()) + step.gap + _held_for(step.hold) for step in self.response]
        quiet = self.hold_off.seconds if self.hold_off else 0.0
        return self.cause.reach + max(since, default=0.0) + quiet + (max(held, default=0) if self.again != "new" else 0)

    def refs(self) -> list[tuple[str, str, Ref]]:
        """Every reference, as (path, what it names, reference)."""
        found = [
            (f"cause.{inside}.{path}", what, ref)
            for inside, _, where in self.cause.selections()
            for path, what, ref in where.refs()
        ]
        found += [(f"cause.{path}", what, ref) for path, what, ref in self.cause.named()]
        for path, _, tree in self.conditions():
            found += [(f"{p}.{inner}", what, ref) for p, leaf in tree.leaves(path) for inner, what, ref in leaf.named()]
        found += [(f"{path}.hours", "hours", part.hours) for path, part in self.within()]
        for i, step in enumerate(self.response):
            found += [(f"response.{i}.groups.{g}", "group", ref) for g, ref in enumerate(step.recipients() or ())]
            found += [(f"response.{i}.persons.{p}", "person", ref) for p, ref in enumerate(step.by_name())]
            found += [(f"response.{i}.{path}", what, ref) for path, what, ref in step.named()]
        return found

    def to_json(self) -> dict[str, Any]:
        """The document as JSON, without what has its default."""
        data: dict[str, Any] = self.model_dump(mode="json", exclude_defaults=True, by_alias=True)
        return {"format": FORMAT, **_with_tags(self, data)}


def _held_for(hold: float | str | None) -> float:
    return float(hold) if isinstance(hold, float | int) else 0.0


def depth(value: Any) -> int:
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
        return t("there is no field {field} here", field=repr(str(error["loc"][-1])))
    if error["type"] == "missing":
        return t("this is needed")
    message: str = error["msg"]
    return message.removeprefix("Value error, ")
