"""Adapter: JSON that an intake was sent over HTTP."""

from typing import Literal

from dromikon.core import reading
from dromikon.core.decoding import NotDecoded
from dromikon.core.decoding import http as plain_http
from dromikon.engine.adapters.base import Ingested, Sender, placed, unclaimed
from dromikon.engine.directory import Directory
from dromikon.intake.inbox import Stored


class HttpAdapter:
    sent_by: Literal["intake", "device"] = "intake"

    def read(self, stored: Stored, directory: Directory, sender: Sender) -> Ingested:
        try:
            content = reading.content(stored.message.body)
        except reading.NotReadable as error:
            return unclaimed(stored, sender, f"The message cannot be read: {error}.")
        except ValueError:
            return unclaimed(stored, sender, "The message is not JSON.")
        try:
            decoded, said = plain_http.decode(content)
        except NotDecoded as error:
            return unclaimed(stored, sender, str(error))
        return placed(stored, sender, directory, decoded, said)
