"""What is fetched: from a broker with mosquitto's own client as the sender, and from a Modbus server of a library; both go away and
come back."""

import asyncio
import contextlib
import json
import shutil
import socket
import subprocess
import threading
import time
from contextlib import closing

import pytest
from amqtt.broker import Broker
from pymodbus.server import ModbusTcpServer
from pymodbus.simulator import DataType, SimData, SimDevice
from transitions import MachineError

from dromikon.core.proofs import FETCHED
from dromikon.daybook.models import EventRow
from dromikon.intake import polling
from dromikon.intake.counting import Counts
from dromikon.intake.fetched import FETCHERS, Fetching
from dromikon.intake.inbox import InboxWriter, after, connect
from dromikon.refusals import Refused
from dromikon.setup import changes
from dromikon.setup.intakes import IntakeDocument, save_intake
from dromikon.setup.registry import SORTS
from dromikon.sources.models import Intake, IntakeCount, Unclaimed
from tests.conftest import GARDENS
from tools.ports import free_port

pytestmark = [
    pytest.mark.timeless,
    pytest.mark.django_db(transaction=True),
    pytest.mark.skipif(shutil.which("mosquitto_pub") is None, reason="mosquitto's client sends"),
]


class Beside:
    """An event loop in a thread of its own, with tasks that can be ended."""

    def __init__(self):
        self.loop = asyncio.new_event_loop()
        self.thread = threading.Thread(target=self.loop.run_forever, daemon=True)
        self.thread.start()

    def start(self, work):
        return asyncio.run_coroutine_threadsafe(work, self.loop)

    def do(self, work):
        return self.start(work).result(20)

    def close(self):
        async def rest():
            others = [t for t in asyncio.all_tasks() if t is not asyncio.current_task()]
            for task in others:
                task.cancel()
            await asyncio.gather(*others, return_exceptions=True)
            await asyncio.get_running_loop().shutdown_default_executor()

        self.do(rest())
        self.loop.call_soon_threadsafe(self.loop.stop)
        self.thread.join(5)


@pytest.fixture
def beside():
    found = Beside()
    yield found
    found.close()


@pytest.fixture
def fetching(bench, beside, monkeypatch):
    """What fetches for all intakes that are set up so, into the bench's inbox."""
    monkeypatch.setenv("DROMIKON_OUTGOING", "localhost")
    Intake.objects.filter(proof__in=("mqtt", "modbus")).update(enabled=False)
    writer = InboxWriter(bench.path)

    async def begin():
        return asyncio.get_running_loop().create_task(Fetching(writer, Counts()).run())

    task = beside.do(begin())
    yield writer
    beside.loop.call_soon_threadsafe(task.cancel)
    time.sleep(0.3)
    writer.close()


async def broker_at(port):
    config = {
        "listeners": {"default": {"type": "tcp", "bind": f"127.0.0.1:{port}"}},
        "plugins": {"amqtt.plugins.authentication.AnonymousAuthPlugin": {"allow_anonymous": True}},
    }
    broker = Broker(config)
    await broker.start()
    return broker


async def gone(broker):
    """It goes away. Nobody is let in any more before it ends, since it would wait for whoever comes back meanwhile."""
    for server in broker._servers.values():
        server.instance.close()
    with contextlib.suppress(TimeoutError):
        await asyncio.wait_for(broker.shutdown(), 10)


def until(wanted, seconds=25):
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        if found := wanted():
            return found
        time.sleep(0.05)
    return wanted()


def kept(bench, count):
    def look():
        with closing(connect(bench.path)) as connection:
            found = after(connection, 0, 5_000)
        return found if len(found) >= count else None

    return until(look)


def state(intake):
    return Intake.objects.get(pk=intake.id).state


def publish(port, topic, message, *more):
    words = ["mosquitto_pub", "-h", "127.0.0.1", "-p", str(port), "-q", "1", "-t", topic, "-m", message, *more]
    assert subprocess.run(words, capture_output=True, timeout=20).returncode == 0


