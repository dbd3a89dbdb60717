"""Points that have fallen silent: found by the keeper, told by the engine as events."""

import pytest

from dromikon.authoring.services import save, switch
from dromikon.clock import now_ms
from dromikon.daybook.models import ActRow, EventRow, RunRow, TallyRow
from dromikon.daybook.tally import DAY, day_of
from dromikon.keeping.forgetting import forget
from dromikon.keeping.silences import look_for_silences
from dromikon.sources.models import Device
from tests.conftest import GARDENS
from tests.small_site import at, happens

pytestmark = pytest.mark.django_db


@pytest.fixture
def look(bench):
    """Asks for silence, and lets the engine tell; the jetty line has been crossed daily until two days ago."""
    for ago in range(9, 1, -1):
        day = day_of(now_ms()) - ago
        TallyRow.objects.create(
            site=GARDENS, point="jetty-line", kind="scene.line_crossed", day=day, count=5, last_at=day * DAY
        )

    def ask():
        said = look_for_silences()
        bench.run()
        return said

    return ask


def told():
    rows = EventRow.objects.filter(kind="point.silent").order_by("seq")
    return [(row.point, row.phase, row.fields) for row in rows]


def test_a_line_that_is_crossed_daily_and_no_more_is_silent_until_it_is_crossed_again(look, bench):
    silent = ("jetty-line", "begin", {"what": "Line crossed", "days": 1})
    assert look() == "1 points are silent." and told() == [silent]
    look()
    assert told() == [silent], "it is told once"
    bench.cross()
    bench.run()
    assert look() == "0 points are silent."
    assert told() == [silent, ("jetty-line", "end", {})]


def test_what_was_told_long_ago_still_ends(look, bench):
    look()
    ActRow.objects.update(at=0)
    ActRow.objects.create(site=GARDENS, at=now_ms(), type="facts")
    bench.run()
    forget()
    bench.cross()
    bench.run()
    look()
    assert [phase for _, phase, _ in told()] == ["begin", "end"]


def test_nobody_waits_for_a_device_that_is_switched_off(look):
    Device.objects.filter(id="cam-jetty").update(enabled=False)
    assert look() == "0 points are silent." and told() == []
    assert not ActRow.objects.filter(site=GARDENS, type="silent").exists(), "what is as before is not written"


def test_silence_is_an_event_that_rules_hear(look, as_):
    document = {
        "name": "A detector is blind",
        "cause": happens("point.silent", "begin", points=at("jetty-line")),
        "response": [{"do": "bookmark", "title": "Nothing from {point} for {days} days"}],
    }
    rule = save(as_("ines"), document)
    switch(as_("ines"), rule, True)
    look()
    event = EventRow.objects.get(kind="point.silent")
    assert list(RunRow.objects.filter(event=event.seq).values_list("rule", flat=True)) == [rule.pk]
