"""Ways that do not lead over HTTP: whoever comes that way all the same is refused."""

from dromikon.core.proofs.base import Asked, Proof, Refusal, Settings
from dromikon.core.proofs.bearer import WRONG


class Elsewhere(Proof):
    """It opens no way over HTTP."""

    def check(self, asked: Asked, settings: Settings) -> Refusal | None:
        return WRONG

    def once(self, asked: Asked, settings: Settings) -> None:
        return None
