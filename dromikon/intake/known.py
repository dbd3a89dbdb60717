"""Whom an intake knows, read from the configuration and remembered briefly."""

import time
from dataclasses import dataclass
from ipaddress import IPv4Network, IPv6Network, ip_address, ip_network

from asgiref.sync import sync_to_async

from dromikon import secrets
from dromikon.clock import now_ms
from dromikon.core.proofs import PROOFS, Settings
from dromikon.sources.models import Intake

#: How long a known intake is trusted before it is looked up again, in seconds; so many are remembered.
REMEMBER, MOST = 2.0, 1000


@dataclass(frozen=True, slots=True)
class Known:
    """An intake that takes messages: how its senders prove who they are, from where they may send, and how much at a time."""

    proof: str
    settings: Settings
    senders: tuple[IPv4Network | IPv6Network, ...]
    largest: int
    rate: int = 500

    def lets(self, caller: str) -> bool:
        """Whether messages from an address are taken."""
        if not self.senders:
            return True
        try:
            address = ip_address(caller)
        except ValueError:
            return False
        address = getattr(address, "ipv4_mapped", None) or address
        return any(address in network for network in self.senders)


class Directory:
    """Looks intakes up, each once in two seconds."""

    def __init__(self) -> None:
        self._known: dict[str, tuple[float, Known | None]] = {}

    async def find(self, intake: str) -> Known | None:
        """An intake that takes messages, or None."""
        kept = self._known.get(intake)
        if kept is None or kept[0] < time.monotonic():
            found = await sync_to_async(known_intake)(intake)
            if len(self._known) >= MOST:
                self._known.clear()
            kept = self._known[intake] = (time.monotonic() + REMEMBER, found)
        return kept[1]


def known_intake(intake: str) -> Known | None:
    """As the configuration has it now. Secrets that cannot be opened count for nothing."""
    row = Intake.objects.filter(id=intake, enabled=True, retired_at=None).first()
    if row is None:
        return None
    overlaps = row.before_until is not None and row.before_until > now_ms()
    compared = PROOFS[row.proof].compared
    found = (
        (row.token_digest, row.before_digest) if compared else (_opened(row.secret_sealed), _opened(row.before_sealed))
    )
    counting = tuple(secret for secret, counts in zip(found, (True, overlaps), strict=True) if secret and counts)
    settings = Settings(
        counting, secrets.digest_of_token if compared else str, row.user, row.header, row.prefix, row.encoding,
        row.hashing, row.cipher, _opened(row.private_sealed),
    )  # fmt: skip
    return Known(row.proof, settings, tuple(ip_network(n, strict=False) for n in row.senders), row.largest, row.rate)


def _opened(sealed: str) -> str:
    try:
        return secrets.unseal(sealed)
    except secrets.SealBroken:
        return ""
