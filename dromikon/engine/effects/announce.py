"""Effect: a signal or spoken words at a speaker of an ONVIF device."""

import asyncio
from base64 import b64decode
from collections import OrderedDict
from typing import cast

from dromikon import config
from dromikon.core.rules.actions.announce import AnnounceOrder
from dromikon.core.sound import from_wave, to_mu_law, tones
from dromikon.daybook.models import Step
from dromikon.engine.effects.device import Command, DeviceEffect, Impossible, with_service
from dromikon.sources.models import Point
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.namespaces import TRT
from dromikon.wire.onvif.speaker import play, speaker_address

#: Speaking a text may take so long, in seconds; so many that were spoken lately are kept.
LIMIT, KEPT = 10.0, 50


class AnnounceEffect(DeviceEffect):
    def __init__(self) -> None:
        self._spoken: OrderedDict[str, bytes] = OrderedDict()

    async def ready(self, client: OnvifDevice, point: Point, step: Step) -> Command:
        order = cast(AnnounceOrder, step.payload)
        sound = await self._sound_of(order)
        await with_service(client, TRT)
        address = await speaker_address(client, point.token if point.kind == "camera" else "")

        async def command() -> None:
            await play(address, client.soap.user, client.soap.password, sound)

        return command

    async def _sound_of(self, order: AnnounceOrder) -> bytes:
        """What is sent to the speaker. Raises Impossible."""
        if order["sound"] == "spoken":
            return await self._spoken_of(order["text"])
        if order["sound"] == "voice":
            return to_mu_law(from_wave(b64decode(order.get("voice", ""))))
        return to_mu_law(tones(order["sound"]))

    async def _spoken_of(self, text: str) -> bytes:
        """A text as sound. Raises Impossible."""
        if text in self._spoken:
            self._spoken.move_to_end(text)
            return self._spoken[text]
        made = await _spoken(text)
        self._spoken[text] = made
        if len(self._spoken) > KEPT:
            self._spoken.popitem(last=False)
        return made


async def _spoken(text: str) -> bytes:
    """Spoken by the program that is set up for it (DROMIKON_SPEECH), which takes a text on standard input and answers with a
    WAV file. Raises Impossible."""
    pipe = asyncio.subprocess.PIPE
    try:
        process = await asyncio.create_subprocess_exec(*config.speech(), stdin=pipe, stdout=pipe, stderr=pipe)
    except OSError as error:
        raise Impossible(f"Nothing speaks here: {config.speech()[0]} is not installed (Debian: espeak-ng).") from error
    try:
        said, wrong = await asyncio.wait_for(process.communicate(text.encode()), LIMIT)
    except TimeoutError as error:
        process.kill()
        raise Impossible("The text took too long to be spoken.") from error
    try:
        return to_mu_law(from_wave(said))
    except ValueError as error:
        told = wrong.decode("utf-8", "replace").strip()[:200]
        raise Impossible(f"The text could not be spoken: {told or error}") from error
