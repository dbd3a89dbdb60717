"""Signatures over the body with a shared secret: the Standard Webhooks scheme, and an HMAC in a header of choice."""

import base64
import hmac
from typing import ClassVar

from dromikon.core.proofs.base import Asked, Proof, Refusal, Settings
from dromikon.core.words import N_

WRONG = Refusal("signature", "The signature does not fit the body and the secret.")
#: Letters with which a secret of the Standard Webhooks scheme begins.
MARK = "whsec_"


class StandardWebhook(Proof):
    """https://www.standardwebhooks.com: id, time and body are signed (HMAC-SHA-256), several signatures may be given; each id
    counts once."""

    name: ClassVar[str] = "standard"
    label: ClassVar[str] = N_("a signature (Standard Webhooks)")
    compared: ClassVar[bool] = False

    def check(self, asked: Asked, settings: Settings) -> Refusal | None:
        id, told = asked.headers.get("webhook-id", ""), asked.headers.get("webhook-timestamp", "")
        if not id or not (told.isascii() and told.isdigit() and len(told) < 12):
            return Refusal("signature", "It carries no webhook-id and webhook-timestamp.")
        if abs(asked.at // 1000 - int(told)) > settings.window:
            return Refusal("time", "Its timestamp lies too far from now; look at the sender's clock.", guess=False)
        content = f"{id}.{told}.".encode() + asked.body
        given = [s.partition(",")[2] for s in asked.headers.get("webhook-signature", "").split() if s.startswith("v1,")]
        wanted = [base64.b64encode(hmac.digest(key_of(s), content, "sha256")).decode() for s in settings.secrets]
        fits = [hmac.compare_digest(g.encode(), w.encode()) for g in given[:10] for w in wanted]
        return None if any(fits) else WRONG

    def once(self, asked: Asked, settings: Settings) -> tuple[str, int]:
        # Twice the window, since it runs both ways.
        return asked.headers.get("webhook-id", ""), asked.at + 2 * settings.window * 1000


class Signature(Proof):
    """HMAC-SHA-256 of the body alone in a header, in hex or base64, perhaps behind a word ("sha256="). Without a time, the same
    body counts as often as it comes."""

    name: ClassVar[str] = "signature"
    label: ClassVar[str] = N_("a signature in a header")
    compared: ClassVar[bool] = False

    def check(self, asked: Asked, settings: Settings) -> Refusal | None:
        given = asked.headers.get(settings.header.lower(), "").strip()
        if not given.startswith(settings.prefix):
            return WRONG
        shown = given.removeprefix(settings.prefix)
        shown = shown.lower() if settings.encoding == "hex" else shown
        wanted = (_written(hmac.digest(s.encode(), asked.body, "sha256"), settings.encoding) for s in settings.secrets)
        return None if any(hmac.compare_digest(shown.encode(), w.encode()) for w in wanted) else WRONG

    def once(self, asked: Asked, settings: Settings) -> None:
        return None


def key_of(secret: str) -> bytes:
    """The key that a secret of the scheme stands for: base64 behind its mark; another text is taken as it is."""
    try:
        return (
            base64.b64decode(secret.removeprefix(MARK), validate=True) if secret.startswith(MARK) else secret.encode()
        )
    except ValueError:
        return secret.encode()


def _written(digest: bytes, encoding: str) -> str:
    return digest.hex() if encoding == "hex" else base64.b64encode(digest).decode()
