"""The event stream: what changes is told, to those it is for, and again from where one left off."""

import asyncio
import json
import re
import sqlite3
import threading
import time

import pytest
from asgiref.sync import sync_to_async

from dromikon.clock import now_ms
from dromikon.daybook.feed import News
from dromikon.daybook.models import EnginePosition, Feed, Step
from dromikon.daybook.services import tell
from dromikon.pages import home
from dromikon.people.access import Access, access
from dromikon.people.models import Membership, Person
from dromikon.web import companions
from dromikon.web import hub as module
from dromikon.web.hub import Hub, stream
from tests.conftest import GARDENS, NURSERY

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.timeless]


@pytest.fixture
def fresh_hub(monkeypatch):
    from django.db import connection

    monkeypatch.setattr(module, "hub", Hub())
    name = connection.settings_dict["NAME"]

    monkeypatch.setattr(
        module,
        "connect",
        lambda: sqlite3.connect(
            name, isolation_level=None, check_same_thread=False, timeout=5, uri=str(name).startswith("file:")
        ),
    )


async def collect(user, after=None, seconds=0.5, act=None, pulses=False):
    found = await sync_to_async(lambda: access(Person.objects.get(username=user), GARDENS))()
    got = []

    async def read():
        async for text in stream(found, after):
            if "data: " in text:
                content = json.loads(text.split("data: ", 1)[1])
                if pulses or content["topic"] != "pulse":
                    got.append(content)

    task = asyncio.create_task(read())
    await asyncio.sleep(0.2)
    if act:
        await sync_to_async(act)()
    await asyncio.sleep(seconds)
    task.cancel()
    with pytest.raises(asyncio.CancelledError):
        await task
    return got


def say(topic, site=GARDENS, groups=None):
    tell(News(site, topic, "1", now_ms(), {}, groups))


async def test_only_what_is_for_this_site_and_person_is_told(garden, fresh_hub):
    def act():
        say("event")
        say("other", NURSERY)
        say("alarm", groups=["duty"])
        say("alarm", groups=["operators"])

    assert [m["topic"] for m in await collect("opal", act=act)] == ["event", "alarm"]
    assert [m["topic"] for m in await collect("vera", act=act)] == ["event", "alarm", "alarm"]


def test_a_reading_that_nobody_waits_for_is_finished_before_its_connection_is_closed(fresh_hub, monkeypatch):
    reader, begun, order = module.Reader(), threading.Event(), []

    def slow(connection, last, most):
        begun.set()
        time.sleep(0.2)
        order.append(connection.execute("SELECT 7").fetchone()[0])
        return []

    monkeypatch.setattr(module, "after", slow)
    reading = threading.Thread(target=reader.after, args=(0,))
    reading.start()
    assert begun.wait(5)
    reader.close()
    order.append("closed")
    reading.join()
    assert order == [7, "closed"]
    with pytest.raises(sqlite3.ProgrammingError):
        reader.newest()


async def test_who_comes_back_gets_what_was_missed_once(garden, fresh_hub):
    await sync_to_async(lambda: [say(f"t{i}", groups=["operators"] if i else None) for i in range(4)])()
    first = await Feed.objects.order_by("id").afirst()
    got = await collect("opal", after=first.pk, act=lambda: say("now"))
    assert [m["topic"] for m in got] == ["t1", "t2", "t3", "now"]


async def test_who_missed_too_much_is_told_to_load_afresh(garden, fresh_hub):
    await sync_to_async(
        lambda: Feed.objects.bulk_create(Feed(site=GARDENS, topic="x", subject="", at=0) for _ in range(520))
    )()
    first = await Feed.objects.order_by("id").afirst()
    assert (await collect("opal", after=first.pk))[0]["topic"] == "reload"
    await Feed.objects.filter(id__lt=first.pk + 500).adelete()
    assert (await collect("opal", after=first.pk))[0]["topic"] == "reload", "what was tidied away cannot be told"


async def test_the_pulse_tells_whether_the_engine_lives(garden, fresh_hub):
    await EnginePosition.objects.acreate(id=1, beat=now_ms() - 60_000, delay_ms=7)
    got = await collect("opal", seconds=1.3, pulses=True)
    assert abs(got[-1]["data"].pop("now") - now_ms()) < 60_000, "pages go by the server's clock"
    assert got[-1]["data"] == {"alive": False, "per_minute": 0, "delay_ms": 7, "expired": 0, "waiting": 0}


