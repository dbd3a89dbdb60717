"""Intakes on a real socket: senders that are not ours, in every way that one may prove itself, and what becomes of what they send."""

import base64
import json
import subprocess
import time
from datetime import UTC, datetime

import pytest
from cloudevents.core.bindings.http import to_binary_event, to_structured_event
from cloudevents.core.v1.event import CloudEvent
from standardwebhooks import Webhook

from dromikon.clock import now_ms
from dromikon.core.instants import to_datetime
from dromikon.daybook.models import EventRow
from dromikon.intake.app import build
from dromikon.intake.counting import Flows
from dromikon.intake.inbox import InboxWriter, after, connect
from dromikon.intake.looking import last_sent
from dromikon.intake.trying import lines_to_try
from dromikon.setup.intakes import IntakeDocument, rotate_secret, save_intake
from dromikon.sources.models import Intake, IntakeCount, Unclaimed
from tests.conftest import GARDENS

pytestmark = pytest.mark.django_db(transaction=True)
EVENT = {"kind": "input.active", "point": "leak", "phase": "begin"}
WAYS = {
    "bearer": {}, "address": {}, "basic": {"user": "kiosk"}, "digest": {"user": "kiosk"}, "standard": {},
    "signature": {"header": "X-Signature"},
}  # fmt: skip


@pytest.fixture
def made(as_):
    """`made(proof=…)`: an intake that has just been set up, and its secret."""

    def make(**document):
        return save_intake(as_("ines"), None, IntakeDocument(name="Trial", **document))

    return make


@pytest.fixture
def address(bench, serve):
    """Where the listener is; what it takes goes to the engine of the test."""
    writer = InboxWriter(bench.path)
    yield f"{serve(build(writer, sessions=False))}/in/"
    writer.close()


def curl(*words, body=None):
    """Status and answer of a call."""
    command = ["curl", "-s", "-o", "-", "-w", "\n%{http_code}", *words]
    said = subprocess.run(command, input=body, capture_output=True, timeout=20, check=True).stdout.decode()
    answer, _, status = said.rpartition("\n")
    return int(status), json.loads(answer or "{}")


def post(where, *words, body=EVENT, type="application/json"):
    data = body if isinstance(body, bytes) else json.dumps(body).encode()
    return curl("-H", f"Content-Type: {type}", "--data-binary", "@-", *words, where, body=data)


def came(bench):
    bench.run()
    return [(e.kind, e.point, e.phase) for e in EventRow.objects.filter(kind="input.active").order_by("seq")]


def counts(intake, **outcomes):
    """Wait until so much is counted."""
    deadline = time.monotonic() + 5
    while time.monotonic() < deadline:
        found = dict(IntakeCount.objects.filter(intake=intake).values_list("outcome", "count"))
        if found == outcomes:
            return True
        time.sleep(0.05)
    return found


@pytest.mark.present
@pytest.mark.parametrize("proof", WAYS)
def test_the_line_on_its_page_works_as_it_stands(bench, made, address, proof):
    intake, secret = made(proof=proof, **WAYS[proof])
    lines = (
        lines_to_try(intake, f"{address}{intake.id}", "leak")
        .replace("'…'", f"'{secret}'")
        .replace("'whsec_…'", f"'{secret}'")
    )
    said = subprocess.run(["bash", "-c", lines], capture_output=True, text=True, timeout=20, check=True).stdout
    answer = json.loads(said)
    assert answer["accepted"] and came(bench) == [("input.active", "leak", "begin")]
    assert [s.id for s in last_sent(intake)] == [answer["id"]] and counts(intake, accepted=1) is True


@pytest.mark.parametrize("proof", WAYS)
def test_without_the_secret_nothing_is_stored(bench, made, address, proof):
    intake, _ = made(proof=proof, **WAYS[proof])
    status, said = post(f"{address}{intake.id}", "-H", "Authorization: Bearer wrong", "-H", "X-Signature: 00")
    assert status == 401 and said["reason"] in ("token", "password", "signature")
    assert after(connect(bench.path), 0, 9) == [] and counts(intake, **{said["reason"]: 1}) is True


