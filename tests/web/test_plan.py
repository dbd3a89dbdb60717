"""The site plan: drawings are taken carefully, points stand where they are put, cameras that see them are suggested."""

import struct
import zlib

import pytest

from dromikon.demo.load import PLANS
from dromikon.people.models import AuditEntry, Person
from dromikon.setup.points import Points
from dromikon.sources.drawings import NoDrawing, read_drawing
from dromikon.sources.models import Device, Point, Sightline, SitePlan
from dromikon.sources.plan import suggestions
from tests.conftest import GARDENS, NURSERY

pytestmark = pytest.mark.django_db


def svg(inside="", head='viewBox="0 0 200 100"'):
    return f'<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" {head}>{inside}</svg>'.encode()


def png(wide, tall):
    header = struct.pack(">IIBBBBB", wide, tall, 8, 2, 0, 0, 0)
    body = b"IHDR" + header
    return b"\x89PNG\r\n\x1a\n" + struct.pack(">I", 13) + body + struct.pack(">I", zlib.crc32(body)) + b"rest"


@pytest.mark.parametrize(
    ("data", "tall"),
    [
        (svg(), 0.5), (svg(head='width="40mm" height="60mm"'), 1.5), (png(400, 100), 0.25),
        (svg('<use href="#a"/><image href="data:image/png;base64,AA"/><rect style="fill:url(#p)"/>'), 0.5),
    ],
)  # fmt: skip
def test_a_drawing_has_its_proportions(data, tall):
    assert read_drawing(data).tall == tall


@pytest.mark.parametrize(
    "data",
    [
        b"GIF89a", b"", svg(head=""), svg("<script>alert(1)</script>"), svg('<rect onclick="x()"/>'), png(0, 10),
        svg('<image href="http://192.0.2.1/x.png"/>'), svg('<a xlink:href="javascript:alert(1)"><rect/></a>'),
        svg("<style>@import url(http://192.0.2.1/x.css);</style>"), svg('<rect style="fill:url(http://192.0.2.1/#x)"/>'),
        svg("<foreignObject/>"), b"\x89PNG\r\n\x1a\nshort",
        b'<!DOCTYPE svg [<!ENTITY a "aaaa">]>' + svg("<text>&a;</text>"),
    ],
)  # fmt: skip
def test_what_is_no_drawing_or_more_than_one_is_refused(data):
    with pytest.raises(NoDrawing):
        read_drawing(data)


def test_the_demos_plans_are_drawings():
    drawn = list(PLANS.glob("*.svg"))
    assert len(drawn) == 2
    for path in drawn:
        assert read_drawing(path.read_bytes()).media == "image/svg+xml"


@pytest.fixture
def page(client, as_):
    client.force_login(as_("ines").person)
    return client


def api(path, **query):
    return f"/api/v1/{path}?" + "&".join(f"{k}={v}" for k, v in {"site": GARDENS, **query}.items())


def load(page, data=None, wide=100):
    return page.put(api("plan", wide=wide, name="ours.svg"), data or svg(), "application/octet-stream")


def place(page, point, **content):
    return page.put(api(f"points/{point}/place"), content, "application/json")


def test_another_drawing_is_loaded_and_points_stay(page):
    assert load(page).json() == {"name": "ours.svg", "media": "image/svg+xml", "wide": 100.0, "tall": 50.0}
    assert Point.objects.get(pk="jetty").x == 86 and AuditEntry.objects.last().verb == "loaded plan"
    drawing = page.get(api("plan/drawing"))
    assert drawing.content == svg() and "sandbox" in drawing["Content-Security-Policy"]
    refused = load(page, b"no drawing")
    assert refused.status_code == 422 and refused.json()["problems"][0]["path"] == "file"
    assert load(page, wide=0.1).json()["problems"][0]["path"] == "wide"


def test_another_scale_moves_what_stands_on_it_along(page):
    assert page.put(api("plan/scale"), {"wide": 840}, "application/json").status_code == 204
    plan, jetty = SitePlan.objects.get(site=GARDENS), Point.objects.get(pk="jetty")
    assert (plan.wide, plan.tall, jetty.x, jetty.y) == (840, 600, 172, 264)


