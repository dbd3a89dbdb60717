"""Adapter: a message of an MQTT broker. What a decoder does not know is read like any plain event. What the broker had kept is
told because we subscribed, and starts nothing."""

import json
from dataclasses import replace
from typing import Literal

from dromikon.core.decoding import NotDecoded, mqtt
from dromikon.core.decoding import http as plain
from dromikon.core.reading import NotReadable
from dromikon.engine.adapters.base import Ingested, Sender, placed, taught, unclaimed
from dromikon.engine.directory import Directory
from dromikon.engine.draft import Draft
from dromikon.intake.inbox import Stored


class MqttAdapter:
    sent_by: Literal["intake", "device"] = "intake"

    def read(self, stored: Stored, directory: Directory, sender: Sender) -> list[Ingested]:
        meta = json.loads(stored.message.meta)
        retained = bool(meta.get("retained"))
        try:
            content = mqtt.read(str(meta.get("topic", "")), retained, stored.message.body)
        except NotReadable as error:
            return [unclaimed(stored, sender, f"The message cannot be read: {error}.")]
        found = taught(content, stored, directory, sender)
        if found is None:
            found = [self._plain(content, stored, directory, sender)]
        return [replace(got, told_on_request=True) if retained and isinstance(got, Draft) else got for got in found]

    def _plain(self, content: dict[str, object], stored: Stored, directory: Directory, sender: Sender) -> Ingested:
        try:
            decoded, at = plain.decode(content["payload"])
        except NotDecoded:
            return unclaimed(stored, sender, f"No decoder knows the topic {content['topic']}.", content)
        return placed(stored, sender, directory, decoded, at)
