"""From a stored message to an event, a change of a device's health, a new catalogue, or unclaimed."""

from dromikon.engine.adapters import ADAPTERS
from dromikon.engine.adapters.base import Ingested, Sender, unclaimed
from dromikon.engine.directory import Directory
from dromikon.intake.inbox import Stored


def ingest(stored: Stored, directory: Directory) -> list[Ingested]:
    """Understand one message, which may tell of several things. Never raises for anything a sender can send; nothing comes of
    a source that is gone."""
    message = stored.message
    adapter = ADAPTERS.get(message.adapter)
    senders = directory.intakes if adapter is not None and adapter.sent_by == "intake" else directory.devices
    known = senders.get(message.source)
    if known is None:
        return []
    if adapter is None:
        return [unclaimed(stored, Sender(*known), f"Nothing here reads messages of the sort “{message.adapter}”.")]
    found = adapter.read(stored, directory, Sender(*known))
    return found if isinstance(found, list) else [found]
