"""Listening at a camera: one conversation with the device, whoever listens, for as long as anybody does."""

import asyncio

import pytest
from django.test import AsyncClient

from dromikon.operating import listening
from dromikon.people.models import AuditEntry
from dromikon.sources.models import Device, Point
from tests.conftest import GARDENS

pytestmark = pytest.mark.django_db(transaction=True)
ADDRESS = f"/s/{GARDENS}/listen/jetty"


@pytest.fixture
def oskar(as_, standins):
    Device.objects.filter(pk="cam-jetty").update(address=f"{standins['jetty']}/onvif/device_service")
    Point.objects.filter(pk="jetty").update(told={"heard": True})
    client = AsyncClient()
    client.force_login(as_("oskar").person)
    return client


async def some(answer, count):
    """The first packets that somebody hears, who then goes away."""
    found = []

    async def read():
        async for packet in answer.streaming_content:
            found.append(packet)

    reading = asyncio.create_task(read())
    async with asyncio.timeout(20):
        while len(found) < count:
            await asyncio.sleep(0.02)
    reading.cancel()
    await asyncio.wait([reading])
    return found


async def test_two_listen_to_one_conversation_and_it_ends_with_the_last(oskar, monkeypatch):
    asked = []
    of_device = listening.client_of
    monkeypatch.setattr(listening, "client_of", lambda device: asked.append(device.pk) or of_device(device))
    answers = await asyncio.gather(oskar.get(ADDRESS), oskar.get(ADDRESS))
    assert [a["Content-Type"] for a in answers] == ["audio/basic"] * 2
    heard = await asyncio.gather(*(some(a, 4) for a in answers))
    assert asked == ["cam-jetty"] and all(len(packet) == 800 for packets in heard for packet in packets)
    assert set(heard[0]) & set(heard[1]), "both hear the same"
    assert listening._ears == {}, "nobody listens any more"
    told = [e async for e in AuditEntry.objects.filter(verb="listened")]
    assert [(e.subject, e.name) for e in told] == [("point:jetty", "Oskar Lindwater")] * 2


async def test_a_device_that_does_not_answer_says_why_and_is_asked_anew(oskar):
    await Device.objects.filter(pk="cam-jetty").aupdate(address="http://127.0.0.1:9/onvif/device_service")
    for _ in range(2):
        answer = await oskar.get(ADDRESS)
        assert answer.status_code == 502 and b"cannot be reached" in answer.content
    assert listening._ears == {}


async def test_whoever_does_not_keep_up_misses_the_oldest():
    queue, ear = asyncio.Queue(2), object.__new__(listening.Ear)
    ear.queues = {queue}
    for packet in (b"1", b"2", b"3"):
        ear._tell(packet)
    assert [queue.get_nowait() for _ in range(2)] == [b"2", b"3"]


@pytest.mark.parametrize(("who", "camera", "status"), [("vera", "jetty", 403), ("oskar", "gate", 404), ("oskar", "nothing", 404)])  # fmt: skip
async def test_only_who_may_answer_listens_and_only_where_there_is_sound(oskar, as_, who, camera, status):
    from asgiref.sync import sync_to_async

    await oskar.aforce_login((await sync_to_async(as_)(who)).person)
    assert (await oskar.get(ADDRESS.replace("jetty", camera))).status_code == status
    assert not await AuditEntry.objects.filter(verb="listened").aexists()


async def test_only_so_many_listen(oskar, monkeypatch):
    monkeypatch.setattr(listening, "MOST", 0)
    answer = await oskar.get(ADDRESS)
    assert answer.status_code == 503 and b"Too many" in answer.content
    assert not await AuditEntry.objects.filter(verb="listened").aexists(), "nobody has listened"


async def test_what_nobody_foresaw_ends_the_sound_for_all_who_wait(oskar, monkeypatch):
    def broken(device):
        raise RuntimeError("unforeseen")

    monkeypatch.setattr(listening, "client_of", broken)
    assert (await oskar.get(ADDRESS)).status_code == 502 and listening._ears == {}
