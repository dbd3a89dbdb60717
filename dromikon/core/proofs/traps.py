"""Senders of traps: those who know a community, and users of version 3, who sign."""

from typing import ClassVar, Literal

from dromikon.core.proofs.elsewhere import Elsewhere
from dromikon.core.words import N_


class _Trap(Elsewhere):
    way: ClassVar[Literal["http", "trap", "fetched"]] = "trap"
    reads: ClassVar[str] = N_("traps and informs of SNMP")
    answers: ClassVar[str] = N_("A trap is kept or lost, as datagrams are; an inform is answered once it is kept.")


class Community(_Trap):
    """Of SNMP versions 1 and 2c, in the clear (RFC 1901)."""

    name: ClassVar[str] = "community"
    label: ClassVar[str] = N_("an SNMP community (traps)")
    compared: ClassVar[bool] = True


class SnmpUser(_Trap):
    """The user-based security model (RFC 3414, RFC 7860): name and passphrases, with which messages are signed and made private."""

    name: ClassVar[str] = "usm"
    label: ClassVar[str] = N_("an SNMP user (traps of version 3)")
    compared: ClassVar[bool] = False
