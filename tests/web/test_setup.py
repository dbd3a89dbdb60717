"""Set-up: every sort of thing is added, changed and retired by services, page and API alike."""

import json

import pytest
from django.core.exceptions import PermissionDenied

from dromikon.clock import now_ms
from dromikon.core.rules.parts import Ref
from dromikon.daybook.models import ActRow
from dromikon.facts import facts_of
from dromikon.intake.known import known_intake
from dromikon.people.access import Everywhere, access
from dromikon.people.models import AuditEntry, Membership, Person
from dromikon.people.roles import Role
from dromikon.refusals import Overtaken, Refused
from dromikon.setup import changes
from dromikon.setup.intakes import end_overlap, rotate_secret
from dromikon.setup.people import MemberDocument, save_member
from dromikon.setup.registry import SORTS
from dromikon.setup.table import points_as_table, take_points
from dromikon.sites.models import Area, Site
from dromikon.sources.models import Intake, Point
from tests.conftest import GARDENS, NURSERY

OF_SITE = [name for name, sort in SORTS.items() if not sort.whole]
OF_ALL = [name for name, sort in SORTS.items() if sort.whole]
NEW = {
    "areas": {"name": "Fern House", "within": {"id": "palm-house"}, "order": 3},
    "points": {"name": "Fern door", "kind": "door", "tags": ["fern"], "seen_by": [{"id": "gate"}]},
    "recorders": {"name": "Second", "address": "http://192.0.2.20", "token": "t"},
    "intakes": {"name": "Bell wire"},
    "decoders": {
        "name": "Bells",
        "intake": {"id": "kiosk"},
        "kind": "call.rung",
        "point": {"id": "wicket"},
        "when": [{"path": "$.bell", "how": "there"}],
    },
    "people": {"username": "fern", "first_name": "Fern", "role": "viewer"},
    "groups": {"name": "Night", "roles": ["operator"], "persons": []},
    "destinations": {"name": "Ops room", "sort": "chat", "address": "https://chat.example/hook/1"},
    "counters": {"name": "Carts"},
    "hours": {"name": "Nights", "seasons": [{"mon": "22:00-06:00"}], "exceptions": [{"date": "2026-12-24"}]},
    "holds": {"reason": "Case 7", "first": "2026-11-01", "last": "2026-11-02"},
    "sites": {"name": "Third", "zone": "Europe/Oslo", "customer": {"id": "quillmere"}},
    "customers": {"name": "Somebody else"},
    "everybody": {"username": "fern", "roles": [{"site": {"id": NURSERY}, "role": "viewer"}]},
}
ENDS, BEGINS = ("retired", "removed", "deleted", "lifted"), ("added", "made")


@pytest.fixture
def ada(as_):
    return as_("ada")


def who_for(sort, ada):
    return Everywhere(ada.person) if sort.whole else ada


@pytest.mark.parametrize("name", sorted(NEW))
def test_a_thing_is_added_changed_and_retired_and_each_is_in_the_trail(name, ada):
    sort = SORTS[name]
    who = who_for(sort, ada)
    before = {r.id for r in sort.rows(who)}
    made = changes.save(sort, who, None, NEW[name])
    row = sort.row(who, made.id)
    assert made.id not in before and row.version == sort.row(who, made.id).version
    same = changes.save(sort, who, made.id, row.document.model_dump(mode="json"), row.version)
    assert same.id == made.id and sort.row(who, made.id).document == row.document
    if name == "everybody":
        return
    changes.retire(sort, who, made.id, anyway=True)
    assert {r.id for r in sort.rows(who)} == before
    verbs = list(AuditEntry.objects.order_by("-id").values_list("verb", flat=True)[:4])
    assert any(v.startswith(ENDS) for v in verbs) and any(v.startswith(BEGINS) for v in verbs)


@pytest.mark.parametrize("name", OF_SITE)
def test_every_page_of_a_site_shows_its_things_and_their_form(client, ada, name):
    client.force_login(ada.person)
    page = client.get(f"/s/{GARDENS}/setup/{name}").content.decode()
    carried = json.loads(page.split('<script id="setup" type="application/json">')[1].split("</script>")[0])
    assert carried["sort"] == name and carried["forms"]["parts"][carried["forms"]["root"]]["fields"]
    assert set(carried["things"]) == {r.id for r in SORTS[name].rows(ada)}


@pytest.mark.parametrize("name", OF_ALL)
def test_the_installations_pages_are_for_its_administrators(client, ada, garden, name):
    client.force_login(ada.person)
    assert client.get(f"/setup/{name}").status_code == 200 and client.get("/setup").status_code == 302
    client.force_login(Person.objects.get(username="ines"))
    assert client.get(f"/setup/{name}").status_code == 403
    answer = client.get(f"/api/v1/setup/{name}")
    assert answer.status_code == 403 and "administrator of the installation" in answer.json()["error"]


