"""Whether cameras still look where they looked when their detectors were drawn: found out when something was drawn, and every hour."""

import asyncio
import io
import logging

import numpy as np
from asgiref.sync import sync_to_async
from django.db import DatabaseError
from django.db.models import Q
from PIL import Image, UnidentifiedImageError

from dromikon.archive.pictures import source_of
from dromikon.clock import now_ms
from dromikon.core.scene.fitting import TALL, WIDE, Fit, Grey, fit
from dromikon.core.words import t
from dromikon.sources.models import DrawnOn, Point
from dromikon.wire.pictures import PicturesUnavailable

log = logging.getLogger("dromikon.scene")

#: So often is looked whether something is due, in s; how long a finding holds, and after how long a picture that was not to be had is
#: asked for again, in ms.
LOOK, HOLDS, AGAIN = 2.0, 3_600_000, 60_000
#: A picture that resembles nothing may be fog: only a second one says so.
STRANGE = 2


def said(point: Point) -> str:
    """What is wrong with a drawing since its camera was moved; empty for nothing."""
    drawn = DrawnOn.objects.filter(point=point).first()
    if drawn is None:
        return ""
    if drawn.strange >= STRANGE:
        return t("The camera looks elsewhere than when this was drawn.")
    if Fit(drawn.right, drawn.down, 1.0).standing == "moved":
        return t(
            "The camera was moved since this was drawn: things lie {right} % to the right and {down} % lower. Draw it anew, "
            "or turn the camera back.",
            right=round(100 * drawn.right), down=round(100 * drawn.down),
        )  # fmt: skip
    return ""


def grey_of(jpeg: bytes) -> Grey:
    """A picture at the size at which pictures are compared. Raises UnidentifiedImageError, OSError."""
    return np.asarray(Image.open(io.BytesIO(jpeg)).convert("L").resize((WIDE, TALL)), float)


def _small(now: Grey) -> bytes:
    out = io.BytesIO()
    Image.fromarray(now.astype(np.uint8)).save(out, "JPEG", quality=80)
    return out.getvalue()


class Standings:
    """Looks at the cameras whose detectors are due, one after the other."""

    def __init__(self) -> None:
        self._again: dict[str, int] = {}

    async def run(self) -> None:
        """Until it is cancelled."""
        while True:
            try:
                for camera in await sync_to_async(self._due)():
                    await self._look(camera)
            except DatabaseError as error:
                log.warning("database trouble, cameras are looked at later: %s", error)
            await asyncio.sleep(LOOK)

    def _due(self) -> list[Point]:
        """The cameras with something that was drawn or is to be looked at again; asked often, so that no picture is read for it."""
        now = now_ms()
        fresh = Q(drawn_on__checked_at__gte=now - HOLDS)
        due = set(
            Point.objects.filter(retired_at=None, channel__retired_at=None)
            .exclude(watch=None).exclude(channel=None).exclude(fresh).values_list("channel", flat=True)
        )  # fmt: skip
        self._again = {camera: at for camera, at in self._again.items() if at > now}
        return list(
            Point.objects.filter(pk__in=due - set(self._again)).exclude(recorder=None).select_related("recorder")
        )

    async def _look(self, camera: Point) -> None:
        if camera.recorder is None:
            return
        try:
            jpeg = await source_of(camera.recorder).picture(camera.recorder_channel, now_ms() - 500, 2 * WIDE)
            now = await asyncio.to_thread(grey_of, jpeg)
        except (PicturesUnavailable, UnidentifiedImageError, OSError) as error:
            log.info("%s: no picture to compare with: %s", camera.id, error)
            self._again[camera.id] = now_ms() + AGAIN
            return
        await sync_to_async(note)(camera, now)


def note(camera: Point, now: Grey) -> None:
    """Keep how a camera's picture lies to those on which its detectors were drawn; the first look is what later ones are compared
    with."""
    at, small = now_ms(), _small(now)
    known = {d.point_id: d for d in DrawnOn.objects.filter(point__channel=camera)}
    for point in camera.detectors.filter(retired_at=None).exclude(watch=None):
        drawn = known.get(point.id)
        if drawn is None:
            DrawnOn.objects.get_or_create(point=point, defaults={"picture": small, "checked_at": at})
            continue
        found = fit(grey_of(bytes(drawn.picture)), now)
        strange = found.standing == "elsewhere"
        moved = {} if strange else {"right": round(found.right, 3), "down": round(found.down, 3)}
        # One that was drawn anew meanwhile has no row any more, and is looked at afresh.
        DrawnOn.objects.filter(point=point).update(checked_at=at, strange=drawn.strange + 1 if strange else 0, **moved)