@pytest.fixture
def subscribed(as_, beside, fetching):
    """An intake at a broker that runs: the intake, the broker, and its port."""
    port = free_port()
    broker = beside.do(broker_at(port))
    document = IntakeDocument(name="Sensors", proof="mqtt", address=f"mqtt://127.0.0.1:{port}", topics=("garden/#",))
    intake, _ = save_intake(as_("ines"), None, document)
    assert until(lambda: state(intake) == "online")
    yield intake, broker, port
    with contextlib.suppress(MachineError):
        # It may have gone away already.
        beside.do(gone(broker))


DECODER = {
    "name": "Warmth", "kind": "sensor.reading", "phase": "reading", "when": [{"path": "$.topic", "how": "begins", "value": "garden/warmth/"}],
    "point_path": "$.levels[2]", "fields": [{"name": "value", "path": "$.payload"}],
}  # fmt: skip


def test_what_is_published_is_kept_and_read_at_its_point(subscribed, bench, as_):
    intake, _, port = subscribed
    publish(port, "garden/warmth/orchid-temp", "21.5")
    publish(port, "elsewhere/warmth", "3")
    (stored,) = kept(bench, 1)
    assert (stored.message.adapter, stored.message.body) == ("mqtt", b"21.5")
    bench.run()
    assert "No decoder knows the topic garden/warmth/orchid-temp" in Unclaimed.objects.get().reason
    changes.save(SORTS["decoders"], as_("ines"), None, {**DECODER, "intake": {"id": intake.id}})
    bench.run()
    publish(port, "garden/warmth/orchid-temp", "22.5")
    publish(port, "garden/plain", json.dumps({"kind": "button.pressed", "point": "gate-help", "phase": "pulse"}))
    kept(bench, 3)
    bench.run()
    assert EventRow.objects.get(kind="sensor.reading").fields["value"] == 22.5
    assert EventRow.objects.get(kind="button.pressed").point == "gate-help", "plain events need no decoder"
    assert until(lambda: IntakeCount.objects.filter(intake=intake, outcome="accepted", count=3).exists())


def test_what_the_broker_had_kept_is_told_on_request_and_starts_nothing(bench, as_, beside, fetching):
    port = free_port()
    broker = beside.do(broker_at(port))
    wet = json.dumps({"kind": "input.active", "point": "leak", "phase": "begin"})
    publish(port, "garden/leak", wet, "-r")
    save_intake(
        as_("ines"),
        None,
        IntakeDocument(name="S", proof="mqtt", address=f"mqtt://127.0.0.1:{port}", topics=("garden/+",)),
    )
    assert kept(bench, 1)
    bench.run()
    assert EventRow.objects.get(kind="input.active").initial
    beside.do(gone(broker))


def test_a_broker_that_goes_away_and_comes_back_loses_nothing(subscribed, bench, beside):
    intake, broker, port = subscribed
    publish(port, "garden/a", "1")
    kept(bench, 1)
    beside.do(gone(broker))
    assert until(lambda: state(intake) == "lost")
    again = beside.do(broker_at(port))
    assert until(lambda: state(intake) == "online", 20)
    publish(port, "garden/a", "2")
    assert [m.message.body for m in kept(bench, 2)] == [b"1", b"2"]
    beside.do(gone(again))


def test_what_could_not_be_kept_is_tried_again_until_it_is(subscribed, bench):
    _, _, port = subscribed
    holder = connect(bench.path)
    holder.execute("BEGIN EXCLUSIVE")
    publish(port, "garden/a", "held up")
    time.sleep(3)
    holder.execute("ROLLBACK")
    holder.close()
    assert kept(bench, 1)[0].message.body == b"held up"


def test_a_topic_that_is_given_up_is_sent_no_more(subscribed, bench, as_):
    intake, _, port = subscribed
    document = IntakeDocument(name="Sensors", proof="mqtt", address=f"mqtt://127.0.0.1:{port}", topics=("orchard/#",))
    save_intake(as_("ines"), intake.id, document)
    time.sleep(2.5)
    assert until(lambda: state(intake) == "online")
    publish(port, "garden/a", "given up")
    publish(port, "orchard/b", "wanted")
    assert [m.message.body for m in kept(bench, 1)] == [b"wanted"]


