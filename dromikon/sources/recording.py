"""Which recorder records a device's channel: recorders are asked for the serial numbers of what they record."""

import logging

from asgiref.sync import async_to_sync

from dromikon.secrets import SealBroken
from dromikon.sources.models import Device, Recorder
from dromikon.wire.pictures import HttpRecorder, PicturesUnavailable, Recorded

log = logging.getLogger("dromikon.sources")


def recorder_of(device: Device, channel: str) -> tuple[Recorder, str] | None:
    """The recorder of a device's channel and its name there; None when no recorder of the site records it, or none that
    can be asked just now."""
    serial = device.information.get("serial", "")
    for recorder in device.site.recorders.filter(retired_at=None) if serial else ():
        for known in _recorded(recorder):
            if known.serial == serial and known.source in ("", channel):
                return recorder, known.channel
    return None


def _recorded(recorder: Recorder) -> list[Recorded]:
    async def ask() -> list[Recorded]:
        client = HttpRecorder(recorder.address, recorder.token)
        try:
            return await client.channels()
        finally:
            await client.close()

    try:
        return async_to_sync(ask)()
    except (PicturesUnavailable, SealBroken) as error:
        log.warning("recorder %s cannot be asked what it records: %s", recorder.pk, error)
        return []