def test_what_the_schemes_own_library_signs_is_taken_once_and_not_when_it_is_old(bench, made, address):
    intake, secret = made(proof="standard")

    def signed(id, at, body=json.dumps(EVENT)):
        signature = Webhook(secret).sign(id, to_datetime(at), body)
        heads = {"webhook-id": id, "webhook-timestamp": str(at // 1000), "webhook-signature": signature}
        return [word for name, value in heads.items() for word in ("-H", f"{name}: {value}")]

    first, old = signed("msg_1", now_ms()), signed("msg_2", now_ms() - 400_000)
    where = f"{address}{intake.id}"
    assert post(where, *first)[0] == 202
    assert post(where, *first)[0] == 409, "once"
    status, said = post(where, *old)
    assert (status, said["reason"]) == (401, "time")
    assert len(came(bench)) == 1 and counts(intake, accepted=1, replay=1, time=1) is True


def test_while_a_secret_is_rotated_both_count(bench, made, address, as_):
    intake, first = made(proof="signature", secret="the first of them")
    second = rotate_secret(as_("ines"), intake.id)
    kept = Intake.objects.get(pk=intake.pk)
    assert "the first" not in kept.secret_sealed + kept.before_sealed + second

    def sign(key):
        made = subprocess.run(
            ["openssl", "dgst", "-sha256", "-hmac", key],
            input=json.dumps(EVENT).encode(),
            capture_output=True,
            check=True,
        )
        return "-H", f"X-Signature: {made.stdout.decode().split()[-1]}"

    where = f"{address}{intake.id}"
    assert [post(where, *sign(key))[0] for key in ("the first of them", second, "the third")] == [202, 202, 401]


def test_only_from_where_it_may_and_only_so_much(made, address):
    elsewhere, token = made(senders=("192.0.2.0/24", "2001:db8::1"))
    small, other = made(largest=1, senders=("127.0.0.1",))
    bearer = lambda secret: ("-H", f"Authorization: Bearer {secret}")
    assert post(f"{address}{elsewhere.id}", *bearer(token)) == (
        403,
        {"error": "Messages from this address are not taken here.", "reason": "sender"},
    )
    assert post(f"{address}{small.id}", *bearer(other), body=b"x" * 1_001)[0] == 413
    assert post(f"{address}{small.id}", *bearer(other))[0] == 202


@pytest.mark.parametrize(
    ("type", "body"),
    [
        ("application/x-www-form-urlencoded", b"kind=sensor.reading&point=freezer-temp&value=-19.5&unit=%C2%B0C"),
        ("application/xml", "<event><kind>sensor.reading</kind><point>freezer-temp</point><fields><value>-19.5</value><unit>°C</unit></fields></event>".encode()),
        ("text/plain", "kind=sensor.reading\npoint: freezer-temp\nvalue=-19.5\nunit=°C".encode()),
        ("", '{"kind": "sensor.reading", "point": "freezer-temp", "phase": "reading", "fields": {"value": -19.5, "unit": "°C"}}'.encode()),
    ],
)  # fmt: skip
def test_forms_xml_and_lines_are_events_with_numbers(bench, made, address, type, body):
    intake, token = made(proof="address")
    assert post(f"{address}{intake.id}/{token}", body=body, type=type)[0] == 202
    bench.run()
    assert EventRow.objects.get(kind="sensor.reading").fields == {"value": -19.5, "unit": "°C"}


def test_an_address_that_is_only_called_is_a_message(bench, made, address):
    intake, token = made(proof="address")
    assert curl(f"{address}{intake.id}/{token}?kind=input.active&point=leak&phase=begin")[0] == 202
    assert came(bench) == [("input.active", "leak", "begin")]


def test_a_batch_is_as_many_events_and_its_faulty_parts_are_named(bench, made, address):
    intake, token = made()
    batch = [EVENT, {**EVENT, "kind": "door.exploded"}, {**EVENT, "phase": "end"}, {**EVENT, "point": "attic"}]
    assert post(f"{address}{intake.id}", "-H", f"Authorization: Bearer {token}", body=batch)[0] == 202
    assert came(bench) == [("input.active", "leak", "begin"), ("input.active", "leak", "end")]
    (left,) = Unclaimed.objects.all()
    assert left.reason == "part 2: kind: there is no kind 'door.exploded'.; part 4: The site has no point “attic”."
    events = {"specversion": "1.0", "source": "/t", "type": "org.x.input.active", "subject": "leak", "phase": "begin"}
    cloud = [{**events, "id": "1"}, {**events, "id": "2"}]
    status, _ = post(
        f"{address}{intake.id}",
        "-H",
        f"Authorization: Bearer {token}",
        body=cloud,
        type="application/cloudevents-batch+json",
    )
    assert status == 202 and len(came(bench)) == 4


@pytest.mark.parametrize(
    ("body", "type"),
    [
        (b'<!DOCTYPE a [<!ENTITY b "b">]><a>&b;</a>', "application/xml"),
        (b"<a>" * 60 + b"</a>" * 60, "text/xml"),
        (b"<a", "text/xml"),
        (b"[" * 100_000, "application/json"),
        (b"kind=\xff\xfe", "application/x-www-form-urlencoded"),
        (b"kind=%00", "application/x-www-form-urlencoded"),
        (b"&".join(b"a=1" for _ in range(600)), "application/x-www-form-urlencoded"),
        (b"\0\0\0", "text/plain"),
        (b"[]", "application/json"),
    ],
)
def test_what_cannot_be_read_is_kept_with_the_reason(bench, made, address, body, type):
    intake, token = made(proof="address")
    assert post(f"{address}{intake.id}/{token}", body=body, type=type)[0] == 202
    bench.run()
    assert Unclaimed.objects.get().reason and EventRow.objects.filter(kind="input.active").count() == 0


def test_what_is_set_up_is_sensible(as_, made):
    from dromikon.refusals import Refused

    for document in ({"proof": "basic"}, {"secret": "short"}, {"proof": "standard", "secret": "not of the scheme"},
                     {"proof": "standard", "secret": "whsec_!!!"}):  # fmt: skip
        with pytest.raises(Refused):
            made(**document)
    with pytest.raises(ValueError, match="no address or network"):
        IntakeDocument(name="x", senders=("garden",))
    kept, _ = made(proof="basic", user="kiosk", secret="a password")
    changed, shown = save_intake(as_("ines"), kept.id, IntakeDocument(name="Till", proof="basic", user="till"))
    assert (changed.token_digest, shown) == (kept.token_digest, ""), "an empty secret keeps the one there is"
    turned, shown = save_intake(as_("ines"), kept.id, IntakeDocument(name="Till", proof="standard"))
    assert base64.b64decode(shown.removeprefix("whsec_")) and turned.token_digest == "", "another way, another secret"


def test_its_page_and_the_api_say_what_came_and_what_was_refused(client, bench, made, address, as_):
    intake, token = made()
    post(f"{address}{intake.id}", "-H", f"Authorization: Bearer {token}", body={**EVENT, "point": "attic"})
    post(f"{address}{intake.id}")
    assert counts(intake, accepted=1, token=1) is True
    bench.run()
    client.force_login(as_("ines").person)
    page = client.get(f"/s/{GARDENS}/sources/intake/{intake.id}").content.decode()
    assert "another token" in page and "The site has no point “attic”." in page and "openssl" not in page
    assert token not in page
    listed = {i["id"]: i for i in client.get(f"/api/v1/intakes?site={GARDENS}").json()}[intake.id]
    assert (listed["accepted"], listed["refused"]) == (1, {"token": 1})
    assert listed["address"] in page and listed["address"].endswith(f"/in/{intake.id}")
    (message,) = client.get(f"/api/v1/intakes/{intake.id}/messages?site={GARDENS}").json()
    assert message["unclaimed"] and json.loads(message["body"])["point"] == "attic" and not message["waits"]
    assert client.get(f"/api/v1/unclaimed?site={GARDENS}").json()[0]["id"] == message["id"]
    client.force_login(as_("oskar").person)
    (message,) = client.get(f"/api/v1/intakes/{intake.id}/messages?site={GARDENS}").json()
    assert message["body"] is None, "it may hold personal data"


@pytest.mark.timeless
def test_a_flood_at_one_intake_is_turned_away_and_others_keep_their_speed(made, address):
    flooded, token = made(rate=1)
    calm, other = made()
    bearer = lambda secret: ("-H", f"Authorization: Bearer {secret}")
    command = ["curl", "-s", "-w", "\n%{http_code}\n", *bearer(token), "-d", "{}", *[f"{address}{flooded.id}"] * 60]
    said = subprocess.run(command, capture_output=True, text=True, check=True).stdout.split()
    # Ten at once, and then one a second: a busy machine gives it time for a few more.
    assert 10 <= said.count("202") < 40 and said.count("202") + said.count("429") == 60
    assert post(f"{address}{calm.id}", *bearer(other))[0] == 202


def test_flows_recover_with_time():
    now = [0.0]
    flows = Flows(lambda: now[0])
    assert [flows.lets("a", 2) for _ in range(21)].count(True) == 20 and flows.lets("b", 2)
    now[0] = 0.4
    assert not flows.lets("a", 2)
    now[0] = 1.0
    assert [flows.lets("a", 2) for _ in range(3)].count(True) == 2


@pytest.mark.parametrize("mode", ["binary", "structured"])
def test_cloudevents_that_their_own_library_makes_and_the_schemes_library_signs(bench, made, address, mode):
    intake, secret = made(proof="standard")
    attributes = {
        "type": "org.example.input.active",
        "source": "/till/3",
        "subject": "leak",
        "phase": "begin",
        "id": "e-1",
        "specversion": "1.0",
    }
    attributes["time"] = datetime.now(UTC)
    event = CloudEvent(attributes, {"note": "grün"})
    message = to_binary_event(event) if mode == "binary" else to_structured_event(event)
    body, at = bytes(message.body), now_ms()
    heads = {
        **message.headers, "webhook-id": f"msg_{mode}", "webhook-timestamp": str(at // 1000),
        "webhook-signature": Webhook(secret).sign(f"msg_{mode}", to_datetime(at), body.decode()),
    }  # fmt: skip
    words = [word for name, value in heads.items() for word in ("-H", f"{name}: {value}")]
    status, said = curl(*words, "--data-binary", "@-", f"{address}{intake.id}", body=body)
    assert status == 202 and said["accepted"]
    assert came(bench) == [("input.active", "leak", "begin")]
    assert EventRow.objects.get(kind="input.active").fields == {"note": "grün"}
