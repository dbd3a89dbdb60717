"""Adapter: a notification that was pulled from an ONVIF device."""

import json
from dataclasses import replace
from typing import Literal

from dromikon.core.decoders.decode import Made, read_with_first
from dromikon.core.decoding import NotDecoded
from dromikon.core.decoding.onvif import topics
from dromikon.core.decoding.onvif.topics import OWN, own_event
from dromikon.engine.adapters.base import Ingested, Sender, by_decoder, draft, unclaimed
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
            taught = self._taught(note, stored, directory, sender, offset)
            if taught is not None:
                return taught
            own = directory.by_token.get((message.source, f"{OWN}{note.topic}"))
            decode = own_event if own else topics.decode
            decoded = decode(note.topic, note.operation, note.source, note.data)
        except (DeviceError, NotDecoded) as error:
            return unclaimed(stored, sender, str(error))
        point = directory.by_token.get((message.source, decoded.token))
        if point is None:
            return unclaimed(stored, sender, f"The device has no point “{decoded.token}”.")
        return draft(stored, sender, point, decoded, note.device_at, offset)

    def _taught(
        self, note: Notification, stored: Stored, directory: Directory, sender: Sender, offset: int
    ) -> list[Ingested] | None:
        """What a decoder of this very device makes of it, at the device's time; None where none fits."""
        decoders = directory.decoders.get(stored.message.source, ())
        if not decoders:
            return None
        content = topics.content(note.topic, note.operation, note.source, note.data)
        decoder, read = read_with_first(decoders, content)
        if decoder is None:
            return None
        made = [replace(m.decoded, told_on_request=note.operation == "Initialized") for m in read.made]
        timed = replace(read, made=tuple(Made(decoded, note.device_at) for decoded in made))
        return by_decoder(decoder, timed, stored, directory, sender, offset)
