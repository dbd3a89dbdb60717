"""What counters counted: written with what counts, shown beside the week before, exported, corrected, forgotten."""

import csv
import io
import zipfile

import pytest

from dromikon.authoring.services import save, switch
from dromikon.clock import now_ms
from dromikon.core.counting import DAY, QUARTER, Counts, quarter_of
from dromikon.daybook.counts import quarters
from dromikon.daybook.models import CountRow
from dromikon.keeping.classes import CLASSES
from dromikon.operating.counts import counter_of, measured
from dromikon.situation import set_counter
from tests.conftest import GARDENS

pytestmark = [pytest.mark.django_db, pytest.mark.timeless]
PAGE = f"/s/{GARDENS}/counts"


@pytest.fixture
def counting(as_, bench):
    """The gate's line counts visitors in and out."""
    steps = [
        {"do": "counter", "counter": {"id": "visitors"}, "change": change,
         "provided": {"test": "field", "field": "direction", "op": "is", "value": way}}
        for change, way in (("up", "in"), ("down", "out"))
    ]  # fmt: skip
    cause = {
        "cause": "event",
        "kind": "scene.line_crossed",
        "phase": "pulse",
        "where": {"points": [{"id": "gate-line"}]},
    }
    switch(as_("ines"), save(as_("ines"), {"name": "Count", "cause": cause, "response": steps}), True)
    bench.run()
    return bench


@pytest.fixture
def viewed(client, garden):
    client.login(username="ines", password="quillmere-demo")
    return client


def kept(counter="visitors"):
    now = now_ms()
    found = quarters(GARDENS, counter, now - DAY, now + DAY)
    return sum(q.came for q in found), sum(q.went for q in found), found[-1].stands if found else None


def test_what_rules_count_is_kept_by_the_quarter_and_a_correction_is_nobody_who_came(counting, as_):
    for way in ("in", "in", "in", "out"):
        counting.cross("gate-line", direction=way)
    counting.run()
    assert kept() == (3, 1, 2)
    set_counter(as_("dara"), "visitors", 40)
    counting.run()
    assert kept() == (3, 1, 40), "corrected by hand: where it stands, not who came"
    counting.cross("gate-line", direction="in")
    counting.run()
    assert kept() == (4, 1, 41)
    assert CountRow.objects.filter(counter="visitors").count() <= 2, "one row a quarter, however much is counted"


def row(start, **more):
    CountRow.objects.create(site=GARDENS, counter="visitors", start=start, **more)


def test_a_day_is_measured_beside_the_same_day_of_the_week_before(as_):
    at = quarter_of(now_ms())
    row(at, came=5, went=2, most=9, stands=8)
    row(at - 7 * DAY, came=10, went=1, most=12, stands=11)
    who = as_("ines")
    found = measured(who, counter_of(who, "visitors"), "day", at)
    assert (found.total.came, found.total_before.came, found.fullest.most) == (5, 10, 9)
    assert len(found.steps) in (92, 96, 100)
    assert [s.start - b.start for s, b in zip(found.steps, found.before, strict=False)][0] in (7 * DAY, 7 * DAY - 3_600_000, 7 * DAY + 3_600_000)  # fmt: skip


def test_the_page_shows_it_in_numbers_and_says_where_nothing_is(viewed):
    row(quarter_of(now_ms()), came=5, went=2, most=9, stands=8)
    page = viewed.get(f"{PAGE}/visitors").content.decode()
    assert "room for 200" in page and 'class="counts-chart"' in page and "<td>5</td>" in page
    for over in ("day", "week", "month", "year", "nonsense"):
        assert viewed.get(f"{PAGE}/visitors?over={over}&day=1").status_code == 200
    assert viewed.get(f"{PAGE}/nobody").status_code == 404
    assert "Visitors inside" in viewed.get(PAGE).content.decode(), "the one that counts who is inside comes first"


def test_only_what_is_over_and_known_of_both_weeks_is_compared(viewed):
    at = quarter_of(now_ms()) - DAY
    for start, came in ((at, 6), (at - 7 * DAY, 12), (at - 8 * DAY, 99)):
        row(start, came=came, most=came, stands=came)
    assert "There came 50 %" in viewed.get(f"{PAGE}/visitors?over=day&day={at}").content.decode()
    row(quarter_of(now_ms()), came=1, most=1, stands=1)
    row(quarter_of(now_ms()) - 7 * DAY, came=50, most=50, stands=50)
    assert "There came" not in viewed.get(f"{PAGE}/visitors?over=day").content.decode(), (
        "a quarter that goes on tells nothing"
    )


def test_the_board_and_the_desk_say_how_many_are_inside(viewed):
    board = viewed.get(f"{PAGE}/visitors/board").content.decode()
    assert 'data-room="200"' in board and "Visitors inside" in board
    desk = viewed.get(f"/s/{GARDENS}/desk").content.decode()
    assert 'data-inside="visitors"' in desk and 'data-inside="deliveries"' not in desk


def export(client, form, **more):
    at = quarter_of(now_ms())
    query = {"site": GARDENS, "start": at - QUARTER, "end": at + QUARTER, "form": form, **more}
    return client.get("/api/v1/counters/visitors/counts", query)


def test_counts_go_out_as_json_csv_and_sheet(viewed):
    row(quarter_of(now_ms()), came=5, went=2, most=9, stands=8)
    assert [s["came"] for s in export(viewed, "json").json()] == [0, 5]
    table = list(csv.reader(io.StringIO(export(viewed, "csv").content.decode())))
    assert [line[2:] for line in table] == [["Came", "Went", "Most inside", "Inside at the end"], ["0", "0", "", ""], ["5", "2", "9", "8"]]  # fmt: skip
    sheet = zipfile.ZipFile(io.BytesIO(export(viewed, "xlsx").content))
    assert b"<v>9</v>" in sheet.read("xl/worksheets/sheet1.xml"), "numbers are numbers"


@pytest.mark.parametrize("more", [{"end": 0}, {"start": 0}, {"step": "year"}, {"form": "pdf"}])
def test_what_cannot_be_exported_is_refused(viewed, more):
    assert export(viewed, more.pop("form", "csv"), **more).status_code == 422


def test_counts_are_forgotten_like_everything_else(garden):
    at = quarter_of(now_ms())
    row(at - 10 * DAY, came=1)
    row(at, came=1)
    counts = next(c for c in CLASSES if c.name == "counts")
    assert counts.amount()[0] == 2
    assert sum(counts.forget(at - DAY)) == 1 and counts.amount()[0] == 1


def test_two_quarters_are_one_hour_whose_end_is_the_later_ones():
    hour = Counts(0, 1, 2, 1, 7, 6).with_(Counts(1, 2, 1, 0, None, None))
    assert (hour.came, hour.went, hour.most, hour.stands) == (3, 1, 7, 6)
