"""Effect: a still is fetched from the recorder, kept as a file and hashed."""

import hashlib
from typing import cast

from asgiref.sync import sync_to_async

from dromikon.archive.models import Snapshot
from dromikon.archive.pictures import source_of
from dromikon.archive.stills import keep_still
from dromikon.core.instants import Instant
from dromikon.core.rules.actions.snapshot import SnapshotOrder
from dromikon.core.rules.outcome import StepOrder
from dromikon.daybook.models import Step
from dromikon.engine.effects.base import OutsideEffect, Sent
from dromikon.sources.models import Point
from dromikon.wire.pictures import PicturesUnavailable

WIDTH = 960


class SnapshotEffect(OutsideEffect):
    def lane(self, order: StepOrder, now: Instant) -> str:
        return f"snapshot:{order.target}"

    async def deliver(self, step: Step) -> Sent:
        camera = await Point.objects.select_related("recorder").filter(id=step.target).afirst()
        if camera is None or camera.recorder is None:
            return Sent("failed", "The camera is gone, or no recorder records it.")
        asked = cast(SnapshotOrder, step.payload)
        at = asked["at"]
        try:
            picture = await source_of(camera.recorder).picture(camera.recorder_channel, at, WIDTH)
        except PicturesUnavailable as error:
            # What lies just ahead is not recorded yet; what was never recorded stays so until the step expires.
            return Sent("retry", str(error))
        digest = hashlib.sha256(picture).hexdigest()
        # Named by what it is, never by an id that came from elsewhere.
        name = f"{digest[:2]}/{digest}.jpg"
        try:
            await sync_to_async(keep_still)("snapshots", name, picture)
        except OSError as error:
            return Sent("retry", f"The still could not be kept: {error.strerror}.")
        await Snapshot.objects.aupdate_or_create(
            run=step.run, camera=step.target, at=at,
            defaults={"site_id": step.site, "title": asked["title"], "file": name, "sha256": digest},
        )  # fmt: skip
        return Sent("done", f"sha256 {digest[:12]}")
