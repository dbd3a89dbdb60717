"""Adapter: what a detector of our own told. It names its point itself."""

import json
from dataclasses import replace
from typing import Literal

from dromikon.core.decoding import NotDecoded
from dromikon.core.decoding import http as plain
from dromikon.engine.adapters.base import Ingested, Sender, placed, unclaimed
from dromikon.engine.directory import Directory
from dromikon.intake.inbox import Stored


class SceneAdapter:
    sent_by: Literal["intake", "device"] = "device"

    def read(self, stored: Stored, directory: Directory, sender: Sender) -> Ingested:
        try:
            decoded, at = plain.decode(json.loads(stored.message.body))
        except (ValueError, NotDecoded) as error:
            return unclaimed(stored, sender, str(error))
        # How things stand when watching begins is no news, unless it was otherwise before.
        first = bool(json.loads(stored.message.meta).get("first"))
        return placed(stored, sender, directory, replace(decoded, told_on_request=first), at)
