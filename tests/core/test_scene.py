"""Detectors over pictures: each kind by a walk of somebody; what tells nothing twice; and what is kept of what was seen."""

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from pydantic import TypeAdapter, ValidationError

from dromikon.core.devices.frames import SceneFrame, Seen
from dromikon.core.events import Phase
from dromikon.core.kinds import KINDS
from dromikon.core.scene.chunks import PARTS, Unreadable, pack, unpack
from dromikon.core.scene.detecting import Detecting
from dromikon.core.scene.ground import Area, Ground
from dromikon.core.scene.seeing import Seeing
from dromikon.core.scene.shapes import crosses_itself
from dromikon.core.scene.sight import Sight, sight_of
from dromikon.core.scene.watching import DETECTORS, AnyDetector

MIDDLE = [(0.4, 0.4), (0.6, 0.4), (0.6, 0.9), (0.4, 0.9)]
UP = [(0.5, 0.9), (0.5, 0.1)]
ANY = TypeAdapter(AnyDetector)
BEGIN, END, PULSE = Phase.BEGIN, Phase.END, Phase.PULSE


def made(detects, corners=MIDDLE, **settings):
    return ANY.validate_python({"detects": detects, "corners": corners, **settings})


def sight(at, *things):
    """(id, x, y of the foot[, kind[, height]]) each; as wide as half its height."""
    rows = [(*t, *("human", 0.2)[len(t) - 3 :]) for t in things]
    boxes = [(x - h / 4, y - h, x + h / 4, y) for _, x, y, _, h in rows]
    ids, kinds = tuple(str(r[0]) for r in rows), tuple(r[3] for r in rows)
    return Sight(at, ids, kinds, (90.0,) * len(rows), [tuple(map(float, box)) for box in boxes])


def walk(*corners, every=100, kind="human", height=0.2, id=1):
    """Pictures of somebody who goes from corner to corner: (ms, x, y)."""
    for (t0, x0, y0), (t1, x1, y1) in zip(corners, corners[1:], strict=False):
        for at in range(t0, t1, every):
            share = (at - t0) / (t1 - t0)
            yield sight(at, (id, x0 + (x1 - x0) * share, y0 + (y1 - y0) * share, kind, height))


def told(detector, sights, until=20_000, **more):
    """What it tells of some pictures, with empty ones until the end."""
    detecting, found = Detecting({"d": detector}, **more), []
    sights = list(sights)
    last = sights[-1].at if sights else 0
    for one in [*sights, *(sight(at) for at in range(last + 100, until, 100))]:
        found += detecting.take(one)
    return [(d.phase, d.at, d.fields.get("direction", "")) for d in found]


def phases(*args, **more):
    return [phase for phase, _, _ in told(*args, **more)]


THROUGH = ((0, 0.1, 0.6), (4_000, 0.9, 0.6))


