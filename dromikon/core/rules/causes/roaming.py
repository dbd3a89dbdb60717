"""Cause: the same subject – a plate, a person, a card – is seen at several places within a while."""

from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal

from pydantic import Field, model_validator

from dromikon.core.events import Event
from dromikon.core.facts import Facts
from dromikon.core.rules.causes.base import Answer, Memory
from dromikon.core.rules.causes.pattern import Pattern
from dromikon.core.rules.causes.several import Forgets, SeveralCause
from dromikon.core.rules.condition import World
from dromikon.core.rules.controls import Inner, Number
from dromikon.core.rules.parts import Phrase
from dromikon.core.words import t


class RoamingCause(SeveralCause):
    """Fires when events of the pattern that belong together have come from `places` different points within `within`
    seconds, then begins anew. However often one point sees the subject, it counts once."""

    label: ClassVar[str] = "Seen about"
    speaks_of: ClassVar[str] = "what"
    cause: Literal["roaming"] = "roaming"
    what: Annotated[Pattern, Inner("What")]
    places: Annotated[int, Number("different points", start=3)] = Field(ge=2, le=50)

    @model_validator(mode="after")
    def _same_subject(self) -> "RoamingCause":
        if self.join.per in ("point", "sightline"):
            raise ValueError(
                t("what belongs to one point is never seen at several; join by a field, such as the plate")
            )
        return self

    def patterns(self) -> tuple[tuple[str, Pattern], ...]:
        return (("what", self.what),)

    @property
    def size(self) -> int:
        return self.places

    def watcher(self, facts: Facts, world: World) -> "RoamingWatcher":
        return RoamingWatcher(self.joined(facts, world), round(self.within * 1000), self.places)

    def phrases(self, facts: Facts) -> list[Phrase]:
        places = t("at {count} different points", count=self.places)
        events = self.what.phrases(facts)
        return self.within_words("{events} {places} within {time}{joined}", events=events, places=places)


@dataclass(frozen=True, slots=True)
class RoamingWatcher(Forgets):
    places: int

    def look(self, event: Event, places: list[int], join: str, memory: Memory) -> Answer | None:
        key = f"roaming|{join}"
        seen: dict[str, list[int]] = memory.get(key, {}).get("seen", {})
        seen = {point: one for point, one in seen.items() if one[0] > event.at - self.within}
        seen[event.point] = [event.at, event.seq]
        if len(seen) >= self.places:
            memory.pop(key, None)
            return Answer(fires=True, made_of=tuple(sorted(seq for _, seq in seen.values())))
        due = event.at + self.within
        memory.remember(key, {"seen": seen, "due": due})
        return Answer(due=due)
