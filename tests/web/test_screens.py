"""What stands on desks and displays, as rules and people want it."""

import json

import pytest

from dromikon.authoring.services import save, switch
from dromikon.clock import now_ms
from dromikon.daybook.models import Feed
from dromikon.desk.models import Display, Showing
from dromikon.operating.screens import (
    arrange,
    arrangements,
    drop_arrangement,
    keep_arrangement,
    of_desk,
    of_display,
    own_desk,
    set_sounds,
    take_arrangement,
)
from dromikon.people.models import Person
from dromikon.refusals import Refused
from dromikon.setup.displays import DisplayDocument, retire_display, save_display
from dromikon.sources.models import Point
from tests.conftest import GARDENS, NURSERY

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.timeless]


def on(screen):
    return [cell.camera for cell in screen.shown.cells]


@pytest.fixture
def wall(as_):
    document = DisplayDocument.model_validate({"name": "Gate wall", "cells": 2, "usual": [{"id": "gate"}]})
    return save_display(as_("ines"), None, document)


@pytest.fixture
def puts_up(bench, as_, wall):
    """A live rule that puts the jetty up on the display."""
    document = {
        "name": "Jetty on the wall",
        "cause": {"cause": "button", "where": {"points": [{"id": "gate-help"}]}},
        "response": [
            {"do": "popup", "displays": [{"id": wall.id, "name": "Gate wall"}], "priority": "high", "seconds": 60,
             "cameras": {"point": {"id": "jetty"}}},
        ],
    }  # fmt: skip
    rule = switch(as_("ines"), save(as_("ines"), document), True)
    bench.run()
    return rule


def test_a_rule_puts_a_camera_up_on_a_display_and_on_no_desk(bench, as_, wall, puts_up):
    from dromikon.desk.buttons import press

    press(as_("opal"), "gate-help")
    bench.run()
    there = of_display(wall).to_json()
    assert [(c["camera"], c["rank"]) for c in there["cells"]] == [("gate", None), ("jetty", 1)]
    assert there["cells"][1]["title"] == "Jetty on the wall" and there["until"] > there["at"]
    assert [s.display for s in Showing.objects.filter(title="Jetty on the wall")] == [wall.id], "and on no desk"
    told = Feed.objects.get(topic="showing", data__display=wall.id)
    assert told.groups is None, "whoever shows the display hears of it"


def test_only_cameras_that_may_come_up_there_do(as_, bench, wall, puts_up):
    from dromikon.desk.buttons import press

    document = DisplayDocument.model_validate({"name": "Gate wall", "cells": 2, "shows": [{"id": "gate"}]})
    save_display(as_("ines"), wall.id, document)
    bench.run()
    press(as_("opal"), "gate-help")
    bench.run()
    assert not Showing.objects.filter(display=wall.id).exists()
    Showing.objects.create(
        site_id=GARDENS, run="r", step=0, camera="jetty", display=wall.id, title="t", since=0, until=now_ms() + 60_000
    )
    assert on(of_display(Display.objects.get(pk=wall.id))) == ["", ""], "nor what was put up before it was so"


@pytest.mark.parametrize(
    ("content", "words"),
    [
        ({"name": "Wall", "cells": 1, "usual": [{"id": "gate"}, {"id": "jetty"}]}, "more cameras than it has"),
        ({"name": "!!", "cells": 1}, "letters or digits"),
        ({"name": "Wall", "cells": 3}, "1, 2, 4"),
        ({"name": "Wall", "cells": 4, "usual": [{"id": "gate"}], "shows": [{"id": "jetty"}]}, "may not come up"),
    ],
)
def test_a_display_that_makes_no_sense_is_refused_where_it_does_not(content, words):
    from dromikon.setup.registry import SORTS

    with pytest.raises(Refused) as refused:
        SORTS["displays"].read(content)
    assert words in refused.value.problems[0].message


def test_displays_name_cameras_of_their_site_and_are_called_once(as_, wall):
    for content, words in (
        ({"name": "gate WALL"}, "Another display"), ({"name": "Other", "usual": [{"id": "yard"}]}, "no camera of this site"),
        ({"name": "Other", "usual": [{"id": "jetty-line"}]}, "no camera of this site"),
    ):  # fmt: skip
        with pytest.raises(Refused, match=words):
            save_display(as_("ines"), None, DisplayDocument.model_validate(content))
    retire_display(as_("ines"), wall.id)
    assert save_display(as_("ines"), None, DisplayDocument(name="Gate wall")).slug == "gate-wall"


