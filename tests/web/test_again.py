"""A target that is away for a while: what is shown, what is sent again and by whom; and the page that a message leads to."""

import asyncio

import pytest
from asgiref.sync import sync_to_async
from starlette.applications import Starlette
from starlette.responses import Response
from starlette.routing import Route

from dromikon.authoring.again import send_again
from dromikon.clock import now_ms
from dromikon.core.rules.actions.base import Delivery
from dromikon.daybook.models import Requeued, Resting, RunRow, Step
from dromikon.desk.models import Alarm
from dromikon.engine.deliver import Deliverers
from dromikon.engine.effects.mail import AT_ONCE as MAILS_AT_ONCE
from dromikon.engine.effects.summon import SummonEffect
from dromikon.engine.lanes import GIVES_UP_AFTER
from dromikon.refusals import Refused
from tests.conftest import GARDENS, NURSERY
from tools.ports import free_port

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.timeless]


def call(i, url, delivery=Delivery.REPEATABLE, **more):
    now = now_ms()
    known = {
        "run": f"{i}.x", "site": GARDENS, "step": 0, "action": "http", "target": "host:127.0.0.1", "lane": "host:127.0.0.1",
        "payload": {"method": "POST", "url": url, "body": "", "in_order": False}, "due": now, "next_try": now,
        "expires": now + 600_000, "delivery": str(delivery),
    }  # fmt: skip
    return Step.objects.create(**{**known, **more})


async def rounds(deliverers, count=6):
    for _ in range(count):
        await deliverers.look()
        await deliverers.settle()


async def test_a_dead_target_is_left_alone_said_so_and_taken_up_again(garden, serve, as_, client):
    port = free_port()
    for i in range(40):
        await sync_to_async(call)(i, f"http://127.0.0.1:{port}/x")
    ahead = [0]
    deliverers = Deliverers(lambda: now_ms() + ahead[0])
    await rounds(deliverers)
    tried = await Step.objects.filter(attempts__gt=0).acount()
    assert GIVES_UP_AFTER <= tried < GIVES_UP_AFTER + 8, "not all forty are tried in vain"
    rest = await Resting.objects.aget()
    assert rest.lane == "host:127.0.0.1" and "cannot be reached" in rest.answer and rest.tries_at > rest.since
    person = await sync_to_async(lambda: as_("oskar").person)()
    await sync_to_async(client.force_login)(person)
    page = (await sync_to_async(client.get)(f"/s/{GARDENS}/deliveries")).content.decode()
    assert "They do not answer" in page and "40 wait" in page
    got = []

    async def take(request):
        got.append(1)
        return Response(status_code=204)

    await sync_to_async(serve)(Starlette(routes=[Route("/x", take, methods=["POST"])]), port)
    ahead[0] = 120_000
    await rounds(deliverers, 12)
    await deliverers.close()
    assert len(got) == 40 and not await Resting.objects.aexists()
    assert await Step.objects.filter(status="done").acount() == 40


@pytest.mark.parametrize(
    ("action", "delivery", "status", "may"),
    [
        ("http", "repeatable", "expired", True),
        ("text", "repeatable", "unconfirmed", True),
        ("http", "once_only", "failed", True),
        ("http", "once_only", "unconfirmed", False),
        ("door", "once_only", "expired", False),
        ("relay", "once_only", "failed", False),
        ("http", "repeatable", "done", False),
    ],
)
def test_only_what_does_no_harm_is_sent_again(garden, as_, action, delivery, status, may):
    one = call(1, "http://127.0.0.1:9/", action=action, delivery=delivery, status=status, done_at=1)
    if not may:
        with pytest.raises(Refused):
            send_again(as_("ines"), one.pk)
        return
    send_again(as_("ines"), one.pk)
    one.refresh_from_db()
    assert one.status == "due" and one.expires > now_ms() and Requeued.objects.get().step == one.pk


def test_what_is_sent_again_keeps_its_id_and_is_taken_up_though_it_was_looked_at_long_ago(garden, as_, serve, client):
    got = []

    async def take(request):
        got.append(1)
        return Response(status_code=204)

    one = call(1, serve(Starlette(routes=[Route("/x", take, methods=["POST"])])) + "/x", status="failed", done_at=1)

    person = as_("ines").person

    async def work():
        deliverers = Deliverers(now_ms)
        await rounds(deliverers, 1)
        await sync_to_async(client.force_login)(person)
        answer = await sync_to_async(client.post)(f"/api/v1/deliveries/{one.pk}/again?site={GARDENS}")
        assert answer.status_code == 202, answer.content
        await rounds(deliverers, 2)
        await deliverers.close()

    asyncio.run(work())
    one.refresh_from_db()
    assert (one.status, len(got)) == ("done", 1) and not Requeued.objects.exists()
    client.force_login(as_("oskar").person)
    assert client.post(f"/api/v1/deliveries/{one.pk}/again?site={GARDENS}").status_code == 403
    assert client.post(f"/api/v1/deliveries/{one.pk}/again?site={NURSERY}").status_code in (403, 404)


def test_the_link_of_a_message_leads_through_the_log_in_to_its_moment(bench, as_, client):
    bench.cross()
    bench.run()
    run = RunRow.objects.get(rule="jetty-closed")
    where = f"/s/{GARDENS}/moment/{run.ref}"
    asked = client.get(where)
    assert asked.status_code == 302 and asked["Location"].endswith(f"?next=/s/{GARDENS}/moment/{run.ref}")
    went = client.post(asked["Location"], {"username": "oskar", "password": "quillmere-demo"})
    assert went["Location"] == where
    page = client.get(where).content.decode()
    alarm = Alarm.objects.get()
    assert run.rule_name in page and f'data-answer="{alarm.pk}"' in page and "What was done" in page
    assert client.get(f"/s/{NURSERY}/moment/{run.ref}").status_code == 404
    assert client.get(f"/s/{GARDENS}/moment/0.nothing").status_code == 404


def test_what_all_sites_share_rests_for_all_of_them_and_tells_no_names(garden, as_, client):
    common = {"since": 1, "tries_at": 2, "failures": 5, "action": "mail", "site": NURSERY}
    Resting.objects.create(lane="mail", target="person:9", answer="nobody@nursery.example", **common)
    Resting.objects.create(lane="host:their.example", target="host:their.example", answer="away", **common)
    client.force_login(as_("oskar").person)
    page = client.get(f"/s/{GARDENS}/deliveries").content.decode()
    assert "The mail server" in page and "tried with the next that is for it" in page
    assert "nursery.example" not in page and "their.example" not in page
    [told] = client.get(f"/api/v1/deliveries/resting?site={GARDENS}").json()
    assert (told["target"], told["answer"], told["waiting"]) == ("mail", "", 0)


@pytest.mark.parametrize(("lane", "width"), [("mail", MAILS_AT_ONCE), ("gateway:text", 8), ("elsewhere", 1)])
def test_a_ladder_leaves_lanes_as_wide_as_they_are(lane, width, monkeypatch):
    monkeypatch.setenv("DROMIKON_CALLS_AT_ONCE", "8")
    assert SummonEffect().width(lane) == width
