"""Modules that know no document, by themselves, in one page of the browser."""

import json

import pytest

from dromikon.core.sound import from_mu_law

pytestmark = [pytest.mark.browser, pytest.mark.slow]


def module(browser, name, code):
    """What an expression gives with a module's exports as `m`."""
    script = (
        "const done = arguments[0];"
        "import('/static/js/' + %s).then(async (m) => done([await (%s)])).catch((e) => done(String(e)))"
    )
    found = browser.execute_async_script(script % (json.dumps(name), code))
    assert isinstance(found, list), found
    return found[0]


@pytest.fixture(scope="module")
def ask(lasting_person, demo):
    browser = lasting_person("ines")
    browser.get(f"{demo.address}/s/quillmere-gardens/rulebook/new")
    return lambda name, code: module(browser, name, code)


def test_the_editors_modules(ask):
    doc = '{"response": [{"do": "alarm"}, {"do": "line"}]}'
    assert ask("form/paths.js", f"m.at({doc}, 'response.-1.do')") == "line"
    assert ask("form/paths.js", f"((d) => (m.put(d, 'response.0'), d))({doc})") == {"response": [{"do": "line"}]}
    assert ask("form/paths.js", "((l) => [m.move(l, 0, 1), m.move(l, 0, -1), l])([1, 2])") == [True, False, [2, 1]]
    number = '{"test": "all", "of": [{"test": "not", "of": {"test": "field", "field": "x", "value": 4}}]}'
    assert ask("editor/rehearsal.js", f"m.firstNumber({number}, [])")["path"] == "provided.of.0.of.value"
    assert ask("editor/rehearsal.js", "m.firstNumber(undefined, [])") is None
    between = '{"name": "between", "numeric": true, "many": true}'
    choice = '{"type": "choice", "choices": ["human", "animal"]}'
    assert ask("form/compare.js", f"m.keptValue({between}, {{type: 'number', choices: []}}, 30)") == [30, 50]
    assert ask("form/compare.js", f"m.firstValue({{name: 'one_of', many: true}}, {choice})") == ["human"]
    assert ask("form/compare.js", "m.typedValue({many: true, name: 'one_of'}, {type: 'text'}, 'a, b')") == ["a", "b"]
    states = "((h) => (h.note({a: 1}), h.note({a: 1}), h.note({a: 2}), [h.undo(), h.redo(), h.undo(), h.undo(), h.undo()]))(new m.History({}))"
    assert ask("editor/history.js", states) == [{"a": 1}, {"a": 2}, {"a": 1}, {}, None]
    scale = 'm.lay([{"anchor": "start", "stretches": [[-10, 60], [590, 610]]}, {"anchor": "end", "stretches": [[-1, 9]]}], 800%s)'
    laid = ask("editor/axes.js", f"((s) => s.pieces.map((p) => [p.left, p.left + p.width]))({scale % ''})")
    assert laid[0][0] == 0 and laid[2][1] == pytest.approx(800)
    assert laid[1][0] - laid[0][1] == pytest.approx(28) and laid[1][1] - laid[1][0] >= 58, (
        "a break, and a stretch that can be read"
    )
    x = ask("editor/axes.js", f"((s) => [-10, 25, 60, 325, 600, 900].map((v) => m.place(s, 'start', v)))({scale % ''})")
    assert x == sorted(x) and laid[0][1] < x[3] < laid[1][0], "a second inside the break lies inside it"
    assert ask("editor/axes.js", f"m.place({scale % ', {zoom: 2, shift: 100}'}, 'start', -10)") == -100
    worth = ask(
        "editor/axes.js", f"((s) => [m.worth(s, 'start', 20, 20), m.worth(s, 'start', 600, 600)])({scale % ''})"
    )
    assert worth[0] == pytest.approx(70 / (laid[0][1] - laid[0][0])) and worth[1] == 4, "a share of a long span"
    assert ask("editor/axes.js", "[m.round(29.4, 0.1), m.round(291, 4), m.round(4000, 30)]") == [29.5, 300, 3960]
    assert ask("editor/axes.js", "[0, 45, 90, 120, 3600, 5400, 9000, -15].map(m.span)") == [
        "0", "45 s", "90 s", "2 min", "60 min", "90 min", "2 h 30", "−15 s"
    ]  # fmt: skip
    told = '{"considered": 10, "outcomes": {"not_provided": 6, "held_off": 1, "fired": 3}, "turned_away": {"provided.of.0": 6}, "turned_away_words": {"provided.of.0": "class is human"}}'
    rows = ask("editor/funnel.js", f"m.funnel({told}).map((r) => [r.words, r.left, r.gone])")
    assert rows == [["such events", 10, 0], ["conditions not met", 4, 6], ["class is human", 4, 6], ["held off", 3, 1]]
    run = '{"event": "%s", "point": "a", "zero": "2026-01-01T00:00:0%sZ"}'
    report = f'{{"runs": [{run % ("1", 1)}, {run % ("2", 2)}], "new": [{run % ("2", 2)}], "gone": [{run % ("0", 0)}], "same": 1, "away": [], "examples": []}}'
    assert ask("editor/strip.js", f"m.marksOf({report}).map((r) => r.sort)") == ["gone", "same", "new"]
    spoken = "m.kindSpokenOf(JSON.parse(document.getElementById('forms').textContent), %s, %s)"
    order = '{"cause": {"cause": "order", "of": [{"kind": "call.rung", "provided": {"test": "not", "of": {}}}, {"kind": "door.open"}]}}'
    assert ask("form/scope.js", spoken % (order, "'response.0.title'")) == "door.open"
    assert ask("form/scope.js", spoken % (order, "'cause.of.0.provided.of.field'")) == "call.rung"
    assert ask("form/scope.js", spoken % ('{"cause": {"cause": "button"}}', "'hold_off.field'")) == "button.pressed"


