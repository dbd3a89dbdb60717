"""Delivery: once-only steps never twice, repeatable ones until they arrive, releases until confirmed."""

import asyncio
import hashlib
import json
from datetime import UTC, datetime

import pytest
from asgiref.sync import sync_to_async
from standardwebhooks import Webhook
from starlette.applications import Starlette
from starlette.responses import Response
from starlette.routing import Route

from dromikon import config
from dromikon.authoring.services import save, switch
from dromikon.clock import now_ms
from dromikon.core.rules.actions.base import Delivery
from dromikon.daybook.holders import release_is_needless
from dromikon.daybook.models import ActRow, EventRow, Step
from dromikon.daybook.storage import waiting_steps
from dromikon.desk.models import Alarm, Evidence
from dromikon.engine import effects
from dromikon.engine.deliver import Deliverers
from dromikon.engine.effects.base import OutsideEffect, Sent
from dromikon.engine.ledger import Outcome, after_a_crash, write_group
from dromikon.rulebook.receivers import signing_secrets
from dromikon.sources.models import Device, Recorder

pytestmark = pytest.mark.django_db(transaction=True)


def step(delivery=Delivery.ONCE_ONLY, run="1.0", **more):
    now = now_ms()
    fields = {
        "site": "s",
        "step": 0,
        "action": "relay",
        "target": "storm-light",
        "lane": "device:x",
        "due": now,
        "next_try": now,
        "expires": now + 10_000,
    }
    return Step.objects.create(run=run, delivery=delivery.value, **{**fields, **more})


class Scripted(OutsideEffect):
    """Answers as told, and counts."""

    def __init__(self, *answers):
        self.answers, self.sent = list(answers), []

    async def deliver(self, step):
        self.sent.append((step.run, step.release))
        answer = self.answers.pop(0) if self.answers else "done"
        if isinstance(answer, Exception):
            raise answer
        return Sent(answer, "as told")


@pytest.fixture
def scripted(monkeypatch):
    def put(*answers):
        effect = Scripted(*answers)
        monkeypatch.setitem(effects.EFFECTS._entries, "relay", effect)
        return effect

    return put


async def work(clock=now_ms):
    """Send all that is due, then stop."""
    deliverers = Deliverers(clock)
    await deliverers.look()
    await deliverers.settle()
    await deliverers.close()


def finish(one, sent, now):
    write_group([], [Outcome(one.pk, sent, now)])


async def status(one):
    return (await Step.objects.aget(pk=one.pk)).status


@pytest.mark.parametrize("outcome", ["unconfirmed", "failed"])
async def test_a_once_only_step_without_confirmation_is_never_sent_again(scripted, outcome):
    effect, one = scripted(outcome), await sync_to_async(step)()
    await work()
    assert len(effect.sent) == 1 and await status(one) == outcome


async def test_a_once_only_step_that_surely_was_not_sent_is_tried_until_it_expires(scripted):
    effect, one = scripted(*["retry"] * 50), await sync_to_async(step)()
    late = now_ms()
    for ahead in (0, 1_500, 4_000, 9_000, 11_000, 20_000):
        await work(lambda ahead=ahead: late + ahead)
    assert await status(one) == "expired" and 2 <= len(effect.sent) <= 4


async def test_a_stale_command_is_never_sent(scripted):
    effect = scripted()
    one = await sync_to_async(step)(due=now_ms() - 60_000, next_try=now_ms() - 60_000, expires=now_ms() - 50_000)
    await work()
    assert effect.sent == [] and await status(one) == "expired"


async def test_a_repeatable_step_is_repeated_with_back_off(scripted):
    effect, one = (
        scripted("unconfirmed", "retry", "done"),
        await sync_to_async(step)(Delivery.REPEATABLE, expires=now_ms() + 3_600_000),
    )
    now = now_ms()
    await work(lambda: now)
    assert len(effect.sent) == 1, "not before its pause is over"
    # A pause is a second, then two, and for each step up to a fifth longer or shorter.
    await work(lambda: now + 1_250)
    await work(lambda: now + 1_250 + 2_450)
    assert len(effect.sent) == 3 and await status(one) == "done"


