"""Adapter: CloudEvents that an intake was sent over HTTP, in structured mode (one JSON document, or a batch of them) or
binary mode (attributes in headers)."""

import json
from collections.abc import Mapping
from typing import Any, Literal

from dromikon.core import reading
from dromikon.core.decoding import NotDecoded, cloudevent
from dromikon.engine.adapters.base import Ingested, Sender, each, placed, taught, unclaimed
from dromikon.engine.directory import Directory
from dromikon.intake.inbox import Stored


class CloudEventAdapter:
    sent_by: Literal["intake", "device"] = "intake"

    def read(self, stored: Stored, directory: Directory, sender: Sender) -> list[Ingested]:
        try:
            content = reading.content(stored.message.body or b"null")
        except ValueError as error:
            return [unclaimed(stored, sender, f"The message cannot be read: {error}.")]
        found = taught(content, stored, directory, sender)
        if found is not None:
            return found
        attributes: Mapping[str, Any] | None = json.loads(stored.message.meta).get("attributes")

        def one(said: Any) -> Ingested:
            structured = attributes is None and isinstance(said, Mapping)
            try:
                if structured:
                    decoded, at = cloudevent.decode(said, said.get("data"))
                else:
                    decoded, at = cloudevent.decode(attributes or {}, said)
            except NotDecoded as error:
                return unclaimed(stored, sender, str(error))
            return placed(stored, sender, directory, decoded, at)

        return [one(content)] if attributes is not None else each(stored, sender, content, one)
