"""An SNMP community: who knows it may send traps. It opens no way over HTTP."""

from typing import ClassVar, Literal

from dromikon.core.proofs.base import Asked, Proof, Refusal, Settings
from dromikon.core.proofs.bearer import WRONG
from dromikon.core.words import N_


class Community(Proof):
    """Of SNMP versions 1 and 2c, in the clear (RFC 1901)."""

    name: ClassVar[str] = "community"
    label: ClassVar[str] = N_("an SNMP community (traps)")
    compared: ClassVar[bool] = True
    way: ClassVar[Literal["http", "trap", "fetched"]] = "trap"
    reads: ClassVar[str] = N_("traps and informs of SNMP")
    answers: ClassVar[str] = N_("A trap is kept or lost, as datagrams are; an inform is answered once it is kept.")

    def check(self, asked: Asked, settings: Settings) -> Refusal | None:
        return WRONG

    def once(self, asked: Asked, settings: Settings) -> None:
        return None
