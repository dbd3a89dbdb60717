"""What effects that call a host over HTTP have in common: its lane, and how an answer is read."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar
from urllib.parse import urlsplit

from dromikon import config
from dromikon.core.instants import Instant
from dromikon.core.rules.outcome import StepOrder
from dromikon.engine.effects.base import OutsideEffect, Sent
from dromikon.wire import calls
from dromikon.wire.outgoing import NotAllowed

_IN_ORDER = "one by one"


@dataclass(frozen=True, slots=True)
class Good:
    """What a good answer is: one of some status codes (none: any 2xx), with something in it."""

    codes: tuple[int, ...] = ()
    contains: str = ""

    def wrong(self, answer: calls.Answer) -> str | None:
        """Why an answer is not good, as far as there is more to say than its status; None for one that is."""
        if self.codes and answer.status not in self.codes:
            return f"{', '.join(map(str, self.codes))} was wanted."
        if not self.codes and not answer.is_success:
            return answer.beginning
        if self.contains and self.contains not in answer.text:
            return f"It does not contain “{self.contains}”."
        return None


ANY_2XX = Good()


class HostEffect(OutsideEffect):
    """One lane a host, several calls at a time. A rule whose calls must arrive in order has a lane of its own."""

    patient: ClassVar[bool] = True

    def lane(self, order: StepOrder, now: Instant) -> str:
        return f"{order.target} {_IN_ORDER} {order.rule}" if order.payload.get("in_order") else order.target

    def width(self, lane: str) -> int:
        return 1 if f" {_IN_ORDER} " in lane else config.calls_at_once()

    async def call(
        self, method: str, url: str, body: str = "", headers: Mapping[str, str] | None = None, *, again_when_busy: bool,
        good: Good = ANY_2XX, patience: float | None = None, login: calls.LogIn | None = None,
    ) -> Sent:  # fmt: skip
        """One request. Not sent for certain: retry; sent without an answer: unconfirmed. With `again_when_busy`, an answer
        that says "later" (5xx, 408, 429) is tried again too."""
        host = urlsplit(url).hostname
        try:
            answer = await calls.call(
                method, url, body=body.encode() if body else None, headers=headers, patience=patience, login=login
            )
        except NotAllowed as error:
            return Sent("failed", str(error))
        except calls.NoAddress as error:
            return Sent("failed", f"The address cannot be called: {error}")
        except calls.NotSent as error:
            return Sent("retry", f"{host} cannot be reached: {error}")
        except calls.NoAnswer as error:
            return Sent("unconfirmed", f"{host} did not answer: {error}")
        said = f"{host} answered HTTP {answer.status}."
        if again_when_busy and (answer.status >= 500 or answer.status in (408, 429)):
            return Sent("retry", said)
        wrong = good.wrong(answer)
        return Sent("done", said) if wrong is None else Sent("failed", f"{said} {wrong}".strip())