def test_an_axis_has_round_ticks_on_the_sites_day_and_zooms_around_a_point(ask):
    day = 86_400_000
    # 26 October 2025: in London the clock goes back, and midnight is at 23:00 UTC the evening before.
    midnight = 1_761_433_200_000
    axis = f"new m.Axis({midnight} - {day}, {midnight} + {day}, 0, 800)"
    assert ask("kit/axis.js", f"((a) => [a.x(a.at(123.5)), a.at(400)])({axis})") == [pytest.approx(123.5), midnight]
    ticks = ask("kit/axis.js", f"{axis}.ticks()")
    assert ticks["step"] == 21_600_000 and midnight in ticks["found"]
    assert ask("kit/axis.js", f"{axis}.label({midnight}, 21600000)") == "26 Oct"
    assert ask("kit/axis.js", f"{axis}.label({midnight} + 21600000, 21600000)") == "05:00"
    assert ask("kit/axis.js", "m.zoomed({start: 0, end: 100}, 0.5, 25, 1, 1000)") == {"start": 12.5, "end": 62.5}
    assert ask("kit/axis.js", "m.zoomed({start: 0, end: 100}, 100, 50, 1, 1000)") == {"start": -450, "end": 550}


def test_frames_come_whole_out_of_chunks_that_end_anywhere(ask):
    frame = "(c, at, n) => { const b = new Uint8Array(13 + n), v = new DataView(b.buffer); v.setUint8(0, c); v.setBigUint64(1, BigInt(at)); v.setUint32(9, n); b.fill(c, 13); return [...b]; }"
    code = f"""((frame) => {{
        const bytes = [...frame(1, 1700000000123, 5), ...frame(2, 1700000000456, 0), ...frame(3, 9, 300)];
        return [1, 7, 13, 50, 1000].map((size) => {{
            const unpacker = new m.Unpacker(), found = [];
            for (let i = 0; i < bytes.length; i += size) found.push(...unpacker.take(new Uint8Array(bytes.slice(i, i + size))));
            return found.map((f) => [f.camera, f.at, f.jpeg.length, f.jpeg.every((b) => b === f.camera)]);
        }});
    }})({frame})"""
    whole = [[1, 1_700_000_000_123, 5, True], [2, 1_700_000_000_456, 0, True], [3, 9, 300, True]]
    assert ask("kit/packed.js", code) == [whole] * 5


