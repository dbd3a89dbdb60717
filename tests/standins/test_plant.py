"""The garden's other systems: the same day every time, and nothing before its cause."""

import asyncio
from datetime import date

import pytest
from starlette.applications import Starlette
from starlette.responses import Response
from starlette.routing import Route

from dromikon.core.instants import parse
from dromikon.core.lists.plates import Codes
from dromikon.core.lists.similarity import Templates
from dromikon.standins import gateway
from dromikon.standins.faces.model import template_of
from dromikon.standins.place import Place
from dromikon.standins.world.plant import signals
from dromikon.standins.world.plant.signals import Provoked, Signal
from dromikon.standins.world.plant.vault import EXCLUDED, STAFF
from dromikon.standins.world.plant.wicket import DELIVERY_PLATES, STAFF_PLATES
from dromikon.standins.world.world import World

NOON = parse("2026-11-25T12:00:00Z")
HOUR = 3_600_000


def told(name, start=NOON, hours=1):
    """What comes only because something was provoked at noon."""
    own = {(s.at, s.kind, s.point, s.phase) for s in signals(54, (), start, start + hours * HOUR)}
    provoked = signals(54, (Provoked(name, NOON),), start, start + hours * HOUR)
    return [s for s in provoked if (s.at, s.kind, s.point, s.phase) not in own]


def test_a_stretch_is_a_part_of_the_whole_and_the_same_every_time():
    whole = signals(54, (), NOON - 30 * HOUR, NOON)
    assert whole == signals(54, (), NOON - 30 * HOUR, NOON)
    halves = signals(54, (), NOON - 30 * HOUR, NOON - 11 * HOUR) + signals(54, (), NOON - 11 * HOUR, NOON)
    assert halves == whole != signals(55, (), NOON - 30 * HOUR, NOON)


@pytest.mark.parametrize(
    ("name", "kind", "after"),
    [
        ("ring", "call.rung", 8), ("unknown-plate", "plate.read", 9), ("force-vault", "door.forced", 16),
        ("excluded-person", "face.seen", 9), ("spill", "input.active", 8), ("cut-mains", "power.on_battery", 2),
        ("smoke", "input.active", 12),
    ],
)  # fmt: skip
def test_what_is_provoked_takes_its_time(name, kind, after):
    first = next(s for s in told(name) if s.kind == kind)
    assert first.at == NOON + after * 1000


def test_every_state_that_begins_ends():
    open_ = {}
    for s in signals(54, (), NOON - 72 * HOUR, NOON + 72 * HOUR):
        if s.phase in ("begin", "end"):
            open_[s.kind, s.point] = open_.get((s.kind, s.point), 0) + (1 if s.phase == "begin" else -1)
    assert all(-1 <= count <= 1 for count in open_.values())


def test_a_freezer_left_ajar_warms_as_physics_has_it_and_cools_again():
    values = [(s.at, s.fields["value"]) for s in told("warm-freezer") if s.point == "freezer-temp"]
    rising = [v for at, v in values if at <= NOON + 14 * 60_000]
    assert rising == sorted(rising) and abs(rising[-1] - (-21 + 48 * 14 / 60)) < 1
    assert values[-1][1] < rising[-1] - 8


def test_readers_misread_but_lists_know_them():
    known = Codes.of([*STAFF_PLATES, *DELIVERY_PLATES])
    reads = [s.fields["plate"] for s in signals(54, (), NOON - 240 * HOUR, NOON) if s.kind == "plate.read"]
    exact, tolerant = (
        sum(test(p) is not None for p in reads) for test in (known.exact, lambda p: known.tolerant(p, 1))
    )
    assert exact < tolerant < len(reads), "some are misread, and some are strangers"


def test_faces_are_like_their_own_and_unlike_each_other():
    people = [*STAFF, *EXCLUDED]
    templates = Templates.of([template_of(p) for p in people])
    for i, person in enumerate(people):
        place, percent = templates.nearest(template_of(person, 0.42, "a look"))
        assert place == i and percent > 85
    assert templates.nearest(template_of("a stranger", 0.42))[1] < 60


def test_the_palm_house_is_wedged_open_on_tuesdays_only():
    days = {
        date.fromtimestamp(s.at / 1000).weekday()
        for s in signals(54, (), NOON - 336 * HOUR, NOON)
        if s.kind == "door.held_open"
    }
    assert days == {1}


async def test_the_gateway_sends_in_order_and_again_what_was_not_accepted(serve, tmp_path, monkeypatch):
    got, answers = [], [503, 503, 202, 422, 202]

    async def receive(request):
        got.append((await request.json(), request.headers["authorization"]))
        return Response(status_code=answers[len(got) - 1])

    address = serve(Starlette(routes=[Route("/in/x", receive, methods=["POST"])]))
    sent = [Signal(NOON + i, "call.rung", f"p{i}", "pulse") for i in range(3)]
    world = World()
    monkeypatch.setattr(world, "signals", lambda start, end: sent[: len(sent)] if not got else [])
    task = asyncio.create_task(
        gateway.StandInGateway(world, f"{address}/in/x", "secret", Place(tmp_path / "place.json")).run()
    )
    while len(got) < 5:
        await asyncio.sleep(0.02)
    task.cancel()
    assert [content["point"] for content, _ in got] == ["p0", "p0", "p0", "p1", "p2"]
    assert got[0][1] == "Bearer secret" and got[0][0]["occurred_at"] == "2026-11-25T12:00:00.000+00:00"


def test_somebody_who_climbs_over_the_turnstile_has_no_ticket_and_is_counted_all_the_same():
    came = told("climb-turnstile", NOON, 1)
    (forced,) = [s for s in came if s.kind == "door.forced"]
    assert forced.point == "turnstile" and 10_000 < forced.at - NOON < 30_000
    assert not [s for s in came if s.kind.startswith("access") and abs(s.at - forced.at) < 3_000]
    world = World()
    world.provoke("climb-turnstile", NOON)
    reports = [r for r in world.door_reports(NOON, NOON + HOUR) if ("DoorToken", "turnstile") in r.source]
    assert [r.data[0][1] for r in reports] == ["DoorForcedOpen", "Normal"], "it has no contact and no bolt"