class TestKinds:
    def test_a_line_is_crossed_once_in_its_direction(self):
        there = told(made("crossing", UP), walk(*THROUGH))
        assert [(p, d) for p, _, d in there] == [(PULSE, "in")] and abs(there[0][1] - 2_000) <= 200
        back = ((0, 0.9, 0.6), (4_000, 0.1, 0.6))
        assert [d for *_, d in told(made("crossing", UP), walk(*back))] == ["out"]
        assert told(made("crossing", UP, way="left"), walk(*THROUGH)) == []
        assert told(made("crossing", UP), walk((0, 0.1, 0.95), (4_000, 0.9, 0.95))) == [], "past its end"

    def test_whoever_trembles_on_a_line_crosses_it_once(self):
        steps = [sight(i * 100, (1, 0.3 + i * 0.01, 0.6)) for i in range(20)]
        steps += [sight(2_000 + i * 100, (1, 0.5 + 0.004 * (-1) ** i, 0.6)) for i in range(50)]
        steps += [sight(7_000 + i * 100, (1, 0.51 + i * 0.01, 0.6)) for i in range(20)]
        assert phases(made("crossing", UP), steps) == [PULSE]

    def test_inside_begins_with_the_first_and_ends_with_the_last(self):
        both = [sight(a.at, ("1", *_foot(a)), ("2", *_foot(b))) for a, b in zip(walk(*THROUGH), walk((0, 0.0, 0.6), (4_000, 0.8, 0.6)), strict=True)]  # fmt: skip
        assert phases(made("inside"), both) == [BEGIN, END]
        assert phases(made("inside"), walk((0, 0.1, 0.2), (4_000, 0.9, 0.2))) == []
        assert phases(made("outside"), walk((0, 0.5, 0.6), (3_000, 0.5, 0.6))) == []
        assert phases(made("outside"), walk((0, 0.1, 0.6), (3_000, 0.1, 0.6))) == [BEGIN, END]

    def test_entering_and_leaving_are_not_appearing_and_vanishing(self):
        assert phases(made("entering"), walk(*THROUGH)) == phases(made("leaving"), walk(*THROUGH)) == [PULSE]
        still = list(walk((0, 0.5, 0.6), (3_000, 0.5, 0.6)))
        assert phases(made("entering"), still) == phases(made("leaving"), still) == []

    def test_a_doorway_has_two_ways(self):
        out, way_in = walk((0, 0.5, 0.6), (3_000, 0.1, 0.6)), walk((0, 0.1, 0.6), (3_000, 0.5, 0.6))
        assert [d for *_, d in told(made("doorway"), out)] == ["out"]
        assert [d for *_, d in told(made("doorway"), way_in)] == ["in"]
        assert told(made("doorway"), walk(*THROUGH)) == [], "whoever passes before it does neither"

    def test_lingering_takes_its_time_and_a_tremble_is_no_leaving(self):
        steps = list(walk((0, 0.5, 0.6), (8_000, 0.5, 0.6)))
        steps[30] = sight(3_000, (1, 0.39, 0.6))
        begun = told(made("lingering", seconds=5), steps)
        assert [(p, at) for p, at, _ in begun] == [(BEGIN, 5_000), (END, 10_000)]
        assert phases(made("lingering", seconds=5), walk((0, 0.5, 0.6), (4_000, 0.5, 0.6))) == []
        outside = walk((4_800, 0.9, 0.6), (9_000, 0.9, 0.6))
        left = phases(made("lingering", seconds=5), [*walk((0, 0.5, 0.6), (4_700, 0.5, 0.6)), *outside])
        assert left == [], "who has just left has not lingered, though their grace lasts on"

    def test_standing_is_not_walking_about_inside(self):
        assert phases(made("standing", seconds=3), walk((0, 0.5, 0.6), (6_000, 0.5, 0.6))) == [BEGIN, END]
        about = walk((0, 0.42, 0.6), (2_000, 0.58, 0.6), (4_000, 0.42, 0.6), (6_000, 0.58, 0.6))
        assert phases(made("standing", seconds=3), about) == []

    def test_a_bay_is_occupied_by_what_covers_it_also_behind_something(self):
        car = lambda t0, t1: walk((t0, 0.5, 0.9), (t1, 0.5, 0.9), kind="vehicle", height=0.5)
        bay = made("occupied", overlap=40, seconds=2)
        hidden = [*car(0, 5_000), *(sight(at) for at in range(5_000, 6_500, 100)), *car(6_500, 9_000)]
        assert phases(bay, hidden) == [BEGIN, END]
        assert phases(bay, walk((0, 0.5, 0.9), (9_000, 0.5, 0.9), height=0.1)) == [], "too small to cover it"

    def test_a_bay_is_occupied_in_time_though_boxes_tremble_or_are_missed(self):
        steps = list(walk((0, 0.5, 0.9), (4_000, 0.5, 0.9), kind="vehicle", height=0.5))
        covered = next(iter(Ground([Area(MIDDLE, True)]).pairs(steps[0].sides)))[2]
        bay = made("occupied", overlap=100 * covered, seconds=2)
        trembling = [sight(s.at, (1, 0.5, 0.9 + 0.01 * (i % 2), "vehicle", 0.5)) for i, s in enumerate(steps) if i % 7]
        assert [at for phase, at, _ in told(bay, trembling) if phase is BEGIN][0] < 2_600

    def test_a_thing_is_left_behind_and_taken_away(self):
        person = lambda at, x: ("p", x, 0.7)
        bag = ("b", 0.5, 0.7, "other", 0.05)
        brought = [sight(at, person(at, 0.52), bag) for at in range(0, 3_000, 100)]
        alone = [sight(at, person(at, 0.95), bag) for at in range(3_000, 12_000, 100)]
        by_itself = [sight(at, person(at, 0.95), ("b", 0.1, 0.7, "other", 0.05)) for at in range(12_000, 13_000, 100)]
        assert phases(made("left_behind", seconds=5), [*brought, *alone, *by_itself], until=13_000) == [BEGIN, END]
        fetched = [sight(at, person(at, 0.52), bag) for at in range(12_000, 14_000, 100)]
        found = told(made("left_behind", seconds=5), [*brought, *alone, *fetched])
        assert [(p, at) for p, at, _ in found] == [(BEGIN, 8_000), (END, 12_000)]
        assert phases(made("taken_away", seconds=5), [*brought, *alone, *fetched], until=30_000) == [PULSE]
        renamed = [sight(at, ("c", 0.5, 0.7, "other", 0.05)) for at in range(14_500, 16_000, 100)]
        on = [sight(at, ("c", 0.5, 0.7, "other", 0.05)) for at in range(16_000, 29_000, 100)]
        assert phases(made("taken_away", seconds=5), [*alone, *renamed, *on], until=29_000) == [], "only hidden"

    def test_too_many_are_counted_for_long_enough(self):
        many = lambda t0, t1, n: [
            sight(at, *((k, 0.42 + 0.02 * k, 0.6) for k in range(n))) for at in range(t0, t1, 100)
        ]
        crowd = made("crowd", most=3, seconds=2)
        assert phases(crowd, [*many(0, 5_000, 4), *many(5_000, 9_000, 2)]) == [BEGIN, END]
        assert phases(crowd, [*many(0, 1_500, 4), *many(1_500, 9_000, 3)]) == []

    def test_the_wrong_way_and_running(self):
        wrong = made("wrong_way", right_way=180)
        assert phases(wrong, walk(*THROUGH)) == [PULSE] and phases(wrong, walk((0, 0.9, 0.6), (4_000, 0.1, 0.6))) == []
        assert phases(made("running"), walk((0, 0.3, 0.6), (1_500, 0.75, 0.6))) == []
        assert phases(made("running", corners=[(0, 0), (1, 0), (1, 1), (0, 1)]), walk((0, 0.1, 0.6), (1_500, 0.9, 0.6))) == [PULSE]  # fmt: skip


