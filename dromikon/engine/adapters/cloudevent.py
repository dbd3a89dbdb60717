"""Adapter: CloudEvents that an intake was sent over HTTP, in structured mode (one JSON document) or binary mode (attributes
in headers)."""

import json
from collections.abc import Mapping
from typing import Any, Literal

from dromikon.core import reading
from dromikon.core.decoding import NotDecoded, cloudevent
from dromikon.engine.adapters.base import Ingested, Sender, placed, unclaimed
from dromikon.engine.directory import Directory
from dromikon.intake.inbox import Stored


class CloudEventAdapter:
    sent_by: Literal["intake", "device"] = "intake"

    def read(self, stored: Stored, directory: Directory, sender: Sender) -> Ingested:
        try:
            content = reading.content(stored.message.body or b"null")
        except ValueError as error:
            return unclaimed(stored, sender, f"The message cannot be read: {error}.")
        attributes: Mapping[str, Any] | None = json.loads(stored.message.meta).get("attributes")
        if attributes is None and isinstance(content, dict):
            attributes, content = content, content.get("data")
        try:
            decoded, said = cloudevent.decode(attributes or {}, content)
        except NotDecoded as error:
            return unclaimed(stored, sender, str(error))
        return placed(stored, sender, directory, decoded, said)
