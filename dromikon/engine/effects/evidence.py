"""Effect: one still is fetched from the recorder, kept as a file and hashed. No picture is ever made for the alarm."""

import hashlib

from asgiref.sync import sync_to_async

from dromikon.archive.pictures import source_of
from dromikon.archive.stills import keep_still
from dromikon.core.instants import Instant
from dromikon.core.rules.outcome import StepOrder
from dromikon.daybook.models import Step
from dromikon.desk.models import Evidence
from dromikon.engine.effects.base import OutsideEffect, Sent
from dromikon.sources.models import Point
from dromikon.wire.pictures import NoRecording, PicturesUnavailable

#: A still whose moment lies further back than this belongs to a backlog, in ms.
BACKLOG = 120_000
#: Seconds between two stills of a backlog: the recorder has live pictures to give besides.
BACKLOG_GAP = 4.0
#: Widths in pixels: of the moment itself somebody wants to see who it is.
LARGE, USUAL = 1920, 960


def evidence_lane(camera: str, due: Instant, now: Instant) -> str:
    """A lane for each camera, and another for what is made up for, so that new alarms never wait behind it."""
    return f"evidence-{'backlog' if now - due > BACKLOG else 'fresh'}:{camera}"


class EvidenceEffect(OutsideEffect):
    def lane(self, order: StepOrder, now: Instant) -> str:
        return evidence_lane(order.target, order.due, now)

    async def gap(self, lane: str) -> float:
        return BACKLOG_GAP if lane.startswith("evidence-backlog") else 0.0

    async def deliver(self, step: Step) -> Sent:
        still = await Evidence.objects.filter(
            alarm__run=step.run, alarm__step=step.step, camera=step.target, offset=step.payload["offset"]
        ).afirst()
        camera = await Point.objects.select_related("recorder").filter(id=step.target).afirst()
        if still is None or camera is None or camera.recorder is None:
            return Sent("failed", "The alarm or its camera is gone.")
        width = LARGE if still.offset == 0 else USUAL
        try:
            picture = await source_of(camera.recorder).picture(camera.recorder_channel, still.at, width)
        except NoRecording as error:
            await Evidence.objects.filter(pk=still.pk).aupdate(missing=str(error))
            return Sent("failed", str(error))
        except PicturesUnavailable as error:
            return Sent("retry", str(error))
        still.sha256 = hashlib.sha256(picture).hexdigest()
        still.file = f"{still.alarm_id}/{still.pk}.jpg"
        try:
            await sync_to_async(keep_still)("evidence", still.file, picture)
        except OSError as error:
            return Sent("retry", f"The still could not be kept: {error.strerror}.")
        await Evidence.objects.filter(pk=still.pk).aupdate(file=still.file, sha256=still.sha256, missing="")
        return Sent("done", f"sha256 {still.sha256[:12]}")
