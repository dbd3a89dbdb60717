"""Readings and what happens by itself, in the engine: converted, thinned, stale, ended; also when it is killed in between."""

import json

import pytest

from dromikon.authoring.services import save, switch
from dromikon.daybook.models import Deadline, EventRow
from dromikon.daybook.readings import pieces
from dromikon.engine.engine import Engine
from dromikon.intake import inbox
from dromikon.setup import changes
from dromikon.setup.registry import SORTS
from dromikon.sources.models import Point, Unclaimed
from tests.conftest import GARDENS

pytestmark = pytest.mark.django_db


@pytest.fixture
def sensor(bench):
    """`sensor(**how)`: the orchid house's temperature is kept so."""

    def set(**how):
        Point.objects.filter(pk="orchid-temp").update(**how)
        bench.engine.load()

    return set


@pytest.fixture
def reads(bench):
    """`reads(21.5, unit="°C", after=10)`: a reading comes, so many seconds after the one before."""
    at = [bench.engine.clock()]
    bench.engine.clock = lambda: at[0]

    def put(
        value=None,
        unit="°C",
        after=10.0,
        kind="sensor.reading",
        point="orchid-temp",
        phase="reading",
        source="garden-gateway",
    ):
        at[0] += round(after * 1000)
        if value is not None:
            said = {"kind": kind, "point": point, "phase": phase, "fields": {"value": value, "unit": unit}}
            body = json.dumps(said).encode()
            bench.put(inbox.Message(at[0], "http", source, '{"content_type": "application/json"}', body))
        bench.run()

    return put


def told(kind="sensor.reading", point="orchid-temp"):
    return [(e.fields.get("value"), e.phase) for e in EventRow.objects.filter(kind=kind, point=point).order_by("seq")]


def test_a_reading_is_told_in_the_unit_of_its_point_and_one_that_cannot_be_is_unclaimed(sensor, reads):
    sensor(unit="°C")
    reads(77, "°F")
    reads(290, "K")
    reads(5, "m/s")
    assert [value for value, _ in told()] == [25, 16.85]
    assert EventRow.objects.filter(point="orchid-temp").last().fields["unit"] == "°C"
    assert "m/s cannot be told in °C" in Unclaimed.objects.get().reason


def test_what_a_camera_measures_is_told_in_the_unit_of_its_point_as_well(sensor, bench):
    Point.objects.filter(pk="boiler-flue").update(unit="°F")
    bench.engine.load()
    heat = (
        '<wsnt:NotificationMessage xmlns:wsnt="http://docs.oasis-open.org/wsn/b-2" xmlns:tt="http://www.onvif.org/ver10/schema" '
        'xmlns:tns1="http://www.onvif.org/ver10/topics"><wsnt:Topic>tns1:VideoAnalytics/Radiometry/BoxTemperatureReading</wsnt:Topic>'
        '<wsnt:Message><tt:Message UtcTime="2026-11-26T12:00:00Z"><tt:Source>'
        '<tt:SimpleItem Name="VideoSourceConfigurationToken" Value="vsc0"/></tt:Source><tt:Data><tt:SimpleItem Name="ItemID" '
        'Value="Boiler flue"/><tt:SimpleItem Name="MaxTemperature" Value="373.15"/>'
        '<tt:SimpleItem Name="MinTemperature" Value="323.15"/></tt:Data></tt:Message></wsnt:Message>'
        "</wsnt:NotificationMessage>"
    )
    bench.put(inbox.Message(bench.engine.clock(), "onvif", "cam-flue", "{}", heat.encode()))
    bench.run()
    event = EventRow.objects.get(point="boiler-flue")
    assert (event.fields["value"], event.fields["lowest"], event.fields["unit"]) == (212, 122, "°F")


def test_what_tells_nothing_new_is_no_event_also_after_a_restart(sensor, reads, bench):
    sensor(deadband=0.5, at_least_every=60)
    for value in (20, 20.2, 20.4, 20.6, 20.5):
        reads(value)
    assert [value for value, _ in told()] == [20, 20.6]
    bench.engine.load()
    reads(20.7)
    assert len(told()) == 2
    reads(20.7, after=60)
    assert [value for value, _ in told()] == [20, 20.6, 20.7]


def test_a_sensor_that_tells_nothing_any_more_is_stale_until_it_does(sensor, reads, bench):
    sensor(stale_after=120, deadband=5)
    reads(20)
    reads(20.1, after=100)
    reads(after=100)
    assert told("sensor.stale") == []
    reads(after=30)
    begun = EventRow.objects.get(kind="sensor.stale")
    assert begun.phase == "begin" and Deadline.objects.count() == 0
    reads(20.2)
    assert [phase for _, phase in told("sensor.stale")] == ["begin", "end"]
    assert Deadline.objects.get().due == bench.engine.clock() + 120_000, "and it is waited for again"


def test_a_sensor_that_is_no_longer_watched_is_stale_no_more(sensor, reads, bench):
    sensor(stale_after=60)
    reads(20)
    reads(after=70)
    assert [phase for _, phase in told("sensor.stale")] == ["begin"]
    sensor(stale_after=0)
    reads(20.1)
    assert [phase for _, phase in told("sensor.stale")] == ["begin", "end"]
    sensor(stale_after=60)
    reads(20.2)
    sensor(stale_after=0)
    reads(after=70)
    assert len(told("sensor.stale")) == 2 and not Deadline.objects.exists()