def test_speed_sideways_is_by_the_pictures_width_which_is_more_than_its_height():
    sideways = lambda seconds: walk((0, 0.3, 0.6), (round(1000 * seconds), 0.7, 0.6))
    assert phases(made("running"), sideways(1.8)) == [PULSE], "2 own heights a second"
    assert phases(made("running"), sideways(2.6)) == [], "1.4"
    assert phases(made("running"), sideways(1.8), seeing=Seeing(shape="4:3")) == [], "1.5 in a narrower picture"


def _foot(one):
    return one.feet[0]


class TestWhatCounts:
    @pytest.mark.parametrize(
        ("wants", "kind", "height"),
        [({"classes": ["vehicle"]}, "human", 0.2), ({"smallest": 30}, "human", 0.2), ({"largest": 10}, "human", 0.2), ({"sure": 95}, "human", 0.2)],
    )  # fmt: skip
    def test_what_is_of_another_class_size_or_not_sure_enough_does_not(self, wants, kind, height):
        assert phases(made("inside", **wants), walk(*THROUGH, kind=kind, height=height)) == []

    def test_what_stands_in_a_mask_does_not(self):
        assert (
            phases(made("inside"), walk(*THROUGH), seeing=Seeing(masks=(((0, 0.5), (1, 0.5), (1, 1), (0, 1)),))) == []
        )

    def test_an_object_is_what_it_was_taken_for_most_surely(self):
        steps = list(walk(*THROUGH))
        steps[20] = sight(steps[20].at, (1, *_foot(steps[20]), "animal", 0.2))
        assert phases(made("inside", classes=["human"]), steps) == [BEGIN, END]

    def test_pictures_that_come_late_or_twice_and_numbers_used_again_disturb_nothing(self):
        steps = list(walk(*THROUGH))
        disturbed = [*steps[:15], steps[3], steps[14], *steps[15:]]
        assert told(made("crossing", UP), disturbed) == told(made("crossing", UP), steps)
        reused = [sight(at, (1, 0.1, 0.6)) for at in range(0, 1_000, 100)]
        reused += [sight(at, (1, 0.9, 0.6)) for at in range(1_000, 2_000, 100)]
        assert phases(made("crossing", UP), reused) == [], "another one of the same number"

    def test_a_clock_that_is_set_back_begins_anew(self):
        inside = lambda start, seconds=3: list(walk((start, 0.5, 0.6), (start + seconds * 1_000, 0.5, 0.6)))
        found = told(made("inside"), [*inside(3_600_000), *inside(0)], until=8_000)
        assert [(p, at) for p, at, _ in found] == [(BEGIN, 3_600_000), (END, 0), (BEGIN, 0), (END, 5_000)]

    def test_whoever_comes_near_and_looks_too_large_is_followed_until_they_leave(self):
        near = [sight(k * 100, (1, 0.5, 0.6, "human", 0.1 + 0.01 * k)) for k in range(40)]
        out = [sight(4_000 + k * 100, (1, 0.1, 0.6, "human", 0.5)) for k in range(20)]
        assert phases(made("inside", largest=30), [*near, *out], until=6_000) == [BEGIN, END]

    def test_a_detector_that_is_added_disturbs_no_other_and_finds_nobody_coming_in(self):
        detecting, found = Detecting({"a": made("inside")}), []
        for one in walk((0, 0.1, 0.6), (4_000, 0.5, 0.6)):
            found += detecting.take(one)
        assert detecting.become({"a": made("inside"), "b": made("entering")}) == ["b"]
        for one in walk((4_000, 0.5, 0.6), (8_000, 0.9, 0.6), (12_000, 0.5, 0.6)):
            found += detecting.take(one)
        assert [(d.point, d.phase) for d in found] == [("a", BEGIN), ("a", END), ("a", BEGIN), ("b", PULSE)]
        assert detecting.become({"a": made("inside", sure=10)}) == ["a"], "another one by that name"

    def test_frames_are_read_whatever_is_in_them(self):
        nan = float("nan")
        things = (
            Seen("1", "Human", 0.8, (-0.5, 0.5, 0.0, -0.5)), Seen("1", "Vehicle", 0.9, (-0.5, 0.5, 0.0, -0.5)),
            Seen("2", "Face", None, (-3.0, 0.5, 0.0, -9.0)), Seen("3", "Human", 0.9, (2.0, 2.0, 3.0, 3.0)),
            Seen("4", "Human", 0.9, (nan, 0.5, 0.0, 0.0)), Seen("5", "Ufo", 0.9, (0.5, -0.5, 0.0, 0.5)),
        )  # fmt: skip
        found = sight_of(SceneFrame(1_000, things))
        assert found.ids == ("1", "2", "5") and found.kinds == ("vehicle", "human", "other")
        assert found.boxes.tolist() == [[0.25, 0.25, 0.5, 0.75], [0.0, 0.25, 0.5, 1.0], [0.5, 0.25, 0.75, 0.75]]
        odd = [sight_of(SceneFrame(0, (Seen("1", "Human", told, (0.0, 0.5, 0.5, 0.0)),))) for told in (88.0, -1.0, nan)]
        assert [one.sure for one in odd] == [(100.0,), (0.0,), (0.0,)] and unpack(pack(odd[:1]))[0].sure == (100.0,)
        crowd = tuple(Seen(str(i), "Human", 0.5, (-0.5, 0.5, 0.0, -0.5)) for i in range(700))
        assert len(sight_of(SceneFrame(0, crowd))) == 500


