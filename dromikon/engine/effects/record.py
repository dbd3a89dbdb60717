"""Effect: the recorder is asked to record a stretch and to protect it."""

from typing import cast

from dromikon.archive.pictures import source_of
from dromikon.core.instants import Instant
from dromikon.core.rules.actions.record import RecordOrder
from dromikon.core.rules.outcome import StepOrder
from dromikon.daybook.models import Step
from dromikon.engine.effects.base import OutsideEffect, Sent
from dromikon.sources.models import Point
from dromikon.wire.pictures import PicturesUnavailable


class RecordEffect(OutsideEffect):
    def lane(self, order: StepOrder, now: Instant) -> str:
        recorder = Point.objects.filter(id=order.target).values_list("recorder_id", flat=True).first()
        return f"recorder:{recorder or order.target}"

    async def deliver(self, step: Step) -> Sent:
        camera = await Point.objects.select_related("recorder").filter(id=step.target).afirst()
        if camera is None or camera.recorder is None:
            return Sent("failed", "The camera is gone, or no recorder records it.")
        asked = cast(RecordOrder, step.payload)
        start, end = asked["start"], asked["end"]
        source = source_of(camera.recorder)
        try:
            await source.record(camera.recorder_channel, start, end)
            await source.protect(camera.recorder_channel, start, end, f"run {step.run}")
        except PicturesUnavailable as error:
            return Sent("retry", str(error))
        return Sent("done", "The recorder confirmed.")
