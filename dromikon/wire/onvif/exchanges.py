"""What was asked and answered lately, with nothing secret in it, so that it can be shown to a device's maker."""

import re
from collections import deque
from dataclasses import asdict, dataclass
from typing import Any

#: So many exchanges are kept, and so much of each message, in characters.
MOST, LONGEST = 30, 6_000
MASKED = "•••"
#: What WS-Security and device management carry in elements; one that is cut off in the middle is masked, too.
_SECRETS = re.compile(r"(<(?:[\w.-]+:)?(?:Password|Nonce|PasswordDigest|Key|PSK)\b[^>]*>)[^<]*", re.IGNORECASE)
_IN_ADDRESS = re.compile(r"(//)[^/@\s<\"]+@")


@dataclass(frozen=True, slots=True)
class Exchange:
    """One request and what came of it. `took`: ms. `status`: of HTTP, 0 when nothing came; `failed`: why."""

    at: int
    operation: str
    asked: str
    status: int
    answered: str
    took: int
    failed: str = ""


class Exchanges:
    """The last ones of a device."""

    def __init__(self) -> None:
        self._kept: deque[Exchange] = deque(maxlen=MOST)
        #: Grows with each one.
        self.count = 0

    def note(
        self, at: int, operation: str, asked: bytes, status: int, answered: bytes, took: float, failed: str = ""
    ) -> None:
        """Keep one."""
        self.count += 1
        self._kept.append(Exchange(at, operation, masked(asked), status, masked(answered), round(took), failed))

    def plain(self) -> list[dict[str, Any]]:
        """The newest first."""
        return [asdict(exchange) for exchange in reversed(self._kept)]


def masked(data: bytes) -> str:
    """A message as text, cut short, without secrets. It is masked before it is cut, so that no half of one is left."""
    text = _SECRETS.sub(rf"\1{MASKED}", data[: 4 * LONGEST].decode("utf-8", "replace"))
    text = _IN_ADDRESS.sub(rf"\1{MASKED}@", text)
    return text if len(text) <= LONGEST else f"{text[:LONGEST]} …"