def test_a_display_is_found_by_its_name_by_those_of_its_site(client, wall):
    client.force_login(Person.objects.get(username="oskar"))
    page = client.get(f"/s/{GARDENS}/display/gate-wall")
    assert page.status_code == 200 and b"Gate wall" in page.content
    assert client.get("/display/gate-wall").headers["Location"] == f"/s/{GARDENS}/display/gate-wall"
    assert client.get("/display/nothing").status_code == 404
    assert client.get(f"/s/{NURSERY}/display/gate-wall").status_code == 404
    assert client.get(f"/api/v1/displays/gate-wall?site={GARDENS}").json()["cells"][0]["camera"] == "gate"


def test_somebody_finds_their_desk_as_they_left_it_and_others_do_not(as_):
    assert own_desk(as_("oskar")).cameras is None
    arrange(as_("oskar"), ["jetty", "", "gate"], 4)
    assert on(of_desk(as_("oskar"))) == ["jetty", "", "gate", ""]
    assert on(of_desk(as_("opal"))) != on(of_desk(as_("oskar")))


@pytest.mark.parametrize(
    ("cameras", "cells", "words"),
    [(["jetty"], 0, "one to 16"), (["jetty"], 17, "one to 16"), (["jetty", "gate"], 1, "no more than"), (["yard"], 1, "of this site")],
)  # fmt: skip
def test_an_arrangement_that_cannot_be_is_refused(as_, cameras, cells, words):
    with pytest.raises(Refused, match=words):
        arrange(as_("oskar"), cameras, cells)


def test_an_arrangement_is_named_taken_and_deleted(as_):
    oskar = as_("oskar")
    arrange(oskar, ["jetty", "gate"], 2)
    keep_arrangement(oskar, " Night round ")
    arrange(oskar, ["gate"], 1)
    assert take_arrangement(oskar, "Night round").arrangement == "Night round"
    assert on(of_desk(oskar)) == ["jetty", "gate"]
    Point.objects.filter(id="gate").update(retired_at=1)
    take_arrangement(oskar, "Night round")
    assert on(of_desk(oskar)) == ["jetty", ""], "what is gone leaves its place empty"
    drop_arrangement(oskar, "Night round")
    assert not arrangements(oskar).exists()
    for name in ("", "x" * 61):
        with pytest.raises(Refused, match="60"):
            keep_arrangement(oskar, name)
    with pytest.raises(Refused, match="no such"):
        take_arrangement(as_("opal"), "Night round")


def test_rules_put_cameras_up_on_a_desk_unless_it_is_turned_off_there(bench, as_):
    arrange(as_("oskar"), ["gate"], 1)
    bench.cross()
    bench.run()
    assert on(of_desk(as_("oskar"))) == ["jetty"]
    arrange(as_("oskar"), ["gate"], 1, switching=False)
    off = of_desk(as_("oskar"))
    assert on(off) == ["gate"] and [w.camera for w in off.shown.waiting] == ["jetty"]
    assert on(of_desk(as_("vera"))) != [], "a viewer may look"


def test_sounds_are_chosen_by_person_and_only_those_there_are(as_):
    assert set_sounds(as_("oskar"), {"critical": "urgent", "low": ""}).sounds == {"critical": "urgent"}
    assert own_desk(as_("opal")).sounds == {}
    for sounds in ({"critical": "bang"}, {"worst": "chime"}):
        with pytest.raises(Refused, match="Choose a sound"):
            set_sounds(as_("oskar"), sounds)


# -- what the Desk's pages and programs see ----------------------------------------------------------------------------


def test_the_api_arranges_names_takes_and_deletes(client, as_):
    client.force_login(as_("opal").person)
    at = f"?site={GARDENS}"

    def send(method, path, content=None):
        answer = client.generic(method, f"/api/v1/{path}", json.dumps(content or {}), content_type="application/json")
        return answer.status_code, answer.json()

    status, own = send("PUT", f"desk/own{at}", {"cameras": ["gate", ""], "cells": 2, "switching": False})
    assert status == 200 and (own["cells"], own["switching"]) == (2, False)
    assert [c["camera"] for c in own["screen"]["cells"]] == ["gate", ""]
    assert send("POST", f"desk/arrangements{at}", {"name": "Mine"})[1]["arrangements"] == ["Mine"]
    assert send("PUT", f"desk/own{at}", {"cameras": ["jetty"], "cells": 1})[1]["arrangement"] == ""
    assert send("PUT", f"desk/arrangements{at}", {"name": "Mine"})[1]["screen"]["cells"][0]["camera"] == "gate"
    assert send("PUT", f"desk/arrangements{at}", {"name": "None"})[0] == 422
    assert send("DELETE", f"desk/arrangements{at}&name=Mine")[1]["arrangements"] == []
    status, refused = send("PUT", f"desk/own{at}", {"cameras": ["jetty"] * 3, "cells": 2})
    assert status == 422 and refused["problems"][0]["path"] == "cameras"
    assert send("PUT", f"desk/own/sounds{at}", {"sounds": {"high": "call"}})[1]["sounds"] == {"high": "call"}