def test_what_is_too_large_is_counted_and_does_not_come_again(subscribed, bench):
    intake, _, port = subscribed
    Intake.objects.filter(pk=intake.id).update(largest=1_000)
    assert until(lambda: state(intake) == "online")
    too_large = lambda: IntakeCount.objects.filter(intake=intake, outcome="size").exists()

    def counted():
        # Until the new limit is known there, what is larger is still kept.
        publish(port, "garden/a", "x" * 2_000)
        return until(too_large, 2)

    assert until(counted)
    publish(port, "garden/a", "small")
    bodies = lambda: [m.message.body for m in kept(bench, 1)]
    assert until(lambda: bodies()[-1] == b"small"), "what was too large does not come again"


@pytest.mark.parametrize(
    ("change", "place"),
    [({"address": "http://a"}, "address"), ({"address": ""}, "address"), ({"address": "mqtt://192.0.2.7"}, "address"), ({"topics": ()}, "topics"),
     ({"topics": ("a/#/b",)}, "topics"), ({"topics": ("a+/b",)}, "topics"), ({"proof": "modbus", "address": "modbus://localhost"}, "registers"),
     ({"proof": "modbus", "address": "modbus://localhost", "registers": ({"point": {"id": "nowhere"}},)}, "registers")],
)  # fmt: skip
def test_what_cannot_be_fetched_is_said_at_its_place(as_, monkeypatch, change, place):
    monkeypatch.setenv("DROMIKON_OUTGOING", "localhost")
    document = {"name": "S", "proof": "mqtt", "address": "mqtt://localhost", "topics": ("a/#",), **change}
    with pytest.raises(Refused) as refused:
        save_intake(as_("ines"), None, IntakeDocument.model_validate(document))
    assert [p.path for p in refused.value.problems] == [place]


# -- Modbus ----------------------------------------------------------------------------------------------------------------

REGISTERS = (
    {"point": {"id": "freezer-temp"}, "number": 10, "scale": 0.1, "unit": "°C"},
    {"point": {"id": "leak"}, "table": "discrete", "number": 3},
)  # fmt: skip


class Field:
    """A Modbus server of a library, whose values are set by the test."""

    def __init__(self, beside, port):
        self.beside, self.port = beside, port
        self.server = None

    async def _start(self):
        bits = [[SimData(0, values=[False] * 20, datatype=DataType.BITS)] for _ in range(2)]
        words = [[SimData(0, values=[0] * 20, datatype=DataType.REGISTERS)] for _ in range(2)]
        self.server = ModbusTcpServer(SimDevice(1, simdata=(*bits, *words)), address=("127.0.0.1", self.port))
        await self.server.serve_forever(background=True)

    def start(self, freezer, leak=False):
        self.beside.do(self._start())
        self.set(freezer, leak)

    def set(self, freezer, leak=False):
        self.beside.do(self.server.async_setValues(1, 16, 10, [freezer & 0xFFFF]))
        self.beside.do(self.server.async_setValues(1, 2, 3, [leak]))

    def stop(self):
        self.beside.do(self.server.shutdown())


def asked(as_, port, **more):
    how = {
        "name": "Cabinet",
        "proof": "modbus",
        "address": f"modbus://127.0.0.1:{port}",
        "every": 0.1,
        "registers": REGISTERS,
        **more,
    }
    return save_intake(as_("ines"), None, IntakeDocument.model_validate(how))[0]


def told(kind):
    return [(e.point, e.phase, e.fields.get("value")) for e in EventRow.objects.filter(kind=kind).order_by("seq")]


def test_a_device_is_asked_and_what_changes_is_an_event(bench, as_, beside, fetching):
    field = Field(beside, free_port())
    field.start(-205)
    intake = asked(as_, field.port)
    kept(bench, 1)
    field.set(-190, leak=True)
    kept(bench, 2)
    time.sleep(0.5)
    with closing(connect(bench.path)) as connection:
        assert len(after(connection, 0, 100)) in (2, 3), "what stays the same is kept once"
    bench.run()
    assert told("sensor.reading") == [("freezer-temp", "reading", -20.5), ("freezer-temp", "reading", -19.0)]
    assert [(p, phase) for p, phase, _ in told("input.active")] == [("leak", "end"), ("leak", "begin")]
    assert EventRow.objects.filter(kind="input.active").first().initial, "what is found so starts nothing"
    field.stop()
    assert until(lambda: state(intake) == "lost", 15)
    field.start(-180, leak=True)
    assert until(lambda: state(intake) == "online", 20)
    assert until(lambda: _reads(bench, -18.0)), "it is told anew"
    field.stop()