@pytest.mark.parametrize(
    ("detects", "corners", "said"),
    [
        ("inside", [(0.1, 0.1), (0.9, 0.9), (0.9, 0.1), (0.1, 0.9)], "crosses itself"),
        ("inside", [(0.1, 0.1), (0.2, 0.2), (0.3, 0.3)], "too small"),
        ("inside", [(0.1, 0.1), (0.2, 0.2)], "3 to 40"), ("inside", [(0.1, 0.1), (1.2, 0.2), (0.3, 0.9)], "outside the picture"),
        ("crossing", [(0.5, 0.5), (0.505, 0.5)], "longer"), ("crossing", [(0.5, 0.5)], "two ends"),
    ],
)  # fmt: skip
def test_what_cannot_be_watched_is_refused_where_it_is_drawn(detects, corners, said):
    with pytest.raises(ValidationError) as refused:
        made(detects, corners)
    assert said in str(refused.value) and refused.value.errors()[0]["loc"][-1] == "corners"


def test_every_detector_tells_a_kind_that_detectors_have():
    for detector in DETECTORS:
        assert "detector" in KINDS[detector.tells].point_kinds, detector.tells
        begins = KINDS[detector.tells].is_state
        assert begins == detector.tells.endswith(("inside", "outside", "loitering", "standing", "occupied", "left_behind", "crowded"))  # fmt: skip


