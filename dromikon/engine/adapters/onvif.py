"""Adapter: a notification that was pulled from an ONVIF device."""

import json
from typing import Literal

from dromikon.core.decoding import NotDecoded
from dromikon.core.decoding import onvif as topics
from dromikon.core.decoding.onvif.topics import OWN, own_event
from dromikon.engine.adapters.base import Ingested, Sender, draft, unclaimed
from dromikon.engine.directory import Directory
from dromikon.intake.inbox import Stored
from dromikon.wire.onvif.notification import parse_notification
from dromikon.wire.onvif.soap import DeviceError


class OnvifAdapter:
    sent_by: Literal["intake", "device"] = "device"

    def read(self, stored: Stored, directory: Directory, sender: Sender) -> Ingested:
        message = stored.message
        try:
            note = parse_notification(message.body)
            own = directory.by_token.get((message.source, f"{OWN}{note.topic}"))
            decode = own_event if own else topics.decode
            decoded = decode(note.topic, note.operation, note.source, note.data)
        except (DeviceError, NotDecoded) as error:
            return unclaimed(stored, sender, str(error))
        point = directory.by_token.get((message.source, decoded.token))
        if point is None:
            return unclaimed(stored, sender, f"The device has no point “{decoded.token}”.")
        offset = int(json.loads(message.meta).get("clock_offset_ms", 0))
        return draft(stored, sender, point, decoded, note.device_at, offset)
