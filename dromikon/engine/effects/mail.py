"""Effect: mail with pictures inside, handed to the installation's server."""

import asyncio
from typing import cast

from asgiref.sync import sync_to_async

from dromikon.archive.pictures import source_of
from dromikon.clock import now_ms
from dromikon.core.hours import wall_clock
from dromikon.core.instants import Instant
from dromikon.core.rules.actions.mail import MailOrder
from dromikon.core.rules.outcome import StepOrder
from dromikon.core.words import t
from dromikon.daybook.models import Step
from dromikon.engine.effects.base import OutsideEffect, Sent
from dromikon.engine.effects.gateway import PERSON
from dromikon.engine.effects.speech import marked, speaking_as
from dromikon.installation.mail import mail_server
from dromikon.people.models import Person
from dromikon.secrets import SealBroken
from dromikon.sites.models import Site
from dromikon.sources.models import Point
from dromikon.wire.letters import Letter, Picture
from dromikon.wire.mail import MailboxBusy, MailRefused, NotNow, hand_over
from dromikon.wire.outgoing import NotAllowed
from dromikon.wire.pictures import NoRecording, PicturesUnavailable

#: Pictures are asked for so often before a mail goes without them.
PATIENCE = 3
WIDTH = 640
#: So many mails are handed over at a time.
AT_ONCE = 4


class MailEffect(OutsideEffect):
    patient = True

    def lane(self, order: StepOrder, now: Instant) -> str:
        return "mail"

    def width(self, lane: str) -> int:
        return AT_ONCE

    async def deliver(self, step: Step) -> Sent:
        person = await Person.objects.filter(pk=step.target.removeprefix(PERSON), is_active=True).afirst()
        if person is None or not person.email:
            return Sent("failed", f"{person.shown_name if person else 'The person'} has no mail address.")
        try:
            server = await sync_to_async(mail_server)()
        except SealBroken as error:
            return Sent("retry", f"{error} The mail server's password is needed.", ours=True)
        if server is None:
            return Sent("failed", "No mail server is set up (Installation · Mail).")
        pictures, missing = await self._pictures(step)
        if missing and step.attempts < PATIENCE:
            return Sent("retry", f"Pictures are waited for: {missing[0]}", ours=True)
        with await speaking_as(step.site):
            letter = _letter(step, person.email, pictures, missing)
        try:
            answer = await asyncio.to_thread(hand_over, server, letter)
        except NotAllowed as error:
            return Sent("failed", str(error))
        except MailboxBusy as error:
            # Others' mail does not wait for one full mailbox.
            return Sent("retry", str(error), ours=True)
        except NotNow as error:
            return Sent("retry", str(error))
        except MailRefused as error:
            return Sent("failed", str(error))
        return Sent("done", answer)

    async def _pictures(self, step: Step) -> tuple[list[Picture], list[str]]:
        """The pictures that are to be inside, and why some cannot be had."""
        found: list[Picture] = []
        missing: list[str] = []
        site = await Site.objects.aget(id=step.site)
        for camera, at in cast(MailOrder, step.payload).get("pictures", ()):
            point = await Point.objects.select_related("recorder").filter(id=camera).afirst()
            if point is None or point.recorder is None:
                continue
            try:
                jpeg = await source_of(point.recorder).picture(point.recorder_channel, at, WIDTH)
            except NoRecording:
                continue
            except PicturesUnavailable as error:
                missing.append(str(error))
                continue
            found.append(Picture(f"{point.name}, {wall_clock(at, site.zone):%H:%M:%S}", jpeg))
        return found, missing


def _letter(step: Step, to: str, pictures: list[Picture], missing: list[str]) -> Letter:
    order = cast(MailOrder, step.payload)
    urgent = bool(order.get("urgent"))
    subject = order.get("subject", "") or "Dromikon"
    left_out = t("Pictures could not be had: {why}", why=missing[0]) if missing else ""
    return Letter(
        to=to,
        subject=marked(subject, urgent),
        text=order["text"],
        link=order.get("link", ""),
        urgent=urgent,
        id=f"step-{step.pk}",
        at=step.due if step.due < now_ms() else now_ms(),
        pictures=tuple(pictures),
        note=left_out,
        link_words=t("Open the moment"),
    )
