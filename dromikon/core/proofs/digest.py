"""User and password by digest (RFC 7616, SHA-256 or MD5 with qop=auth)."""

import hashlib
import hmac
from typing import ClassVar

from dromikon.core.proofs.base import Asked, Proof, Refusal, Settings
from dromikon.core.reading import parameters
from dromikon.core.words import N_

REALM = "intake"
HASHES = {"SHA-256": hashlib.sha256, "MD5": hashlib.md5}
#: A nonce counts for so long, in ms.
LASTS = 300_000


class Digest(Proof):
    """Nonces are instants that are signed with the secret, so that none need be kept; each answer counts once."""

    name: ClassVar[str] = "digest"
    label: ClassVar[str] = N_("user and password (digest)")
    compared: ClassVar[bool] = False

    def check(self, asked: Asked, settings: Settings) -> Refusal | None:
        said = _answer(asked.headers.get("authorization", ""))
        if not said:
            return self._refused(asked, settings, only_asks="authorization" not in asked.headers)
        if not _is_ours(said.get("nonce", ""), asked.at, settings):
            return self._refused(asked, settings, stale=True, guess=False)
        given = said.get("response", "").encode()
        right = any(hmac.compare_digest(given, _wanted(said, asked, s, settings).encode()) for s in settings.secrets)
        fits = said.get("uri") == asked.target and said.get("username") == settings.user
        return None if right and fits else self._refused(asked, settings)

    def once(self, asked: Asked, settings: Settings) -> tuple[str, int]:
        said = _answer(asked.headers.get("authorization", ""))
        return f"{said.get('nonce')}/{said.get('nc')}/{said.get('cnonce')}", asked.at + LASTS

    def _refused(
        self, asked: Asked, settings: Settings, stale: bool = False, guess: bool = True, only_asks: bool = False
    ) -> Refusal:
        nonce = _nonce(asked.at, settings.secrets[0]) if settings.secrets else ""
        more = ", stale=true" if stale else ""
        challenge = f'Digest realm="{REALM}", qop="auth", algorithm=SHA-256, nonce="{nonce}"{more}'
        return Refusal(
            "password",
            "The user or the password is another one.",
            challenge,
            guess=guess and not only_asks,
            only_asks=only_asks,
        )


def _answer(header: str) -> dict[str, str]:
    kind, _, rest = header.partition(" ")
    return parameters(rest) if kind.lower() == "digest" else {}


def _nonce(at: int, secret: str) -> str:
    return f"{at}.{hmac.new(secret.encode(), f'nonce {at}'.encode(), hashlib.sha256).hexdigest()[:32]}"


def _is_ours(nonce: str, now: int, settings: Settings) -> bool:
    at = nonce.partition(".")[0]
    if not (at.isascii() and at.isdigit() and len(at) < 16) or not 0 <= now - int(at) <= LASTS:
        return False
    return any(hmac.compare_digest(nonce.encode(), _nonce(int(at), s).encode()) for s in settings.secrets)


def _wanted(said: dict[str, str], asked: Asked, secret: str, settings: Settings) -> str:
    made = HASHES.get(said.get("algorithm", "MD5").upper(), hashlib.sha256)

    def digest(text: str) -> str:
        return made(text.encode(), usedforsecurity=False).hexdigest()

    first, second = digest(f"{settings.user}:{REALM}:{secret}"), digest(f"{asked.method}:{said.get('uri', '')}")
    tail = f"{said.get('nc', '')}:{said.get('cnonce', '')}:{said.get('qop', '')}"
    return digest(f"{first}:{said.get('nonce', '')}:{tail}:{second}")
