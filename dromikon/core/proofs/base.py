"""What a proof is: it looks at what was sent and says nothing, or why it is refused."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import ClassVar, Literal, Protocol

from dromikon.core.registry import Registry
from dromikon.core.words import N_


@dataclass(frozen=True, slots=True)
class Asked:
    """One request as far as it proves anything. `headers` by name in lower case; `at`: now, ms UTC; `key`: the last part of the
    address, where an intake has its secret there; `target`: path and query."""

    method: str
    target: str
    headers: Mapping[str, str]
    body: bytes
    at: int
    key: str = ""


@dataclass(frozen=True, slots=True)
class Settings:
    """What an intake knows: the secrets that count (two while one is rotated), and what of its way can be set. `kept`: how a
    secret that is only compared is kept, such as a digest of it."""

    secrets: Sequence[str]
    kept: Callable[[str], str] = str
    user: str = ""
    header: str = "X-Signature"
    prefix: str = ""
    encoding: str = "hex"
    #: Of an SNMP user: how messages are summed and made private, and the passphrase of the latter.
    hashing: str = "sha256"
    cipher: str = "aes128"
    private: str = ""
    #: A signature's time may lie so far off, in s.
    window: int = 300


@dataclass(frozen=True, slots=True)
class Refusal:
    """Why a request is refused: a word for counters, a sentence for the sender. `challenge`: what a sender is to answer
    to (WWW-Authenticate)."""

    reason: str
    words: str
    challenge: str = ""
    #: Somebody may be guessing; and it is no more than the first half of a conversation.
    guess: bool = field(default=True, kw_only=True)
    only_asks: bool = field(default=False, kw_only=True)


class Proof(Protocol):
    """One way. `compared`: its secret is only compared, so that a digest of it is all that is kept; with others sums are made,
    and it is kept sealed."""

    name: ClassVar[str]
    label: ClassVar[str]
    compared: ClassVar[bool]
    #: By which way messages come: they are sent over HTTP, they are traps, or we fetch them.
    way: ClassVar[Literal["http", "trap", "fetched"]] = "http"
    #: Whether decoders read what comes; otherwise it says itself which events it is.
    taught: ClassVar[bool] = True
    #: What it reads, and what its senders hear, in words.
    reads: ClassVar[str] = N_("JSON, CloudEvents, batches of both, forms, the address' query, XML, text")
    answers: ClassVar[str] = N_(
        "Answered with 202 and the message's number once it is kept, or with the reason why not."
    )

    def check(self, asked: Asked, settings: Settings) -> Refusal | None:
        """Whether it is who it says. Constant time for secrets. Never raises for anything a sender can send."""
        ...

    def once(self, asked: Asked, settings: Settings) -> tuple[str, int] | None:
        """What may come only once, and until when it is to be remembered (ms UTC); None where nothing is."""
        ...


ACCEPTED = "accepted"
#: What can become of a message, and how that reads.
OUTCOMES = {
    ACCEPTED: N_("taken"), "token": N_("another token"), "password": N_("another user or password"),
    "signature": N_("a signature that does not fit"), "time": N_("a time too far from now"), "sender": N_("from elsewhere"),
    "size": N_("too large"), "replay": N_("sent before"), "flood": N_("too many at a time"), "level": N_("less secret than it is to be"),
    "cipher": N_("another passphrase for privacy"),
    "engine": N_("for another engine"),
}  # fmt: skip

PROOFS: Registry[Proof] = Registry("proof")
