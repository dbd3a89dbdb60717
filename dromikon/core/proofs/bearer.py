"""A token: in the header, or as the last part of the address for senders that know no headers."""

import hmac
from typing import ClassVar

from dromikon.core.proofs.base import Asked, Proof, Refusal, Settings
from dromikon.core.words import N_

WRONG = Refusal("token", "This intake does not exist or its token is another one.", 'Bearer realm="intake"')


def among(given: str, wanted: Settings) -> bool:
    """Whether it is one of the secrets that count."""
    shown = wanted.kept(given).encode()
    return any(hmac.compare_digest(shown, secret.encode()) for secret in wanted.secrets if secret)


class Bearer(Proof):
    """RFC 6750."""

    name: ClassVar[str] = "bearer"
    label: ClassVar[str] = N_("a bearer token")
    compared: ClassVar[bool] = True

    def check(self, asked: Asked, settings: Settings) -> Refusal | None:
        kind, _, given = asked.headers.get("authorization", "").partition(" ")
        return None if kind.lower() == "bearer" and among(given.strip(), settings) else WRONG

    def once(self, asked: Asked, settings: Settings) -> None:
        return None


class Address(Proof):
    """The secret is part of the address: whoever sees the address may send."""

    name: ClassVar[str] = "address"
    label: ClassVar[str] = N_("a secret in the address")
    compared: ClassVar[bool] = True

    def check(self, asked: Asked, settings: Settings) -> Refusal | None:
        return None if among(asked.key, settings) else WRONG

    def once(self, asked: Asked, settings: Settings) -> None:
        return None
