"""The causes a rule can have. Register one more with one line below."""

from typing import TYPE_CHECKING, Annotated, Union

from pydantic import Field

from dromikon.core.registry import Registry
from dromikon.core.rules.causes.anyof import AnyOfCause
from dromikon.core.rules.causes.apart import ApartCause
from dromikon.core.rules.causes.base import Answer, Cause, Memory, Watcher
from dromikon.core.rules.causes.button import ButtonCause
from dromikon.core.rules.causes.clock import ClockCause
from dromikon.core.rules.causes.event import EventCause
from dromikon.core.rules.causes.lasting import LastingCause
from dromikon.core.rules.causes.level import LevelCause
from dromikon.core.rules.causes.limit import LimitCause
from dromikon.core.rules.causes.roaming import RoamingCause
from dromikon.core.rules.causes.several import MissingCause, OrderCause, RepeatedCause, TogetherCause

CAUSES: Registry[type[Cause]] = Registry("cause")
CAUSES.add("event", EventCause)
CAUSES.add("lasting", LastingCause)
CAUSES.add("button", ButtonCause)
CAUSES.add("any", AnyOfCause)
CAUSES.add("together", TogetherCause)
CAUSES.add("order", OrderCause)
CAUSES.add("missing", MissingCause)
CAUSES.add("repeated", RepeatedCause)
CAUSES.add("roaming", RoamingCause)
CAUSES.add("level", LevelCause)
CAUSES.add("apart", ApartCause)
CAUSES.add("at", ClockCause)
CAUSES.add("limit", LimitCause)

if TYPE_CHECKING:
    AnyCause = Cause
else:
    AnyCause = Annotated[Union[tuple(CAUSES)], Field(discriminator="cause")]
AnyOfCause.model_rebuild(_types_namespace={"AnyCause": AnyCause})

__all__ = ["CAUSES", "Answer", "AnyCause", "Cause", "Memory", "Watcher"]
