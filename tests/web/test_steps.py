"""Steps that leave the building by recorder and HTTP: recorded and protected, stills kept, calls made once."""

import asyncio
import hashlib

import pytest
from asgiref.sync import sync_to_async
from starlette.applications import Starlette
from starlette.responses import Response
from starlette.routing import Route

from dromikon import config
from dromikon.archive.models import Snapshot
from dromikon.authoring.services import save, switch
from dromikon.clock import now_ms
from dromikon.core.rules.actions.base import Delivery
from dromikon.daybook.models import RunRow, Step
from dromikon.people.services import set_number
from dromikon.refusals import Refused
from dromikon.rulebook.models import Rule
from dromikon.sources.models import Recorder
from dromikon.standins.picture.frame import Studio
from dromikon.standins.recorder import StandInRecorder
from dromikon.standins.run import RECORDER_TOKEN
from dromikon.standins.services.posts import Posts
from dromikon.standins.services.received import Received
from dromikon.standins.world.world import World
from dromikon.wire import calls as wire_calls
from tests.conftest import GARDENS, NURSERY
from tests.web.test_deliver import step, work

pytestmark = pytest.mark.django_db(transaction=True)
CROSSED = {
    "cause": "event",
    "kind": "scene.line_crossed",
    "phase": "pulse",
    "where": {"points": [{"id": "jetty-line"}]},
}


@pytest.fixture
def crossed(bench, as_, standins):
    """`crossed(steps)`: a rule with those steps, live, and a crossing half a minute ago."""
    Recorder.objects.update(address=standins["recorder"])

    def make(*steps):
        rule = save(as_("ines"), {"name": "R", "cause": CROSSED, "response": list(steps)})
        switch(as_("ines"), rule, True)
        bench.run()
        bench.cross(at=now_ms() - 30_000, confidence=40.0)
        bench.run()
        return rule

    return make


def test_a_stretch_is_recorded_and_protected_once_for_each_camera(crossed, serve, tmp_path):
    recorder = StandInRecorder(Studio(World(), tmp_path), RECORDER_TOKEN)
    crossed({"do": "record", "before": 5, "beyond": 10})
    Recorder.objects.update(address=serve(recorder.app()))
    asyncio.run(work())
    assert set(Step.objects.filter(action="record").values_list("target", "status")) == {("jetty", "done")}
    (asked,), (kept,) = recorder.asked, recorder.protected
    assert asked["channel"] == kept["channel"] == "jetty" and asked["end"] - asked["start"] == 15_000
    assert kept["why"].startswith("run ")


def test_stills_are_kept_for_each_moment_and_hashed(crossed):
    crossed({"do": "snapshot", "moments": [-4, 0, 6]})
    asyncio.run(work())
    stills = list(Snapshot.objects.order_by("at"))
    assert [s.at - stills[1].at for s in stills] == [-4_000, 0, 6_000]
    for still in stills:
        kept = (config.data() / "snapshots" / still.file).read_bytes()
        assert hashlib.sha256(kept).hexdigest() == still.sha256 and kept[:3] == b"\xff\xd8\xff"


def test_a_kept_still_is_shown_to_people_of_the_site_alone(crossed, client, as_):
    crossed({"do": "snapshot", "moments": [0]})
    asyncio.run(work())
    still = Snapshot.objects.get()
    client.force_login(as_("vera").person)
    answer = client.get(f"/s/{GARDENS}/snapshot/{still.pk}")
    assert answer["X-Content-Digest"] == f"sha-256={still.sha256}" and answer["Content-Type"] == "image/jpeg"
    event = RunRow.objects.get(rule=Rule.objects.get(name="R").pk).event
    assert f"snapshot/{still.pk}" in client.get(f"/s/{GARDENS}/daybook/event/{event}").content.decode()
    client.force_login(as_("oskar").person)
    assert client.get(f"/s/{NURSERY}/snapshot/{still.pk}").status_code == 404