def test_lanes_gather_marks_and_make_bars_of_states(ask):
    events = json.dumps(
        [
            ["1", "door.open", "vault", "begin", 100, False], ["2", "door.open", "vault", "end", 300, False],
            ["3", "device.lost", "gate", "end", 50, False], ["4", "door.open", "shed", "begin", 400, False],
            ["5", "door.open", "gate", "begin", 450, False, True],
        ]
    )  # fmt: skip
    assert ask("daybook/lanes.js", f"m.states({events}, 0, 500)") == [
        {"start": 0, "end": 50, "lost": True},
        {"start": 100, "end": 300, "lost": False},
        {"start": 400, "end": 500, "lost": False},
    ]
    assert ask("daybook/lanes.js", f"m.happenings({events}, {{x: (at) => at / 100}}).map(([x, g]) => [x, g.length])") == [
        [0, 1], [4, 2],
    ], "a test is a mark, and no state"  # fmt: skip
    assert ask("daybook/lanes.js", f"[m.tested({events}), m.tested({events}.slice(4))]") == [False, True]
    here = f"m.within({events}, new Set(['vault', 'shed']), {{start: 200, end: 400}}, 4).map((e) => e[0])"
    assert ask("daybook/lanes.js", here) == ["2", "4"]
    runs = '[["a", "R", "p", 30, "9", []], ["b", "R", "p", 10, "7", ["alarm"]], ["c", "R", "p", 20, "8", []]]'
    step = lambda chosen, way: f"(m.neighbour({runs}, {chosen}, {way}) || [])[4]"
    assert [ask("daybook/lanes.js", step(*s)) for s in (("null", 1), ("'8'", 1), ("'8'", -1), ("'9'", 1))] == [
        "9", "9", "7", "9",
    ]  # fmt: skip
    assert ask("daybook/lanes.js", "m.neighbour([], null, 1)") is None


def test_alarms_stand_with_those_to_be_answered_first_by_rank_the_newest_first(ask):
    cards = (("1", 1, 5), ("1", 1, 9), ("1", 2, 99), ("0", 1, 999))
    orders = [
        ask("desk/cards.js", f"m.order({{open: '{o}', rank: '{rank}', raised: '{raised}'}})")
        for o, rank, raised in cards
    ]
    assert sorted(orders) == [orders[1], orders[0], orders[2], orders[3]]


def test_a_curve_breaks_where_a_sensor_is_silent_for_longer_than_usually(ask):
    assert ask("archive/curves.js", "m.usually([[0, 1], [10, 1], [21, 1], [90, 1]])") == 11
    assert ask("archive/curves.js", "m.usually([[5, 1]])") == 0


def test_a_gap_in_a_part_is_found(ask):
    covers = lambda stretches, part: ask("archive/cutting.js", f"m.covers({stretches}, {part})")
    part = "{start: 1000, end: 9000}"
    assert covers("[{start: 0, end: 5000}, {start: 5200, end: 20000}]", part), "less than a second is none"
    assert covers("[{start: 5200, end: 20000}, {start: 0, end: 5000}]", part), "in whatever order"
    assert not covers("[{start: 0, end: 5000}, {start: 7000, end: 20000}]", part)
    assert not covers("[]", part) and not covers("[{start: 4000, end: 20000}]", part)


