"""A user of SNMP version 3: name and passphrases, with which messages are signed and made private. It opens no way over HTTP."""

from typing import ClassVar, Literal

from dromikon.core.proofs.base import Asked, Proof, Refusal, Settings
from dromikon.core.proofs.bearer import WRONG
from dromikon.core.words import N_


class SnmpUser(Proof):
    """The user-based security model (RFC 3414, RFC 7860)."""

    name: ClassVar[str] = "usm"
    label: ClassVar[str] = N_("an SNMP user (traps of version 3)")
    compared: ClassVar[bool] = False
    way: ClassVar[Literal["http", "trap", "fetched"]] = "trap"
    reads: ClassVar[str] = N_("traps and informs of SNMP")
    answers: ClassVar[str] = N_("A trap is kept or lost, as datagrams are; an inform is answered once it is kept.")

    def check(self, asked: Asked, settings: Settings) -> Refusal | None:
        return WRONG

    def once(self, asked: Asked, settings: Settings) -> None:
        return None
