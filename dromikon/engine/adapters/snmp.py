"""Adapter: SNMP traps and informs, which decoders read like any other message."""

from typing import Literal

from dromikon.core.decoding import snmp
from dromikon.core.mibs.names import STANDARD
from dromikon.core.reading import NotReadable
from dromikon.engine.adapters.base import Ingested, Sender, taught, unclaimed
from dromikon.engine.directory import Directory
from dromikon.intake.inbox import Stored


class SnmpAdapter:
    sent_by: Literal["intake", "device"] = "intake"

    def read(self, stored: Stored, directory: Directory, sender: Sender) -> list[Ingested]:
        try:
            content = snmp.read(stored.message.body, directory.names.get(sender.site, STANDARD))
        except NotReadable as error:
            return [unclaimed(stored, sender, f"The trap cannot be read: {error}.")]
        found = taught(content, stored, directory, sender)
        if found is None:
            return [
                unclaimed(stored, sender, f"No decoder knows the trap {content['name'] or content['trap']}.", content)
            ]
        return found
