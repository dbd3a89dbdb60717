"""Secrets at rest: sealed with keys derived from the one in `config.key`."""

import base64
import hashlib
import hmac

from cryptography.fernet import Fernet, InvalidToken
from cryptography.hazmat.primitives.hashes import SHA256
from cryptography.hazmat.primitives.kdf.hkdf import HKDF

from dromikon import config


class SealBroken(Exception):
    """A sealed secret cannot be opened: the key is another one, or the text was changed."""


def derived(purpose: str) -> bytes:
    """A 32-byte key for one purpose (HKDF-SHA-256)."""
    return HKDF(algorithm=SHA256(), length=32, salt=None, info=f"dromikon/{purpose}".encode()).derive(config.key())


def _fernet() -> Fernet:
    return Fernet(base64.urlsafe_b64encode(derived("seal")))


def seal(text: str) -> str:
    """Encrypt a secret for keeping; empty stays empty."""
    return _fernet().encrypt(text.encode()).decode() if text else ""


def unseal(sealed: str) -> str:
    """The secret again. Raises SealBroken."""
    if not sealed:
        return ""
    try:
        return _fernet().decrypt(sealed.encode()).decode()
    except InvalidToken as error:
        raise SealBroken("A kept secret cannot be opened with this key.") from error


def digest_of_token(token: str) -> str:
    """How tokens are kept and compared: HMAC-SHA-256, so that a stolen table gives no token away."""
    return hmac.new(derived("token"), token.encode(), hashlib.sha256).hexdigest()
