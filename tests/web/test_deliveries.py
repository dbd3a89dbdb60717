"""The page of deliveries: what left, where to, with what outcome; nothing that stays inside, nothing of another site."""

import pytest

from dromikon.clock import now_ms
from dromikon.daybook.models import RunRow, Step
from tests.conftest import GARDENS, NURSERY

pytestmark = pytest.mark.django_db


@pytest.fixture
def page(garden, as_, client):
    now = now_ms() - 60_000
    run = {"rule": "jetty-closed", "revision": 1, "event": 7, "point": "jetty-line", "at": now, "zero": now}
    RunRow.objects.create(ref="7.jetty-closed", site=GARDENS, rule_name="Somebody on the jetty", **run)

    def step(i, **more):
        known = {"run": "7.jetty-closed", "site": GARDENS, "step": i, "action": "http", "delivery": "once_only"}
        Step.objects.create(**{**known, "target": f"host:h{i}.example", "due": now + i, **more})

    step(0, status="done", sent_at=now, done_at=now + 1_500, answer="200 OK")
    step(1, status="failed", answer="<b>no</b>")
    step(2, status="due")
    step(3, status="done", delivery="inside", action="alarm", target="jetty")
    step(4, status="done", site=NURSERY, target="host:nursery.example")
    step(5, status="unconfirmed", run="try.1", action="webhook")
    client.force_login(as_("oskar").person)
    return lambda shown="": client.get(f"/s/{GARDENS}/deliveries?shown={shown}").content.decode()


def test_what_left_is_told_with_its_rule_outcome_and_answer(page):
    text = page()
    assert all(f"h{i}.example" in text for i in (0, 1, 2, 5)) and "nursery.example" not in text
    assert text.count("data-delivery") == 4 and "&lt;b&gt;no" in text and "200 OK" in text and "1.5 s" in text
    assert "Somebody on the jetty" in text and "open=event-7" in text and "a test" in text
    assert text.index("h5.example") < text.index("h0.example"), "the newest first"


@pytest.mark.parametrize(
    ("shown", "hosts"), [("trouble", {1, 5}), ("waiting", {2}), ("sent", {0}), ("odd", {0, 1, 2, 5})]
)
def test_it_is_narrowed(page, shown, hosts):
    text = page(shown)
    assert {i for i in range(6) if f"h{i}.example" in text} == hosts


def test_the_badge_of_what_was_not_sent_leads_there_and_an_empty_one_says_so(garden, as_, client):
    client.force_login(as_("vera").person)
    assert f"/s/{GARDENS}/deliveries?shown=trouble" in client.get(f"/s/{GARDENS}/hours").content.decode()
    assert "Nothing of that sort" in client.get(f"/s/{GARDENS}/deliveries").content.decode()