shares = st.floats(0, 1)


@given(st.lists(st.tuples(shares, shares), min_size=3, max_size=9), shares, shares)
def test_where_feet_stand_is_what_the_angles_around_them_say(corners, x, y):
    """By the winding number, which the even-odd rule agrees with where an area does not cross itself."""
    assume(not crosses_itself(corners) and all(abs(cx - x) + abs(cy - y) > 1e-6 for cx, cy in corners))
    ways = [np.arctan2(cy - y, cx - x) for cx, cy in corners]
    turns = [(b - a + np.pi) % (2 * np.pi) - np.pi for a, b in zip(ways, ways[1:] + ways[:1], strict=True)]
    assume(all(abs(abs(turn) - np.pi) > 1e-6 for turn in turns))
    around = abs(sum(turns)) > np.pi
    found = Ground([Area(tuple(corners), False)]).pairs([(x - 0.1, y - 0.1, x + 0.1, y)])
    assert found == ([(0, 0, 1.0)] if around else [])


def test_how_much_a_box_covers_is_near_what_it_is():
    area = Area(((0.2, 0.2), (0.8, 0.2), (0.8, 0.6), (0.2, 0.6)), True)
    boxes = [[0.0, 0.0, 1.0, 1.0], [0.2, 0.2, 0.5, 0.6], [0.5, 0.4, 1.0, 1.0], [0.0, 0.0, 0.2, 0.2]]
    found = {row: share for row, _, share in Ground([area]).pairs(boxes)}
    assert [found.get(row, 0.0) for row in range(4)] == pytest.approx([1.0, 0.5, 0.25, 0.0], abs=0.02)


things = st.lists(st.tuples(st.integers(1, 9), shares, shares, st.sampled_from(["human", "animal"]), st.floats(0.01, 0.5)), max_size=6, unique_by=lambda t: t[0])  # fmt: skip


class TestKept:
    @given(st.lists(st.tuples(st.integers(1, 5_000), things), max_size=12))
    def test_what_is_kept_comes_back(self, steps):
        at, sights = 1_795_176_000_000, []
        for later, row in steps:
            at += later
            one = sight(at, *row)
            sights.append(Sight(at, one.ids, one.kinds, one.sure, list(map(tuple, one.boxes.clip(0, 1).tolist()))))
        back = unpack(pack(sights))
        assert [(s.at, s.ids, s.kinds, s.sure) for s in back] == [(s.at, s.ids, s.kinds, s.sure) for s in sights]
        for one, other in zip(back, sights, strict=True):
            assert np.abs(one.boxes - other.boxes).max(initial=0) <= 0.5 / PARTS + 1e-9

    @given(st.binary(max_size=80))
    def test_what_was_not_kept_so_is_said(self, data):
        with pytest.raises(Unreadable):
            unpack(data)

    def test_a_minute_with_five_objects_takes_little(self):
        rng = np.random.default_rng(1)
        paths = rng.uniform(0.1, 0.9, (5, 2))
        sights = []
        for i in range(600):
            paths = (paths + rng.normal(0, 0.002, (5, 2))).clip(0.05, 0.95)
            sights.append(sight(i * 100, *((k, *paths[k]) for k in range(5))))
        assert len(pack(sights)) < 20_000, "bytes"