def test_addresses_words_and_keys(ask):
    assert ask("kit/routes.js", "m.callAt('gardens', 'paths', {camera: 'a/b'}, {start: 1})") == [
        "GET",
        "/api/v1/cameras/a%2Fb/scene/paths?site=gardens&start=1",
    ]
    assert ask("kit/routes.js", "m.pageAt('gardens', 'event', {event: 7})") == "/s/gardens/daybook/event/7"
    assert ask("kit/words.js", "m.fill('{a} of {b} and {c}', {a: 1, b: '{a}'})") == "1 of {a} and {c}"
    keys = "[{key: 'j'}, {key: '='}, {key: 'S', ctrlKey: true}, {key: 'z', metaKey: true, shiftKey: true}].map(m.combination)"
    assert ask("kit/keys.js", keys) == ["j", "Plus", "Ctrl+s", "Ctrl+Shift+z"]
    ago = "[2e3, 59e3, 61e3, 7500e3].map((ms) => m.relative(1e12 - ms, 1e12))"
    assert ask("kit/times.js", ago) == ["now", "59 s ago", "1 min ago", "2 h 5 min ago"]
    # Half an hour beside the hour: the wall clock of such a zone is told right.
    assert ask("kit/times.js", "[m.offset(1e12, 'Asia/Kolkata'), m.offset(1e12, 'UTC')]") == [19_800_000, 0]


def test_reasons_that_come_close_together_are_answered_once_more(ask):
    counted = """(async () => {
      let done = 0;
      const told = m.gathered(() => done++, 100), pause = (ms) => new Promise((r) => setTimeout(r, ms));
      told();
      const first = done;
      for (let i = 0; i < 3; i++) told();
      const held = done;
      await pause(500);
      const after = done;
      told();
      return [first, held, after, done];
    })()"""
    assert ask("kit/gather.js", counted) == [1, 1, 2, 3]


def test_the_plan_stays_in_its_frame_and_a_place_stays_where_it_is(ask):
    plan = "{wide: 400, tall: 300}"
    assert ask("plan/view.js", f"m.whole({plan}, 2)") == {"x": -100, "y": 0, "wide": 600, "tall": 300}
    zoomed = f"((v) => [(300 - v.x) / v.wide, (100 - v.y) / v.tall, v.wide])(m.zoomed(m.whole({plan}, 2), 4, [300, 100], {plan}))"
    assert ask("plan/view.js", zoomed) == [pytest.approx(400 / 600), pytest.approx(1 / 3), 150]
    assert ask("plan/view.js", f"m.zoomed(m.whole({plan}, 2), 0.5, [0, 0], {plan}).wide") == 600, "no farther than all"
    moved = f"((v) => [v.x, v.y])(m.moved({{x: 0, y: 0, wide: 100, tall: 50}}, -40, 900, {plan}))"
    assert ask("plan/view.js", moved) == [0, 250]
    assert [ask("plan/view.js", f"m.scaleOf({{wide: {w}}})") for w in (600, 60, 9)] == [100, 10, 1]


def test_names_on_the_plan_do_not_lie_over_each_other(ask):
    near = "[{x: 100, y: 100, name: 'First'}, {x: 130, y: 100, name: 'Second'}, {x: 115, y: 100, name: 'Third'}]"
    sides = ask("plan/labels.js", f"m.placed({near}, 10, [0, 0, 400, 400]).map((p) => p && p.anchor)")
    assert sides[0] == "end" and sides[1] == "start" and len(set(sides)) == 3
    edge = "m.placed([{x: 395, y: 100, name: 'At the edge'}], 10, [0, 0, 400, 400])[0].anchor"
    assert ask("plan/labels.js", edge) == "end"


