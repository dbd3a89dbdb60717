"""Ids of configured things: random text, unique across installations, so that documents travel."""

import secrets

_LETTERS = "abcdefghjkmnpqrstuvwxyz23456789"


def new_id() -> str:
    """Twelve letters and digits without look-alikes (about 59 bits)."""
    return "".join(secrets.choice(_LETTERS) for _ in range(12))


def id_or_new(wanted: str | None) -> str:
    """A certain id, where one is wanted; else a new one."""
    return wanted or new_id()