async def test_a_release_never_expires_and_goes_on_until_confirmed(scripted):
    effect = scripted("failed", "unconfirmed", "retry", "done")
    one = await sync_to_async(step)(Delivery.RELEASE, release=True, expires=None, due=now_ms() - 86_400_000)
    for hours in range(5):
        await work(lambda hours=hours: now_ms() + hours * 3_600_000)
    assert len(effect.sent) == 4 and await status(one) == "done"


async def test_a_lane_keeps_order_and_a_slow_lane_holds_up_no_other(scripted):
    effect = scripted("retry")
    await sync_to_async(step)(Delivery.REPEATABLE, run="1.0", expires=None)
    await sync_to_async(step)(Delivery.REPEATABLE, run="2.0", expires=None)
    await sync_to_async(step)(Delivery.REPEATABLE, run="3.0", expires=None, lane="device:y")
    await work()
    assert sorted(effect.sent) == [("1.0", False), ("3.0", False)], "the second waits behind the first"
    await work(lambda: now_ms() + 2_000)
    assert [r for r, _ in effect.sent][2:] == ["1.0", "2.0"]


async def test_a_step_that_breaks_us_fails_and_the_lane_goes_on(scripted):
    scripted(RuntimeError("a fault of ours"))
    first, second = await sync_to_async(step)(), await sync_to_async(step)(run="2.0")
    await work()
    assert [await status(first), await status(second)] == ["failed", "done"]


def test_after_a_crash_once_only_is_unconfirmed_and_the_rest_goes_out_again():
    once, repeat, release = (
        step(),
        step(Delivery.REPEATABLE, run="2.0"),
        step(Delivery.RELEASE, run="3.0", release=True, expires=None),
    )
    for one in (once, repeat, release):
        claimed = write_group([one.pk], [])[one.pk]
        assert (claimed.status, claimed.attempts, claimed.payload) == ("sending", 1, one.payload)
        assert claimed.release is one.release and not write_group([one.pk], []), "claimed once"
    after_a_crash(now_ms())
    found = dict(Step.objects.values_list("run", "status"))
    assert found == {"1.0": "unconfirmed", "2.0": "due", "3.0": "due"}


def test_only_the_last_holder_releases():
    for run in ("1.0", "2.0"):
        finish(step(run=run), Sent("done"), now_ms())
    first, last = (step(Delivery.RELEASE, run=run, release=True, expires=None) for run in ("1.0", "2.0"))
    assert "2.0 still holds" in release_is_needless(first)
    finish(first, Sent("done"), now_ms())
    assert release_is_needless(last) == ""


def test_what_was_never_switched_on_need_not_be_released_but_an_unconfirmed_on_must():
    for status_, word in (("expired", "never"), ("unconfirmed", "")):
        Step.objects.all().delete()
        finish(step(), Sent(status_), now_ms())
        assert word in release_is_needless(step(Delivery.RELEASE, release=True, expires=None))
    assert len(waiting_steps(0, 10)[0]) == 1


async def test_a_relay_of_the_stand_in_is_switched_and_released(garden, standins):
    await Device.objects.filter(id="cam-jetty").aupdate(address=f"{standins['jetty']}/onvif/device_service")
    await sync_to_async(step)(lane="device:cam-jetty")
    await sync_to_async(step)(Delivery.RELEASE, release=True, expires=None, lane="device:cam-jetty")
    deliverers = Deliverers(now_ms)
    await deliverers.look()
    await deliverers.settle()
    assert await Step.objects.filter(status="due").acount() == 1, "the device is given its minimum gap"
    await asyncio.sleep(1.0)
    await deliverers.look()
    await deliverers.settle()
    await deliverers.close()
    rows = [s async for s in Step.objects.order_by("id")]
    assert [(s.release, s.status, s.answer) for s in rows] == [
        (False, "done", "The device confirmed."),
        (True, "done", "The device confirmed."),
    ]


