"""An SNMP community: who knows it may send traps. It opens no way over HTTP."""

from typing import ClassVar

from dromikon.core.proofs.base import Asked, Refusal, Settings
from dromikon.core.proofs.bearer import WRONG
from dromikon.core.words import N_


class Community:
    """Of SNMP versions 1 and 2c, in the clear (RFC 1901)."""

    name: ClassVar[str] = "community"
    label: ClassVar[str] = N_("an SNMP community (traps)")
    compared: ClassVar[bool] = True

    def check(self, asked: Asked, settings: Settings) -> Refusal | None:
        return WRONG

    def once(self, asked: Asked, settings: Settings) -> None:
        return None
