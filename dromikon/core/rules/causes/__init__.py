"""The causes a rule can have. Register one more with one line below."""

from dromikon.core.registry import Registry
from dromikon.core.rules.causes.base import Answer, Cause, Memory
from dromikon.core.rules.causes.button import ButtonCause
from dromikon.core.rules.causes.event import EventCause
from dromikon.core.rules.causes.lasting import LastingCause

CAUSES: Registry[type[Cause]] = Registry("cause")
CAUSES.add("event", EventCause)
CAUSES.add("lasting", LastingCause)
CAUSES.add("button", ButtonCause)

__all__ = ["CAUSES", "Answer", "Cause", "Memory"]
