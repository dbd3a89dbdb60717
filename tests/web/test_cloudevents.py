"""CloudEvents at an intake: structured and binary, understood or kept with the reason."""

import json

import pytest

from dromikon.clock import now_ms
from dromikon.core.instants import iso
from dromikon.daybook.models import EventRow
from dromikon.intake import inbox
from dromikon.intake.listener import sort_of
from dromikon.sources.models import Unclaimed

pytestmark = [pytest.mark.django_db, pytest.mark.timeless]
WHOLE = {"specversion": "1.0", "id": "1", "source": "/panel", "type": "org.example.input.active"}
WHOLE |= {"subject": "jetty-contact", "phase": "begin"}


@pytest.fixture
def sent(bench, as_):
    """`sent(headers, body)`: as the listener stores it and the engine reads it; the events there are then."""
    from dromikon.sources.models import Point

    Point.objects.create(id="jetty-contact", site=as_("ines").site, kind="input", name="Contact")
    bench.engine.load()

    def send(headers, body):
        adapter, meta = sort_of("POST", "", headers)
        bench.put(inbox.Message(now_ms(), adapter, "garden-gateway", json.dumps(meta), body))
        bench.run()
        return list(EventRow.objects.filter(point="jetty-contact").order_by("seq"))

    return send


def test_structured_and_binary_mode_are_the_same_event(sent):
    said = now_ms() - 20_000
    structured = {**WHOLE, "time": iso(said), "data": {"note": "grün"}}
    sent({"content-type": "application/cloudevents+json; charset=utf-8"}, json.dumps(structured).encode())
    headers = {f"ce-{name}": value for name, value in {**WHOLE, "phase": "end", "time": iso(said + 5_000)}.items()}
    events = sent({**headers, "content-type": "application/json"}, b'{"note": "gr\\u00fcn"}')
    assert [(e.kind, e.phase, e.occurred_at, e.fields) for e in events] == [
        ("input.active", "begin", said, {"note": "grün"}),
        ("input.active", "end", said + 5_000, {"note": "grün"}),
    ]


def test_attributes_in_headers_are_percent_encoded(sent):
    headers = {"ce-specversion": "1.0", "ce-subject": "jetty%2Dcontact", "CE-Phase": "begin"}
    assert sort_of("POST", "", headers)[1]["attributes"] == {
        "specversion": "1.0",
        "subject": "jetty-contact",
        "phase": "begin",
    }


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"specversion": "0.3"}, "not 1.0"), ({"type": "org.example.nothing"}, "no kind"), ({"id": ""}, "id: a CloudEvent"),
        ({"phase": ""}, "begins or ends"), ({"subject": "nowhere"}, "no point “nowhere”"), ({"data": [1]}, "data: not"),
        ({"time": "yesterday"}, "occurred_at"), ({"phase": "pulse"}, "no phase"),
    ],
)  # fmt: skip
def test_what_is_not_understood_is_kept_with_the_reason(sent, change, says):
    body = json.dumps({**WHOLE, **change}).encode()
    assert sent({"content-type": "application/cloudevents+json"}, body) == []
    assert says in Unclaimed.objects.get().reason


def test_a_body_that_is_none_is_kept(sent):
    assert sent({"content-type": "application/cloudevents+json"}, b"[") == []
    assert sent({"ce-specversion": "1.0"}, b"") == []
    assert Unclaimed.objects.count() == 2