@pytest.mark.parametrize("name", OF_SITE)
def test_an_operator_sets_nothing_up(as_, name):
    with pytest.raises(PermissionDenied):
        changes.save(SORTS[name], as_("oskar"), None if not SORTS[name].single else GARDENS, {})


def test_what_is_wrong_stands_at_its_field(client, ada):
    client.force_login(ada.person)

    def problems(sort, document, site=GARDENS):
        body = json.dumps({"document": document})
        answer = client.post(f"/api/v1/setup/{sort}?site={site}", body, "application/json")
        assert answer.status_code == 422
        return {p["path"]: p["message"] for p in answer.json()["problems"]}

    assert "such as Europe/London" in problems("sites", {**NEW["sites"], "zone": "Mars/North"})["zone"]
    assert "There is en-gb" in problems("sites", {**NEW["sites"], "language": "tlh"})["language"]
    assert problems("areas", {"name": ""}).keys() == {"name"}
    assert problems("areas", {"name": "A", "within": {"id": "loading"}}).keys() == {"within"}, "of another site"
    assert problems("recorders", {"name": "R", "address": "ftp://x"}).keys() == {"address"}
    assert "allowed" in problems("recorders", {"name": "R", "address": "http://10.9.9.9"})["address"]
    assert problems("people", {"username": "a b"}).keys() == {"username"}
    assert "already" in problems("everybody", {"username": "Oskar"})["username"]
    assert problems("points", {"name": "P", "kind": "camera", "seen_by": [], "recorder": {"id": "no"}}).keys() == {
        "recorder"
    }
    assert "span" in problems("hours", {"name": "H", "seasons": [{"mon": "9-17"}]})["seasons.0.mon"]
    assert "first" in problems("holds", {"reason": "x", "first": "2026-02-02", "last": "2026-02-01"})[""]
    assert problems("points", {"name": "P", "kind": "helicopter"}).keys() == {"kind"}


def test_an_area_does_not_lie_within_itself(ada):
    sort = SORTS["areas"]
    inner = changes.save(sort, ada, None, NEW["areas"]).id
    with pytest.raises(Refused) as refused:
        changes.save(sort, ada, "palm-house", {"name": "Palm House", "within": {"id": inner}})
    assert refused.value.problems[0].path == "within"
    assert [r.depth for r in sort.rows(ada) if r.id == inner] == [1]


def test_a_retired_area_leaves_what_stood_in_it_to_the_area_around(ada):
    inner = changes.save(SORTS["areas"], ada, None, NEW["areas"]).id
    door = changes.save(SORTS["points"], ada, None, {**NEW["points"], "area": {"id": inner}}).id
    changes.retire(SORTS["areas"], ada, inner)
    assert Point.objects.get(pk=door).area_id == "palm-house"


def test_the_demos_hours_are_written_as_people_write_them_and_come_back_the_same(ada):
    from dromikon.hours.models import Hours

    for row in SORTS["hours"].rows(ada):
        before = Hours.objects.get(pk=row.id).document
        changes.save(SORTS["hours"], ada, row.id, row.document.model_dump(mode="json"))
        assert Hours.objects.get(pk=row.id).document == before
    assert "09:00-18:00" in SORTS["hours"].row(ada, "garden-hours").document.seasons[1].mon


def test_somebody_elses_change_is_not_overwritten(ada):
    row = SORTS["counters"].row(ada, next(r.id for r in SORTS["counters"].rows(ada)))
    changes.save(SORTS["counters"], ada, row.id, {"name": "Renamed"}, row.version)
    with pytest.raises(Overtaken):
        changes.save(SORTS["counters"], ada, row.id, {"name": "Lost"}, row.version)
    assert SORTS["counters"].row(ada, row.id).name == "Renamed"


def test_what_rules_name_is_taken_away_only_when_that_is_said_and_history_keeps_its_name(client, ada, bench):
    bench.cross()
    bench.run()
    client.force_login(ada.person)
    address = f"/api/v1/setup/points/jetty-line?site={GARDENS}"
    refused = client.delete(address)
    assert refused.status_code == 409 and "Somebody on the closed jetty" in refused.json()["error"]
    assert client.delete(f"{address}&anyway=true").status_code == 204
    assert "jetty-line" not in facts_of(Site.objects.get(pk=GARDENS)).point_by_id
    assert "Jetty line" in client.get(f"/s/{GARDENS}/daybook").content.decode()
    bench.run()
    bench.cross()
    bench.run()
    assert client.get("/api/v1/events?site=" + GARDENS).json()["events"][0]["point"] == "jetty-line"
    again = changes.save(SORTS["points"], ada, None, {"name": "Jetty line", "kind": "detector", "token": "jetty-line"})
    assert again.id != "jetty-line"


