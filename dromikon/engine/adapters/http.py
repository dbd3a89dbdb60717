"""Adapter: what an intake was sent over HTTP, as JSON, a form, a query, XML or text."""

import json
from typing import Any, Literal

from dromikon.core import reading
from dromikon.core.decoding import NotDecoded, bodies
from dromikon.core.decoding import http as plain
from dromikon.engine.adapters.base import Ingested, Sender, each, placed, taught, unclaimed
from dromikon.engine.directory import Directory
from dromikon.intake.inbox import Stored


class HttpAdapter:
    sent_by: Literal["intake", "device"] = "intake"

    def read(self, stored: Stored, directory: Directory, sender: Sender) -> list[Ingested]:
        meta = json.loads(stored.message.meta)
        try:
            content, typed = bodies.read(meta.get("content_type", ""), meta.get("query", ""), stored.message.body)
        except reading.NotReadable as error:
            return [unclaimed(stored, sender, f"The message cannot be read: {error}.")]
        except ValueError:
            return [unclaimed(stored, sender, "The message is not JSON.")]

        found = taught(content, stored, directory, sender)
        if found is not None:
            return found

        def one(said: Any) -> Ingested:
            try:
                decoded, at = plain.decode(said) if typed else plain.decode_text(said)
            except NotDecoded as error:
                return unclaimed(stored, sender, str(error))
            return placed(stored, sender, directory, decoded, at)

        return each(stored, sender, content, one)
