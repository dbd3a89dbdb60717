"""User and password in the clear (RFC 7617), for senders that know nothing better."""

import base64
import hmac
from typing import ClassVar

from dromikon.core.proofs.base import Asked, Proof, Refusal, Settings
from dromikon.core.proofs.bearer import among
from dromikon.core.words import N_

WRONG = Refusal("password", "The user or the password is another one.", 'Basic realm="intake", charset="UTF-8"')


class Basic(Proof):
    name: ClassVar[str] = "basic"
    label: ClassVar[str] = N_("user and password (basic)")
    compared: ClassVar[bool] = True

    def check(self, asked: Asked, settings: Settings) -> Refusal | None:
        kind, _, coded = asked.headers.get("authorization", "").partition(" ")
        try:
            user, _, password = base64.b64decode(coded.strip(), validate=True).decode().partition(":")
        except ValueError:
            return WRONG
        known = hmac.compare_digest(user.encode(), settings.user.encode())
        return None if kind.lower() == "basic" and among(password, settings) and known else WRONG

    def once(self, asked: Asked, settings: Settings) -> None:
        return None