def test_every_change_is_told_to_the_engine_once(ada):
    before = ActRow.objects.filter(type="facts").count()
    changes.save(SORTS["points"], ada, None, NEW["points"])
    assert ActRow.objects.filter(type="facts").count() == before + 1


def test_sightlines_are_set_from_either_side(ada):
    points = SORTS["points"]
    door = changes.save(points, ada, None, NEW["points"]).id
    assert facts_of(ada.site).sightlines[door] == ("gate",)
    jetty = points.row(ada, "jetty").document
    seen = (*jetty.looks_at, Ref(id=door))
    changes.save(points, ada, "jetty", jetty.model_copy(update={"looks_at": seen}).model_dump(mode="json"))
    assert facts_of(ada.site).sightlines[door] == ("gate", "jetty"), "a camera that comes to look comes last"
    changes.save(points, ada, "jetty", jetty.model_dump(mode="json"))
    assert facts_of(ada.site).sightlines[door] == ("gate",)


# -- intakes -----------------------------------------------------------------------------------------------------------


def test_a_token_is_shown_once_and_the_one_before_counts_for_a_day(ada, monkeypatch):
    first = changes.save(SORTS["intakes"], ada, None, NEW["intakes"])
    count = lambda: len(known_intake(first.id).settings.secrets)
    assert first.shown.startswith("dri_") and count() == 1
    second = rotate_secret(ada, first.id)
    row = SORTS["intakes"].row(ada, first.id)
    assert second != first.shown and count() == 2 and "end-overlap" in row.verbs
    end_overlap(ada, first.id)
    assert count() == 1
    rotate_secret(ada, first.id)
    monkeypatch.setattr("dromikon.intake.known.now_ms", lambda: now_ms() + 25 * 3_600_000)
    assert count() == 1, "after a day the old one is gone by itself"
    kept = Intake.objects.get(pk=first.id)
    assert first.shown not in (kept.token_digest, kept.before_digest)


# -- people ------------------------------------------------------------------------------------------------------------


def test_a_new_person_gets_a_password_that_they_must_change(client, ada):
    made = changes.save(SORTS["people"], ada, None, NEW["people"])
    assert client.post("/login", {"username": "fern", "password": made.shown}).status_code == 302
    assert client.get(f"/s/{GARDENS}/desk").headers["location"] == "/password"
    assert client.get(f"/api/v1/alarms?site={GARDENS}").status_code == 403
    wrong = client.post("/password", {"old": made.shown, "password": "short", "again": "short"})
    assert wrong.status_code == 422 and b"10 characters" in wrong.content
    own = {"old": made.shown, "password": "a long one of mine", "again": "a long one of mine"}
    assert client.post("/password", own).status_code == 302
    assert client.get(f"/s/{GARDENS}/desk").status_code == 200


def test_log_ins_are_listed_and_ended(client, ada):
    client.post("/login", {"username": "oskar", "password": "quillmere-demo"})
    oskar = Person.objects.get(username="oskar")
    row = SORTS["people"].row(ada, str(oskar.pk))
    assert "127.0.0.1" in row.about[4]
    changes.do(SORTS["people"], ada, str(oskar.pk), "log-out")
    assert client.get(f"/s/{GARDENS}/desk").status_code == 302
    assert SORTS["people"].row(ada, str(oskar.pk)).about[4] == ""


def test_a_sites_administrator_has_no_power_over_people_of_other_sites(ada):
    """Else whoever administers one site could take over another by somebody's password."""
    local = Person.objects.create_user("local")
    Membership.objects.create(person=local, site_id=GARDENS, role=Role.ADMINISTRATOR)
    here = access(local, GARDENS)
    ines, opal = (Person.objects.get(username=n) for n in ("ines", "opal"))
    document = SORTS["people"].row(here, str(ines.pk)).document.model_copy(update={"first_name": "Mallory"})
    save_member(here, str(ines.pk), MemberDocument(**{**document.model_dump(), "role": "viewer"}))
    ines.refresh_from_db()
    assert ines.first_name == "Ines" and Membership.objects.get(person=ines, site_id=GARDENS).role == "viewer"
    with pytest.raises(Refused):
        changes.do(SORTS["people"], here, str(ines.pk), "password")
    with pytest.raises(Refused):
        changes.do(SORTS["people"], here, str(ada.person.pk), "password")
    assert changes.do(SORTS["people"], here, str(opal.pk), "password").shown