def test_the_desk_is_made_with_what_was_left_there(client, bench, as_):
    arrange(as_("oskar"), ["jetty", "gate"], 2)
    keep_arrangement(as_("oskar"), "Water")
    client.force_login(as_("oskar").person)
    page = client.get(f"/s/{GARDENS}/desk").content.decode()
    carried = json.loads(page.split('<script id="desk" type="application/json">')[1].split("</script>")[0])
    assert [c["camera"] for c in carried["screen"]["cells"]] == ["jetty", "gate"]
    assert carried["arrangements"] == ["Water"] and carried["own"]["arrangement"] == "Water"
    assert {b["id"] for b in carried["buttons"]} == {"gate-help", "lake-patrol"}


def test_whom_an_alarm_is_about_is_cut_out_of_its_own_still(client, bench, as_):
    from dromikon.desk.models import Alarm, Evidence

    bench.cross(box="0.5 0.5 0.52 0.6")
    bench.run()
    alarm = Alarm.objects.get()
    assert (alarm.box, alarm.box_camera) == ("0.5 0.5 0.52 0.6", "jetty")
    client.force_login(as_("oskar").person)
    card = client.get(f"/s/{GARDENS}/desk/alarm/{alarm.pk}").content.decode()
    assert 'class="subject"' in card and "width=1920" in card, "as large as the camera's own, from the recorder"
    zero = Evidence.objects.get(offset=0)
    Evidence.objects.filter(pk=zero.pk).update(file="x.jpg")
    card = client.get(f"/s/{GARDENS}/desk/alarm/{alarm.pk}").content.decode()
    part = card.split('data-part="')[1].split('"')[0]
    left, top, wide, tall = map(int, part.split())
    assert left < 0.5 * 1920 and left + wide > 0.52 * 1920 and top < 540 and top + tall > 0.6 * 1080
    assert f'href="/s/{GARDENS}/evidence/{zero.pk}"' in card, "once it is kept, from what is kept"


@pytest.mark.parametrize("box", ["", "nonsense", "0 0 0 0", "2 2 3 3"])
def test_a_place_that_cannot_be_is_left_out(bench, box):
    from dromikon.desk.models import Alarm

    bench.cross(box=box)
    bench.run()
    assert Alarm.objects.get().box == ""


def test_the_plan_has_alarms_that_stand_out_and_a_points_sheet_leads_on(client, bench, as_):
    bench.cross()
    bench.run()
    client.force_login(as_("oskar").person)
    now = {p["id"]: p["alarm"] for p in client.get(f"/api/v1/points/now?site={GARDENS}").json()}
    assert now["jetty-line"] == "high" and now["gate-line"] == ""
    sheet = client.get(f"/s/{GARDENS}/sources/plan/point/jetty-line").content.decode()
    for words in ("Somebody on the jetty", "What came last", "Line crossed", "Rules that listen", "Somebody on the closed jetty"):  # fmt: skip
        assert words in sheet, words
    button = client.get(f"/s/{GARDENS}/sources/plan/point/lake-patrol").content.decode()
    assert 'data-plan-press="lake-patrol"' in button and "ashore" in button
    lamp = client.get(f"/s/{GARDENS}/sources/plan/point/storm-light").content.decode()
    assert 'data-offer="hold300:storm-light"' in lamp
    client.force_login(as_("vera").person)
    assert "data-offer" not in client.get(f"/s/{GARDENS}/sources/plan/point/storm-light").content.decode()


def test_quality_leads_from_figures_to_rules(client, bench, as_):
    from dromikon.desk.models import Alarm
    from dromikon.desk.services import answer

    bench.cross()
    bench.run()
    answer(as_("oskar"), Alarm.objects.get().pk, "Geese.", outcome="false")
    client.force_login(as_("oskar").person)
    page = client.get(f"/s/{GARDENS}/desk/quality?days=7&desks=2").content.decode()
    for words in ("Somebody on the closed jetty", "100 %", "#past-title", "about 79 %"):
        assert words in page, words
    for odd in ("days=0", "days=99999", "desks=-1", "days=x"):
        assert client.get(f"/s/{GARDENS}/desk/quality?{odd}").status_code == 200, odd


@pytest.mark.parametrize(("who", "answers"), [("oskar", '"1"'), ("vera", '""')])
def test_a_page_knows_whether_its_reader_is_called_to_a_door(client, as_, who, answers):
    client.force_login(as_(who).person)
    assert f"data-answers={answers}" in client.get(f"/s/{GARDENS}/archive").content.decode()