async def test_a_toggle_turns_round_how_the_output_was_last_switched(garden, standins):
    await Device.objects.filter(id="cam-jetty").aupdate(
        address=f"{standins['jetty']}/onvif/device_service", minimum_gap=0
    )
    for run in ("1.0", "2.0", "3.0"):
        await sync_to_async(step)(run=run, lane="device:cam-jetty", payload={"state": "toggle", "held": False})
    await work()
    rows = [(s.status, s.payload["state"]) async for s in Step.objects.order_by("id")]
    assert rows == [("done", "on"), ("done", "off"), ("done", "on")]


async def test_a_webhook_carries_a_signed_cloud_event_with_the_same_id_each_time(serve, garden):
    site = garden
    got, answers = [], [500, 204]

    async def receive(request):
        got.append((dict(request.headers), await request.body()))
        return Response(status_code=answers[len(got) - 1])

    address = serve(Starlette(routes=[Route("/hook", receive, methods=["POST"])]))
    payload = {
        "url": f"{address}/hook",
        "type": "scene.line_crossed",
        "time": "2026-01-01T00:00:00Z",
        "data": {"text": "x"},
    }
    one = await sync_to_async(step)(
        Delivery.REPEATABLE, action="webhook", payload=payload, lane="host", expires=None, site=garden.id
    )
    await work()
    await work(lambda: now_ms() + 1_500)
    assert len(got) == 2 and await status(one) == "done"
    (first, body), (second, _) = got
    assert first["webhook-id"] == second["webhook-id"] and first["content-type"] == "application/cloudevents+json"
    (secret,) = await sync_to_async(signing_secrets)(site.id, payload["url"])
    content = Webhook(secret).verify(body, first)
    assert content["specversion"] == "1.0" and content["type"] == "dromikon.scene.line_crossed"
    assert abs(int(first["webhook-timestamp"]) - datetime.now(UTC).timestamp()) < 60
    assert json.loads(body)["data"] == {"text": "x"}


async def test_calls_go_only_where_an_administrator_allows():
    payload = {"method": "GET", "url": "http://metadata.invalid/x", "body": ""}
    one = await sync_to_async(step)(action="http", payload=payload, lane="host")
    await work()
    one = await Step.objects.aget(pk=one.pk)
    assert one.status == "failed" and "not allowed" in one.answer


@pytest.mark.timeless
def test_evidence_is_fetched_from_the_recorder_kept_and_hashed(bench, standins):
    Recorder.objects.update(address=standins["recorder"])
    bench.cross(at=now_ms() - 20_000)
    bench.run()
    asyncio.run(work())
    stills = list(Evidence.objects.order_by("offset"))
    assert [s.offset for s in stills] == [-10_000, -6_000, -3_000, 0, 3_000, 6_000]
    for still in stills:
        kept = (config.data() / "evidence" / still.file).read_bytes()
        assert hashlib.sha256(kept).hexdigest() == still.sha256
    assert len({s.sha256 for s in stills}) == 6, "each is the picture of its own moment"
    assert Alarm.objects.get().evidence.count() == 6


def test_a_step_that_expires_is_loud_and_never_by_its_own_rule(bench, as_):
    everywhere = {"cause": "event", "kind": "step.expired", "phase": "pulse", "where": {"everywhere": True}}
    alarm = {"do": "alarm", "priority": "high", "title": "{by_rule}: {step} expired", "groups": [{"id": "operators"}]}
    call = {"do": "http", "method": "GET", "url": "http://127.0.0.1:9/", "body": ""}
    geese = {"test": "field", "field": "class", "op": "is", "value": "vehicle"}
    crossed = {
        "cause": "event",
        "kind": "scene.line_crossed",
        "phase": "pulse",
        "where": {"points": [{"id": "jetty-line"}]},
    }
    for document in (
        {"name": "Watchman", "cause": everywhere, "response": [alarm, call]},
        {"name": "Caller", "cause": crossed, "provided": geese, "response": [call]},
    ):
        switch(as_("ines"), save(as_("ines"), document), True)
    bench.run()
    bench.cross(**{"class": "vehicle"})
    bench.run()
    for hours in (1, 2):
        asyncio.run(work(lambda hours=hours: now_ms() + hours * 3_600_000))
        bench.run()
    assert [a.title for a in Alarm.objects.all()] == ["Caller: http expired"]
    assert set(Step.objects.filter(action="http").values_list("status", flat=True)) == {"expired"}
    assert EventRow.objects.filter(kind="step.expired").count() == 2, "the watchman's own call expired too"


