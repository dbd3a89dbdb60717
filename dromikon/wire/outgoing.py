"""Which hosts may be called: those that an administrator allows (DROMIKON_OUTGOING, names separated by commas)."""

import os
from urllib.parse import urlsplit


class NotAllowed(Exception):
    """The host may not be called; the message says what to do."""


def hosts() -> frozenset[str]:
    """The hosts that may be called."""
    text = os.environ.get("DROMIKON_OUTGOING", "127.0.0.1,localhost")
    return frozenset(h.strip().lower() for h in text.split(",") if h.strip())


def allowed(url: str) -> str:
    """Pass an address through whose host may be called. Raises NotAllowed."""
    host = (urlsplit(url).hostname or "").lower()
    if host not in hosts():
        raise NotAllowed(f"Calls to {host} are not allowed here; an administrator can allow it (DROMIKON_OUTGOING).")
    return url