def test_nobody_locks_everybody_out(ada):
    everywhere, me = Everywhere(ada.person), str(ada.person.pk)
    for attempt in (
        lambda: changes.retire(SORTS["people"], ada, me),
        lambda: changes.retire(SORTS["everybody"], everywhere, me),
        lambda: changes.save(SORTS["everybody"], everywhere, me, {"username": "ada", "administers": False}),
    ):
        with pytest.raises(Refused):
            attempt()


def test_a_retired_person_is_out_at_once_and_the_trail_keeps_their_name(client, ada):
    client.post("/login", {"username": "opal", "password": "quillmere-demo"})
    opal = Person.objects.get(username="opal")
    changes.retire(SORTS["everybody"], Everywhere(ada.person), str(opal.pk))
    assert client.get(f"/s/{GARDENS}/desk").status_code == 302
    assert client.post("/login", {"username": "opal", "password": "quillmere-demo"}).status_code == 200
    assert "Opal Reywood" not in [m.name for m in facts_of(ada.site).members]
    row = SORTS["everybody"].row(Everywhere(ada.person), str(opal.pk))
    assert row.about[0] == "retired" and row.verbs == ("erase",)
    back = changes.save(SORTS["everybody"], Everywhere(ada.person), row.id, row.document.model_dump(mode="json"))
    assert back.shown and client.post("/login", {"username": "opal", "password": back.shown}).status_code == 302


def test_who_was_retired_comes_back_as_the_form_says_and_who_was_erased_never(ada):
    opal, everywhere = Person.objects.get(username="opal"), Everywhere(ada.person)
    changes.retire(SORTS["everybody"], everywhere, str(opal.pk))
    form = {"username": "opal", "first_name": "Opal", "last_name": "Newname", "role": "operator"}
    assert changes.save(SORTS["people"], ada, None, form).shown
    opal.refresh_from_db()
    assert opal.is_active and opal.last_name == "Newname" and not opal.is_superuser
    changes.do(SORTS["everybody"], everywhere, str(opal.pk), "erase")
    with pytest.raises(Refused):
        changes.save(SORTS["people"], ada, None, {**form, "username": f"erased-{opal.pk}"})


# -- tables ------------------------------------------------------------------------------------------------------------


def test_two_thousand_points_come_in_and_thirty_faulty_lines_are_each_named(ada):
    lines = ["name,kind,area,tags,seen_by"]
    for i in range(2000):
        if i % 67 == 5:
            lines.append(f"Door {i},dor,Palm House,,")
        else:
            lines.append(f'Door {i},door,Palm House,"fern; new",Visitor gate')
    faulty = sum("dor," in line for line in lines)
    acts = ActRow.objects.count()
    taken = take_points(ada, "\n".join(lines))
    assert (taken.added, len(taken.problems)) == (2000 - faulty, faulty) and faulty == 30
    assert [p.path for p in taken.problems[:2]] == ["7", "74"] and "kind" in taken.problems[0].message
    assert ActRow.objects.count() == acts + 1
    door = Point.objects.get(name="Door 0")
    assert (door.area_id, door.tags, [s.camera_id for s in door.sightlines.all()]) == (
        "palm-house",
        ["fern", "new"],
        ["gate"],
    )


def test_a_table_that_went_out_comes_in_unchanged(ada):
    text = points_as_table(ada)
    taken = take_points(ada, text)
    assert (taken.added, taken.changed, taken.problems) == (0, 0, []) and taken.same == len(text.splitlines()) - 1
    changed = take_points(ada, text.replace("Wind at the boathouse", "Wind on the lake"))
    assert (changed.added, changed.changed) == (0, 1) and Point.objects.get(pk="wind").name == "Wind on the lake"


@pytest.mark.parametrize(
    ("text", "said"),
    [("", "first line"), ("a,b\n1,2", "name and kind"), ("name,kind,colour\nA,door,red", "no column colour")],
)
def test_what_is_no_table_of_points_is_refused_in_words(ada, text, said):
    with pytest.raises(Refused) as refused:
        take_points(ada, text)
    assert said in refused.value.problems[0].message


def test_a_spreadsheet_takes_no_name_for_a_formula(ada):
    changes.save(SORTS["points"], ada, None, {"name": '=HYPERLINK("x")', "kind": "input"})
    text = points_as_table(ada)
    assert "'=HYPERLINK" in text and take_points(ada, text).changed == 0


def test_a_retired_site_is_nobodys_any_more(ada):
    changes.retire(SORTS["sites"], Everywhere(ada.person), NURSERY, anyway=True)
    from django.http import Http404

    with pytest.raises(Http404):
        access(ada.person, NURSERY)
    assert not Area.objects.filter(site__retired_at=None, site_id=NURSERY).exists()