def test_a_camera_is_aimed_at_a_place_and_corners_are_moved_added_and_taken_away(ask):
    aimed = "m.aimed({x: 10, y: 10}, [%s])"
    assert [ask("plan/eyes.js", aimed % p) for p in ("10, 0", "30, 10", "10, 30")] == [
        {"looks": 0, "reach": 10}, {"looks": 90, "reach": 20}, {"looks": 180, "reach": 20},
    ]  # fmt: skip
    assert ask("sources/shape.js", "m.toDevice(m.toDrawing([0.25, -0.5]))") == [0.25, -0.5]
    assert ask("sources/shape.js", "m.toDevice([9999, -50])") == [1, 1], "kept within the picture"
    area = "[{sort: 'area', item: 'Field', points: [[0, 0], [1, 0], [1, 1]]}]"
    assert ask("sources/shape.js", f"m.grown({area}, 0, 2)[0].points") == [[0, 0], [1, 0], [1, 1], [0.5, 0.5]]
    assert ask("sources/shape.js", f"m.shrunk({area}, 0, 1)[0].points.length") == 3, "an area has three corners"
    line = "[{sort: 'line', item: 'Segments', points: [[0, 0], [1, 0]]}]"
    assert ask("sources/shape.js", f"m.grown({line}, 0, 1)[0].points") == [[0, 0], [0.5, 0], [1, 0]]


def test_a_week_is_painted_and_what_begins_the_evening_before_is_cut(ask):
    spans, week = "hours/spans.js", '{"fri": ["22:00-06:00"], "sat": ["sunset-30-sunrise+15"]}'
    assert ask(spans, f"m.painted({week}, 0, 540, 1020, true).mon") == ["09:00-17:00"]
    joined = ask(spans, f"m.painted(m.painted({week}, 0, 540, 720, true), 0, 720, 780, true).mon")
    assert joined == ["09:00-13:00"], "what touches is one"
    cut = ask(spans, f"m.painted({week}, 5, 60, 120, false)")
    assert cut["fri"] == ["22:00-01:00"] and cut["sat"] == ["02:00-06:00", "sunset-30-sunrise+15"]
    assert ask(spans, f"m.painted({week}, 4, 1320, 1440, false)") == {"sat": ["00:00-06:00", "sunset-30-sunrise+15"]}
    assert ask(spans, "m.painted({sun: ['23:00-01:00']}, 0, 0, 60, false)") == {"sun": ["23:00-24:00"]}
    sun = "{sunrise: 480, sunset: 960}"
    assert ask(spans, f"m.stretches({week}, 6, {sun})") == [{"from": 0, "to": 495, "bySun": True, "tail": True}]
    assert ask(spans, "m.drawn('sunrise-sunset', {sunrise: 720, sunset: 720})") == [720, 720], "a day without sun"
    assert ask(spans, "[m.drawn('9-17', {}), m.minutes('09:00-17:30')]") == [None, [540, 1050]]
    assert ask(spans, f"[m.inside({week}, 4, 1400), m.inside({week}, 5, 100), m.inside({week}, 5, 1000)]") == [
        True,
        True,
        False,
    ]
    assert ask(spans, "m.typed(' 09:00-12:00 ,, 14:00-sunset')") == ["09:00-12:00", "14:00-sunset"]


def test_pictures_come_no_faster_than_they_are_painted(ask):
    looks = "[[500, 0], [900, 1500], [1400, 3000], [10, 4500]].map(([ms, at]) => p.took(ms, at))"
    slowed = f"((p) => [{looks}, p.of(8), p.of(2)])(new m.Pace(0))"
    assert ask("kit/pace.js", slowed) == [[False, True, True, False], 2, 1], "half as fast, and half again; never none"
    calm = "((p) => { p.divisor = 2; return [1, 2, 3, 4, 5, 6].map((n) => p.took(5, n * 1500)).concat(p.of(8)); })(new m.Pace(0))"
    assert ask("kit/pace.js", calm) == [False] * 5 + [True, 8], "as before, once there is time for long enough"


def test_sound_is_read_as_it_is_written(ask):
    assert (
        ask("desk/listening.js", "Array.from(m.SAMPLES, (s) => Math.round(s * 32768))")
        == from_mu_law(bytes(range(256))).tolist()
    )