def test_a_still_whose_moment_is_yet_to_come_is_fetched_when_it_has(crossed):
    crossed({"do": "snapshot", "moments": [33]})
    asyncio.run(work())
    waiting = Step.objects.get(action="snapshot")
    assert (waiting.status, waiting.attempts) == ("due", 0) and waiting.due >= waiting.payload["at"]


async def calls(serve, delivery, *answers):
    """How an HTTP step ends when the other side answers so, and what arrived there."""
    got = []

    async def receive(request):
        got.append((request.method, await request.body(), request.headers["content-type"]))
        answer = answers[min(len(got), len(answers)) - 1]
        if answer is None:
            await asyncio.sleep(1)
        return Response(status_code=answer or 200)

    address = serve(Starlette(routes=[Route("/x", receive, methods=["PUT"])]))
    payload = {"method": "PUT", "url": f"{address}/x", "body": '{"a": "b"}'}
    one = await sync_to_async(step)(
        delivery, run=str(delivery), action="http", payload=payload, lane="host", expires=now_ms() + 60_000
    )
    await work()
    await work(lambda: now_ms() + 2_000)
    return (await Step.objects.aget(pk=one.pk)), got


@pytest.mark.parametrize(("answer", "status"), [(200, "done"), (404, "failed"), (500, "failed")])
async def test_a_call_goes_out_once_and_its_answer_is_kept(serve, answer, status):
    one, got = await calls(serve, Delivery.ONCE_ONLY, answer)
    assert (one.status, one.answer, len(got)) == (status, f"127.0.0.1 answered HTTP {answer}.", 1)
    assert got[0] == ("PUT", b'{"a": "b"}', "application/json")


async def test_a_call_without_an_answer_is_unconfirmed_and_never_repeated_unless_it_may_be(serve, monkeypatch):
    monkeypatch.setattr(wire_calls, "PATIENCE", 0.3)
    one, got = await calls(serve, Delivery.ONCE_ONLY, None)
    assert (one.status, len(got)) == ("unconfirmed", 1)
    one, got = await calls(serve, Delivery.REPEATABLE, None, 200)
    assert (one.status, len(got)) == ("done", 2)


async def test_nobody_is_called_who_is_not_allowed():
    payload = {"method": "GET", "url": "http://metadata.invalid/", "body": ""}
    one = await sync_to_async(step)(action="http", payload=payload, lane="host")
    await work()
    assert "not allowed" in (await Step.objects.aget(pk=one.pk)).answer


def test_a_text_reaches_the_gateway_once_also_when_it_is_sent_twice(bench, as_, serve, monkeypatch):
    received = Received()
    monkeypatch.setenv("DROMIKON_TEXT_GATEWAY", serve(Starlette(routes=Posts(received).routes())) + "/texts")
    text = {
        "do": "text",
        "link": False,
        "text": "{class|capital} at {point}",
        "groups": [{"id": "duty"}, {"id": "operators"}],
    }
    set_number(as_("opal").person, "")
    switch(as_("ines"), save(as_("ines"), {"name": "R", "cause": CROSSED, "response": [text]}), True)
    bench.run()
    bench.cross(confidence=40.0)
    bench.run()
    asyncio.run(work())
    # As after a crash: what had been sent goes out again, with its id.
    Step.objects.filter(action="text", status="done").update(status="due", next_try=now_ms())
    asyncio.run(work())
    numbers = {as_(user).person.number for user in ("dara", "oskar")}
    assert sorted((t.to, t.text) for t in received.of("text")) == sorted((n, "Human at Jetty line") for n in numbers)
    assert Step.objects.filter(action="text").count() == 2, "who has no number is asked for nothing"


@pytest.mark.parametrize("number", ["07700 900123", "+0123", "+44 7700 abc", "+4477009001234567"])
def test_numbers_that_cannot_be_texted_are_refused(as_, number):
    with pytest.raises(Refused):
        set_number(as_("opal").person, number)
    set_number(as_("opal").person, "+44 7700-900 377")
    assert as_("opal").person.number == "+447700900377"