def test_a_point_is_put_somewhere_aimed_and_taken_off(page):
    assert place(page, "gate", place=[10, 20], looks=-90, view=50).status_code == 204
    gate = Point.objects.get(pk="gate")
    assert (gate.x, gate.y, gate.looks, gate.view, gate.reach) == (10, 20, 270, 50, 42), "what is left out stays"
    assert place(page, "gate", place=[10, 9_999]).json()["problems"][0]["path"] == "place"
    assert place(page, "gate", place=[10, 20], view=400).json()["problems"][0]["path"] == "view"
    assert place(page, "wind", place=None).status_code == 204 and Point.objects.get(pk="wind").x is None
    assert place(page, "yard", place=[1, 1]).status_code == 404, "of another site"


def test_who_may_not_edit_sources_sees_the_plan_and_changes_nothing(client, as_):
    client.force_login(as_("oskar").person)
    text = client.get(f"/s/{GARDENS}/sources/plan").content.decode()
    assert "Vault door" in text and "Place points" not in text
    assert place(client, "gate", place=[1, 1]).status_code == 403
    assert client.put(api("points/wicket/sightlines"), {"lines": []}, "application/json").status_code == 403
    client.force_login(Person.objects.get(username="vera"))
    assert client.get(f"/s/{NURSERY}/sources/plan").status_code in (403, 404), "and nobody another site's"


def test_cameras_that_see_a_point_are_suggested_until_they_are_named(page, as_):
    place(page, "wicket", place=[86, 110])
    known = lambda: list(as_("ines").site.points.prefetch_related("sightlines"))
    assert suggestions(known())["wicket"] == ["jetty"]
    sheet = page.get(f"/s/{GARDENS}/sources/plan/point/wicket").content.decode()
    assert 'data-add="jetty"' in sheet
    lines = {"lines": [{"camera": "gate"}, {"camera": "jetty", "preset": "2"}]}
    assert page.put(api("points/wicket/sightlines"), lines, "application/json").status_code == 204
    assert list(Sightline.objects.filter(point="wicket").values_list("camera_id", "preset")) == [
        ("gate", ""),
        ("jetty", "2"),
    ]
    assert "wicket" not in suggestions(known())


def test_the_form_of_a_point_keeps_the_preset_that_the_plan_set(page, as_):
    page.put(api("points/wicket/sightlines"), {"lines": [{"camera": "jetty", "preset": "2"}]}, "application/json")
    row = next(r for r in Points().rows(as_("ines")) if r.id == "wicket")
    Points().save(as_("ines"), "wicket", row.document)
    assert Sightline.objects.get(point="wicket").preset == "2"


@pytest.mark.parametrize(
    "lines", [[{"camera": "jetty"}, {"camera": "jetty"}], [{"camera": "yard"}], [{"camera": "wicket"}]]
)
def test_only_cameras_of_the_site_look_and_each_once(page, lines):
    assert page.put(api("points/wicket/sightlines"), {"lines": lines}, "application/json").status_code == 422


def test_a_site_without_a_plan_says_how_to_begin(page):
    SitePlan.objects.all().delete()
    assert "No plan yet" in page.get(f"/s/{GARDENS}/sources/plan").content.decode()
    assert place(page, "gate", place=[1, 1]).status_code == 422


def test_how_the_points_are_comes_with_the_plan(bench, page):
    bench.http(kind="door.open", point="palm-door", phase="begin")
    bench.run()
    now = {p["id"]: p for p in page.get(api("points/now")).json()}
    assert now["palm-door"] == {"id": "palm-door", "now": "is open", "on": True, "lost": False, "alarm": ""}
    Device.objects.filter(pk="cam-jetty").update(state="lost")
    assert {p["id"] for p in page.get(api("points/now")).json() if p["lost"]} == {
        "jetty",
        "jetty-line",
        "jetty-speaker",
        "storm-light",
    }
    assert '"now": "is open", "state": "on"' in page.get(f"/s/{GARDENS}/sources/plan").content.decode()
