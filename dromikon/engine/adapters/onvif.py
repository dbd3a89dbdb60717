"""Adapter: a notification that was pulled from an ONVIF device."""

import json
from dataclasses import replace
from typing import Literal

from dromikon.core.decoders.decode import Made
from dromikon.core.decoding import NotDecoded
from dromikon.core.decoding.onvif import topics
from dromikon.core.decoding.onvif.topics import OWN, own_event
from dromikon.core.devices.catalogue import MEASURES
from dromikon.engine.adapters.base import Ingested, Sender, at_point, taught, unclaimed
from dromikon.engine.directory import Directory
from dromikon.intake.inbox import Stored
from dromikon.wire.onvif.notification import Notification, parse_notification
from dromikon.wire.onvif.soap import DeviceError


class OnvifAdapter:
    sent_by: Literal["intake", "device"] = "device"

    def read(self, stored: Stored, directory: Directory, sender: Sender) -> Ingested | list[Ingested]:
        message = stored.message
        try:
            note = parse_notification(message.body)
            offset = int(json.loads(message.meta).get("clock_offset_ms", 0))
            found = self._taught(note, stored, directory, sender, offset)
            if found is not None:
                return found
            own = directory.by_token.get((message.source, f"{OWN}{note.topic}"))
            decode = own_event if own else topics.decode
            decoded = decode(note.topic, note.operation, note.source, note.data)
        except (DeviceError, NotDecoded) as error:
            return unclaimed(stored, sender, str(error))
        point = directory.by_token.get((message.source, decoded.token))
        if point is None and decoded.token.endswith(f"/{MEASURES}"):
            # Whoever measures a place at the camera hears it in a conversation of their own.
            return []
        if point is None:
            return unclaimed(stored, sender, f"The device has no point “{decoded.token}”.")
        return at_point(stored, sender, directory, point, decoded, note.device_at, offset)

    def _taught(
        self, note: Notification, stored: Stored, directory: Directory, sender: Sender, offset: int
    ) -> list[Ingested] | None:
        """What decoders of this very device make of it, at the device's time; None where none fits."""
        if stored.message.source not in directory.decoders:
            return None

        def at_its_time(made: Made) -> Made:
            decoded = replace(made.decoded, told_on_request=note.operation == "Initialized")
            return Made(decoded, note.device_at)

        content = topics.content(note.topic, note.operation, note.source, note.data)
        return taught(content, stored, directory, sender, offset, at_its_time)
