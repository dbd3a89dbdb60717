"""Sessions with devices that differ from the standard: they go on, or say clearly why not, and others are untouched."""

import asyncio

import pytest
from starlette.applications import Starlette
from starlette.routing import Route

from dromikon.intake.pushed import PLACE, Pushed
from dromikon.standins.onvif.quirks import QUIRKS
from dromikon.wire.onvif import session
from dromikon.wire.onvif.notification import parse_notification
from dromikon.wire.onvif.session import DeviceSession
from dromikon.wire.onvif.soap import DeviceError, moved_to
from tests.wire.test_onvif_session import Notes, device, odd, until
from tools.ports import free_port

#: What a session says first of a device with a quirk, and what it still learns of it.
SOUND = (
    "few answers", "old", "other prefixes", "local time", "local stamps", "moved", "an hour off", "says it twice",
    "somebody else", "no XML", "short subscriptions", "one subscription",
)  # fmt: skip
TROUBLE = {
    "cut short": "malformed",
    "huge": "oversized",
    "entity bomb": "malformed",
    "wrong namespace": "malformed",
}


async def lived(serve, tmp_path, name, condition, consumer=None):
    """A session with a stand-in of that quirk until a condition on its notes holds."""
    notes = Notes()
    found = device(odd(serve, tmp_path, QUIRKS[name]))
    task = asyncio.create_task(DeviceSession(found, notes, consumer=consumer).run())
    try:
        await until(lambda: condition(notes))
    finally:
        task.cancel()
        await asyncio.gather(task, return_exceptions=True)
    return notes


@pytest.mark.parametrize("name", SOUND)
async def test_a_device_that_differs_is_online_and_tells_its_states(serve, tmp_path, name):
    notes = await lived(serve, tmp_path, name, lambda n: n.healths and n.catalogues and len(n.messages) >= 2)
    assert notes.healths[0][0] == "online"
    topics = {parse_notification(m).topic for m in notes.messages}
    assert topics == {"tns1:RuleEngine/LoiteringDetector/ObjectIsLoitering", "tns1:Device/Trigger/DigitalInput"}
    assert {d["name"] for d in notes.catalogues[0]["detectors"]} == {"Yard gate line", "Loading bay"}


async def test_an_hour_off_is_measured_and_two_hours_east_is_not(serve, tmp_path):
    wrong = await lived(serve, tmp_path, "an hour off", lambda n: n.healths)
    assert abs(wrong.healths[0][2] - 3_600_000) < 1_000
    local = await lived(serve, tmp_path, "local time", lambda n: n.healths)
    assert local.healths[0][2] == 0


async def test_what_is_sent_twice_is_taken_once(serve, tmp_path):
    notes = await lived(serve, tmp_path, "says it twice", lambda n: n.healths and len(n.messages) >= 2)
    assert len(notes.messages) == len(set(notes.messages))


async def test_local_stamps_are_the_same_moment(serve, tmp_path):
    east = await lived(serve, tmp_path, "local stamps", lambda n: len(n.messages) >= 2)
    note = parse_notification(east.messages[0])
    assert b"+02:00" in east.messages[0] and note.device_at is not None


@pytest.mark.parametrize(("name", "reason"), TROUBLE.items())
async def test_an_answer_that_cannot_be_read_is_a_state_of_the_device(serve, tmp_path, name, reason):
    notes = await lived(serve, tmp_path, name, lambda n: any(h[0] == "lost" for h in n.healths))
    assert [h[:2] for h in notes.healths[:2]] == [("online", ""), ("lost", reason)]


async def test_one_that_forgets_the_password_is_refused_from_then_on(serve, tmp_path, monkeypatch):
    monkeypatch.setattr(session, "WAIT", session.timedelta(seconds=1))
    notes = await lived(serve, tmp_path, "forgets", lambda n: any(h[1] == "refused" for h in n.healths))
    assert [h[:2] for h in notes.healths] == [("online", ""), ("lost", "refused")]


async def test_without_a_subscription_to_spare_it_says_so(serve, tmp_path):
    address, notes = odd(serve, tmp_path, QUIRKS["one subscription"]), Notes()
    first = asyncio.create_task(DeviceSession(device(address), Notes()).run())
    await asyncio.sleep(2.5)
    second = asyncio.create_task(DeviceSession(device(address), notes).run())
    await until(lambda: notes.healths)
    first.cancel()
    second.cancel()
    assert notes.healths[0][:2] == ("lost", "fault")


@pytest.fixture
def pushed(serve):
    """Where devices push to, as the intake has it."""
    port = free_port()
    found = Pushed(lambda: port)
    serve(Starlette(routes=[Route(f"{PLACE}{{key}}", found.receive, methods=["POST"])]), port)
    return found


async def test_a_device_that_only_pushes_is_heard(serve, tmp_path, pushed):
    notes = await lived(serve, tmp_path, "push only", lambda n: n.healths and len(n.messages) >= 2, pushed)
    assert notes.healths[0][:2] == ("online", "")
    assert pushed._takers == {}, "its address ends with its session"


async def test_a_device_that_only_pushes_is_lost_where_nobody_can_be_pushed_to(serve, tmp_path):
    notes = await lived(serve, tmp_path, "push only", lambda n: n.healths)
    assert notes.healths[0][:2] == ("lost", "fault")


@pytest.mark.parametrize(
    ("location", "there"),
    [
        ("/other", "http://192.0.2.9/other"),
        ("https://192.0.2.9/x", "https://192.0.2.9/x"),
        ("http://192.0.2.10/x", None),
        ("http://192.0.2.9:81/x", None),
        ("", None),
    ],
)
def test_a_device_sends_us_on_only_to_itself(location, there):
    if there is None:
        with pytest.raises(DeviceError, match="another host"):
            moved_to("http://192.0.2.9/onvif/device_service", location)
    else:
        assert moved_to("http://192.0.2.9/onvif/device_service", location) == there