@pytest.mark.timeless
async def test_a_burst_at_one_host_goes_out_at_once_and_in_order_where_the_rule_wants_it(serve):
    got, under_way, most = [], 0, 0

    async def receive(request):
        nonlocal under_way, most
        under_way += 1
        most = max(most, under_way)
        await asyncio.sleep(0.01)
        under_way -= 1
        got.append(int(request.path_params["number"]))
        return Response(status_code=204)

    address = serve(Starlette(routes=[Route("/{number:int}", receive, methods=["GET"])]))
    for lane, count in (("host", 200), ("host one by one r", 40)):
        got.clear()
        most = 0
        for i in range(count):
            payload = {"method": "GET", "url": f"{address}/{i}", "body": ""}
            await sync_to_async(step)(action="http", run=f"{i}.{lane[-1]}", payload=payload, lane=lane)
        await work()
        assert sorted(got) == list(range(count))
        assert most == 8 if lane == "host" else (most == 1 and got == sorted(got))
    assert await Step.objects.filter(status="done").acount() == 240


async def test_a_lane_longer_than_memory_is_read_on_and_expires_each_step_once(serve, garden, monkeypatch):
    from dromikon.engine import deliver

    async def receive(request):
        return Response(status_code=204)

    monkeypatch.setattr(deliver, "MOST_IN_LANE", 5)
    monkeypatch.setattr(deliver, "PORTION", 7)
    payload = {"method": "GET", "url": serve(Starlette(routes=[Route("/", receive)])), "body": ""}
    for i in range(40):
        late = i % 2
        due = now_ms() - (100_000 if late else 0)
        more = {"due": due, "next_try": due, "expires": due + 10_000}
        await sync_to_async(step)(action="http", run=f"{i}.h", payload=payload, lane="host", site=garden.id, **more)
    deliverers = Deliverers(now_ms)
    for _ in range(20):
        await deliverers.look()
        await deliverers.settle()
    await deliverers.close()
    rows = [s.status async for s in Step.objects.order_by("id")]
    assert rows == ["done", "expired"] * 20, rows
    assert await ActRow.objects.filter(type="expired").acount() == 20


async def test_a_clock_that_is_set_back_makes_no_command_late(scripted):
    effect, hour, back = scripted("retry"), 3_600_000, [0]
    one = await sync_to_async(step)()
    deliverers = Deliverers(lambda: now_ms() - back[0])
    await deliverers.look()
    await deliverers.settle()
    assert (await status(one), len(effect.sent)) == ("due", 1)
    back[0] = hour
    # By the clock that was, it waits for an hour; what is written now is an hour ahead, too.
    other = await sync_to_async(step)(run="2.0", lane="device:y")
    await deliverers.look()
    await deliverers.settle()
    assert await status(other) == "done"
    back[0] -= 1_500
    await deliverers.look()
    await deliverers.settle()
    assert (await status(one), len(effect.sent)) == ("done", 3), "a second later by any clock"
    late = await sync_to_async(step)(run="3.0")
    effect.answers = ["retry"]
    await deliverers.look()
    await deliverers.settle()
    back[0] += hour
    await deliverers.look()
    back[0] -= 20_000
    await deliverers.look()
    await deliverers.settle()
    await deliverers.close()
    assert await status(late) == "expired", "ten seconds are ten seconds"