async def test_who_is_shut_out_is_cut_off(garden, fresh_hub, monkeypatch):
    monkeypatch.setattr(module, "ASK_AGAIN", 0.0)
    found = await sync_to_async(lambda: access(Person.objects.get(username="opal"), GARDENS))()
    await Membership.objects.filter(person=found.person).adelete()
    told = []

    async def read():
        async for text in stream(found, None):
            told.append(text)

    task = asyncio.create_task(read())
    await asyncio.sleep(0.2)
    await sync_to_async(lambda: say("event"))()
    await asyncio.wait_for(task, 3)
    assert not any('"event"' in t for t in told)


async def test_trouble_with_the_database_does_not_end_the_stream(garden, fresh_hub, monkeypatch):

    real, refused = module.after, []

    def fragile(connection, last, limit):
        if len(refused) < 2:
            refused.append(last)
            raise sqlite3.OperationalError("database is locked")
        return real(connection, last, limit)

    monkeypatch.setattr(module, "after", fragile)
    monkeypatch.setattr(module, "TROUBLE", 0.05)
    got = await collect("opal", seconds=2.0, act=lambda: say("step"))
    assert [m["topic"] for m in got] == ["step"] and len(refused) == 2


async def test_steps_that_expired_are_a_figure_of_the_pulse(garden, fresh_hub):
    now = now_ms()
    for i, (status, at) in enumerate((("expired", now), ("expired", now - 86_400_001), ("done", now))):
        await Step.objects.acreate(
            run=str(i), site=GARDENS, step=0, action="http", delivery="once_only", status=status, due=at, done_at=at
        )
    got = await collect("opal", seconds=1.3, pulses=True)
    assert got[-1]["data"]["expired"] == 1


async def test_a_page_is_told_what_happened_since_it_was_made(garden, fresh_hub, client):
    await sync_to_async(lambda: say("before"))()
    await sync_to_async(lambda: client.force_login(Person.objects.get(username="opal")))()
    page = (await sync_to_async(lambda: client.get(f"/s/{GARDENS}/desk"))()).content.decode()
    place = int(re.search(r'data-told="(\d+)"', page)[1])
    await sync_to_async(lambda: say("meanwhile"))()
    got = await collect("opal", after=place, act=lambda: say("now"))
    assert [m["topic"] for m in got] == ["meanwhile", "now"]


async def test_the_stream_begins_where_its_page_asks_and_where_a_lost_one_left_off(garden, monkeypatch, async_client):
    asked = []

    async def notes(found, last_id):
        asked.append(last_id)
        yield ""

    monkeypatch.setattr(home, "stream", notes)
    await sync_to_async(lambda: async_client.force_login(Person.objects.get(username="opal")))()
    for headers in ({}, {"last-event-id": "9"}):
        answer = await async_client.get(f"/s/{GARDENS}/feed?after=7", headers=headers)
        [_ async for _ in answer.streaming_content]
    assert asked == [7, 9]


async def test_the_card_comes_with_the_message_and_is_made_once_for_a_role(bench, fresh_hub, monkeypatch):
    made = []
    whole = companions._companions["alarm"]
    monkeypatch.setitem(
        companions._companions, "alarm", lambda found, alarm: made.append(found.role) or whole(found, alarm)
    )

    def raise_alarm():
        bench.cross()
        bench.run()

    told = await asyncio.gather(
        collect("opal", seconds=1, act=raise_alarm), collect("oskar", seconds=1), collect("vera", seconds=1)
    )
    cards = [next(m for m in messages if m["topic"] == "alarm")["data"]["card"] for messages in told]
    assert cards[0] == cards[1] and "data-answer" in cards[0], "operators may answer"
    assert "data-answer" not in cards[2] and sorted(made) == ["operator", "viewer"]


async def test_a_card_that_cannot_be_made_keeps_no_message_back(garden, fresh_hub, monkeypatch):
    monkeypatch.setitem(companions._companions, "event", lambda found, subject: 1 / 0)
    got = await collect("opal", act=lambda: say("event"))
    assert [(m["topic"], m["data"]) for m in got] == [("event", {})]


async def test_what_is_told_while_a_stream_begins_is_not_skipped(garden, fresh_hub, monkeypatch):
    await collect("opal")

    def slow_groups(self):
        say("meanwhile")
        time.sleep(0.5)
        return frozenset()

    monkeypatch.setattr(Access, "groups", property(slow_groups))
    assert [m["topic"] for m in await collect("opal", seconds=0.8)] == ["meanwhile"]