def test_a_state_that_holds_begins_once_however_often_everything_is_told(bench, as_, beside, fetching, monkeypatch):
    monkeypatch.setattr(polling, "WHOLE_EVERY", 0.2)
    field = Field(beside, free_port())
    field.start(-205)
    asked(as_, field.port)
    kept(bench, 1)
    field.set(-205, leak=True)
    assert len(kept(bench, 9)) >= 9, "it is told again and again, so that it is known to be well"
    bench.run()
    assert [(p, phase) for p, phase, _ in told("input.active")] == [("leak", "end"), ("leak", "begin")]
    field.stop()


def _reads(bench, value):
    bench.run()
    return any(v == value for _, _, v in told("sensor.reading"))


@pytest.mark.parametrize(
    ("answer", "said"),
    [(b"", "answer"), (b"HTTP/1.1 400 Bad Request\r\n\r\n", "answer"), (b"\x00\x01\x00\x00\x00\x03\x01\x83\x02", "refuses"), (b"\xff" * 300, "answer")],
)  # fmt: skip
def test_a_device_that_answers_nonsense_is_lost_and_the_others_go_on(bench, as_, beside, fetching, answer, said):
    field = Field(beside, free_port())
    field.start(-205)
    with socket.create_server(("127.0.0.1", 0)) as nonsense:

        def work():
            while True:
                try:
                    caller, _ = nonsense.accept()
                except OSError:
                    return
                with caller:
                    caller.recv(100)
                    caller.sendall(answer)

        threading.Thread(target=work, daemon=True).start()
        bad = asked(as_, nonsense.getsockname()[1], name="Nonsense")
        good = asked(as_, field.port)
        assert until(lambda: state(bad) == "lost", 20) and said in Intake.objects.get(pk=bad.id).state_message
        assert until(lambda: state(good) == "online") and kept(bench, 1)
    field.stop()


def test_a_register_that_is_not_there_is_named(bench, as_, beside, fetching):
    field = Field(beside, free_port())
    field.start(0)
    intake = asked(as_, field.port, registers=({"point": {"id": "wind"}, "number": 900},))
    assert (
        until(lambda: state(intake) == "lost")
        and "refuses holding 900" in Intake.objects.get(pk=intake.id).state_message
    )
    field.stop()


def test_what_may_not_be_called_is_not(bench, as_, beside, fetching, monkeypatch):
    intake = asked(as_, 9)
    monkeypatch.setenv("DROMIKON_OUTGOING", "")
    assert until(lambda: "not allowed" in Intake.objects.get(pk=intake.id).state_message, 15)


def test_its_page_says_how_it_stands(client, as_, monkeypatch):
    monkeypatch.setenv("DROMIKON_OUTGOING", "localhost")
    intake = asked(as_, 9)
    Intake.objects.filter(pk=intake.id).update(state="lost", state_message="The device does not answer.", state_since=1)
    client.force_login(as_("ines").person)
    page = client.get(f"/s/{GARDENS}/sources/intake/{intake.id}").content.decode()
    assert "The device does not answer." in page and "modbus://127.0.0.1:9" in page


def test_everything_that_is_fetched_has_somebody_who_fetches():
    assert set(FETCHERS) == set(FETCHED)


def test_what_a_device_s_registers_mean_is_no_matter_of_decoders(as_, client, monkeypatch):
    monkeypatch.setenv("DROMIKON_OUTGOING", "localhost")
    intake = asked(as_, 9)
    with pytest.raises(Refused, match="nothing to decode"):
        changes.save(SORTS["decoders"], as_("ines"), None, {**DECODER, "intake": {"id": intake.id}})
    client.force_login(as_("ines").person)
    assert "Teach a decoder" not in client.get(f"/s/{GARDENS}/sources/intake/{intake.id}").content.decode()