TRAP = {
    "name": "A trap without a clear", "intake": {"id": "kiosk"}, "kind": "input.active", "phase": "begin", "point": {"id": "leak"},
    "when": [{"path": "$.trap", "how": "there"}], "ends_itself": True,
}  # fmt: skip


@pytest.fixture
def trap(bench, as_):
    """`trap(ends_after)`: the kiosk sends what begins and ends by itself."""

    def set(ends_after, **more):
        changes.save(SORTS["decoders"], as_("ines"), None, {**TRAP, "ends_after": ends_after, **more})
        bench.run()

    return set


def come(bench, content=None):
    bench.put(
        inbox.Message(
            bench.engine.clock(),
            "http",
            "kiosk",
            '{"content_type": "application/json"}',
            json.dumps(content or {"trap": 1}).encode(),
        )
    )
    bench.run()


def test_what_nobody_clears_ends_by_itself_at_once_or_later_and_later_when_it_comes_again(bench, trap, reads):
    trap(0)
    come(bench)
    assert [phase for _, phase in told("input.active", "leak")] == ["begin", "end"]


def test_each_time_that_it_comes_it_ends_later_and_outlives_a_restart(bench, trap, reads):
    trap(60)
    come(bench)
    reads(after=40)
    come(bench)
    reads(after=40)
    assert [phase for _, phase in told("input.active", "leak")] == ["begin", "begin"]
    clock, bench.engine = bench.engine.clock, Engine(bench.engine.clock)
    bench.engine.clock = clock
    bench.engine.load()
    reads(after=21)
    ended = EventRow.objects.filter(kind="input.active", point="leak").last()
    assert ended.phase == "end" and ended.at == ended.occurred_at and not Deadline.objects.exists()


def test_what_is_cleared_before_does_not_end_twice(bench, trap, reads):
    trap(60, phase_path="$.state", begins=["set"], ends=["clear"])
    come(bench, {"trap": 1, "state": "set"})
    come(bench, {"trap": 1, "state": "clear"})
    reads(after=100)
    assert [phase for _, phase in told("input.active", "leak")] == ["begin", "end"] and not Deadline.objects.exists()


def test_a_point_that_was_taken_away_meanwhile_tells_nothing(bench, trap, reads, as_):
    trap(60)
    come(bench)
    Point.objects.filter(pk="leak").update(retired_at=1)
    bench.engine.directory = bench.engine.directory.read()
    reads(after=100)
    assert [phase for _, phase in told("input.active", "leak")] == ["begin"] and not Deadline.objects.exists()


@pytest.mark.parametrize(
    "document", [{**TRAP, "kind": "button.pressed", "phase": "pulse", "point": {"id": "gate-help"}}]
)
def test_only_what_begins_can_end_by_itself(as_, client, document):
    client.force_login(as_("ines").person)
    answer = client.post(f"/api/v1/setup/decoders?site={GARDENS}", {"document": document}, "application/json")
    assert answer.status_code == 422 and "does not begin and end" in answer.content.decode()


# -- shown -----------------------------------------------------------------------------------------------------------------


@pytest.fixture
def read_a_day(bench, as_):
    """A day of readings with a peak, and a live rule with a limit."""
    now = bench.engine.clock()
    for i in range(48):
        at = now - (48 - i) * 1_800_000
        fields = {"value": 20 + (8 if i == 30 else i % 3), "unit": "°C"}
        EventRow.objects.create(
            seq=50_000 + i, site=GARDENS, kind="sensor.reading", point="orchid-temp", phase="reading", at=at, occurred_at=at, received_at=at,
            fields=fields,
        )  # fmt: skip
    level = {"cause": "level", "way": "up", "value": 26.5, "where": {"points": [{"id": "orchid-temp"}]}}
    document = {"name": "Too warm for orchids", "cause": level, "response": [{"do": "line", "text": "Warm."}]}
    switch(as_("ines"), save(as_("ines"), document), True)


def test_a_chart_shows_what_was_read_with_the_limits_of_its_rules(read_a_day, client, as_):
    client.force_login(as_("ines").person)
    page = client.get(f"/s/{GARDENS}/sources/readings/orchid-temp").content.decode()
    assert 'class="mean"' in page and "Too warm for orchids" in page and page.count('class="limit"') == 2
    assert "<strong>28 °C</strong>" in page and "<strong>20 °C</strong>" in page
    assert "No live rule" not in page
    empty = client.get(f"/s/{GARDENS}/sources/readings/wind?over=week").content.decode()
    assert "Nothing was read in this time." in empty
    assert client.get(f"/s/{GARDENS}/sources/readings/gate").status_code == 404
    assert 'class="spark"' in client.get(f"/s/{GARDENS}/sources").content.decode()


def test_pieces_tell_the_least_and_the_most_of_what_they_hold(read_a_day, bench):
    now = bench.engine.clock()
    found = pieces(GARDENS, ["orchid-temp", "wind"], now - 86_400_000, now, 4)
    assert list(found) == ["orchid-temp"] and len(found["orchid-temp"]) <= 5
    assert max(p.high for p in found["orchid-temp"]) == 28 and all(
        p.low <= p.mean <= p.high for p in found["orchid-temp"]
    )
    assert pieces(GARDENS, [], 0, 1, 4) == {} and pieces("nowhere", ["orchid-temp"], 0, now, 4) == {}
