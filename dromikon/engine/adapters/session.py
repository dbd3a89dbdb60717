"""Adapters: what a device's session tells of the device itself, whether it answers and what it says of itself."""

import json
from typing import Literal

from dromikon.engine.adapters.base import Catalogue, Health, Ingested, Sender
from dromikon.engine.directory import Directory
from dromikon.intake.inbox import Stored


class SessionAdapter:
    """The device came or went."""

    sent_by: Literal["intake", "device"] = "device"

    def read(self, stored: Stored, directory: Directory, sender: Sender) -> Ingested:
        message = stored.message
        points = directory.standing.get(message.source, ())
        body = json.loads(message.body)
        return Health(message.source, sender.site, at=message.received_at, inbox=stored.id, points=points, **body)


class CatalogueAdapter:
    """What it has: sources, outputs, rules."""

    sent_by: Literal["intake", "device"] = "device"

    def read(self, stored: Stored, directory: Directory, sender: Sender) -> Ingested:
        message = stored.message
        points = directory.standing.get(message.source, ())
        return Catalogue(message.source, sender.site, json.loads(message.body), message.received_at, stored.id, points)
