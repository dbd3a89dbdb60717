"""The event stream of what a camera sees."""

import asyncio
import json

import pytest
from django.test import AsyncClient

from dromikon.pages import seen
from dromikon.sources.models import Device
from tests.conftest import GARDENS

pytestmark = pytest.mark.django_db(transaction=True)
ADDRESS = f"/s/{GARDENS}/sources/device/cam-jetty/seen"


@pytest.fixture
def client_of_ines(as_):
    client = AsyncClient()
    client.force_login(as_("ines").person)
    return client


async def first(answer):
    """The first thing that is told to somebody, who then goes away."""
    told = asyncio.Queue()

    async def read():
        async for part in answer.streaming_content:
            told.put_nowait(part.decode())

    reading = asyncio.create_task(read())
    async with asyncio.timeout(20):
        name, data = (await told.get()).strip().split("\n")
    reading.cancel()
    await asyncio.wait([reading])
    return name.removeprefix("event: "), json.loads(data.removeprefix("data: "))


async def test_frames_come_by_our_time(client_of_ines, standins):
    await Device.objects.filter(pk="cam-jetty").aupdate(address=f"{standins['jetty']}/onvif/device_service")
    answer = await client_of_ines.get(ADDRESS)
    name, said = await first(answer)
    assert (name, answer["Content-Type"]) == ("frame", "text/event-stream") and set(said) == {"at", "seen"}
    assert seen._looking == set(), "who has gone does not look on"


async def test_a_device_that_does_not_answer_says_why(client_of_ines):
    await Device.objects.filter(pk="cam-jetty").aupdate(address="http://127.0.0.1:9/onvif/device_service")
    name, said = await first(await client_of_ines.get(ADDRESS))
    assert name == "trouble" and "cannot be reached" in said["why"]


async def test_only_so_many_look_on_and_only_who_may(client_of_ines, as_, monkeypatch):
    monkeypatch.setattr(seen, "MOST", 0)
    assert (await client_of_ines.get(ADDRESS)).status_code == 503
    from asgiref.sync import sync_to_async

    await client_of_ines.aforce_login((await sync_to_async(as_)("oskar")).person)
    assert (await client_of_ines.get(ADDRESS)).status_code == 403
