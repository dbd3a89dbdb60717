"""Effect: one still is fetched from the recorder, kept as a file and hashed. No picture is ever made for the alarm."""

import hashlib

from asgiref.sync import sync_to_async

from dromikon import config
from dromikon.archive.pictures import source_of
from dromikon.core.rules.evaluate import StepOrder
from dromikon.daybook.models import Step
from dromikon.desk.models import Evidence
from dromikon.engine.effects.base import OutsideEffect, Sent
from dromikon.sources.models import Point
from dromikon.wire.pictures import PicturesUnavailable


class EvidenceEffect(OutsideEffect):
    def lane(self, order: StepOrder) -> str:
        return f"evidence:{order.target}"

    async def deliver(self, step: Step) -> Sent:
        still = await Evidence.objects.filter(
            alarm__run=step.run, alarm__step=step.step, camera=step.target, offset=step.payload["offset"]
        ).afirst()
        camera = await Point.objects.select_related("recorder").filter(id=step.target).afirst()
        if still is None or camera is None or camera.recorder is None:
            return Sent("failed", "The alarm or its camera is gone.")
        try:
            picture = await source_of(camera.recorder).picture(camera.recorder_channel, still.at, 960)
        except PicturesUnavailable as error:
            if "no recording" not in str(error):
                return Sent("retry", str(error))
            await Evidence.objects.filter(pk=still.pk).aupdate(missing=str(error))
            return Sent("failed", str(error))
        still.sha256 = hashlib.sha256(picture).hexdigest()
        still.file = f"{still.alarm_id}/{still.camera}_{still.offset}.jpg"
        await sync_to_async(_keep)(still.file, picture)
        await Evidence.objects.filter(pk=still.pk).aupdate(file=still.file, sha256=still.sha256, missing="")
        return Sent("done", f"sha256 {still.sha256[:12]}")


def _keep(name: str, picture: bytes) -> None:
    path = config.data() / "evidence" / name
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(picture)
