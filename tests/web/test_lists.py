"""Lists: kept by people and from tables, by version, for those who may."""

import asyncio
import json

import pytest
from asgiref.sync import async_to_sync
from django.core.exceptions import PermissionDenied
from starlette.applications import Starlette
from starlette.responses import PlainTextResponse
from starlette.routing import Route

from dromikon.authoring.replay import entries
from dromikon.authoring.services import save, switch
from dromikon.clock import now_ms
from dromikon.core.rules.rehearse import Stage, rehearse
from dromikon.daybook.models import RunRow
from dromikon.facts import entries_of, facts_from_json, facts_of, facts_to_json
from dromikon.journaled import chain_before
from dromikon.lists import keeper
from dromikon.lists.models import Content, WatchList
from dromikon.lists.services import import_table, lists_of, make_list, set_entries
from dromikon.people.models import AuditEntry
from dromikon.people.tokens import make_token
from dromikon.refusals import Refused
from tests.conftest import GARDENS

pytestmark = pytest.mark.django_db


@pytest.fixture
def plates(as_) -> WatchList:
    return WatchList.objects.get(id="staff-plates")


def values(known):
    known.refresh_from_db()
    return [e.value for e in entries_of(known.content_id)]


def test_a_table_replaces_all_or_nothing(as_, plates):
    import_table(as_("dara"), plates, b"value,note\nAB12 CDE,new\n")
    assert values(plates) == ["AB12 CDE"]
    with pytest.raises(Refused) as refused:
        import_table(as_("dara"), plates, b"value\nXY34 ZZZ\nxy34zzz\n")
    assert refused.value.problems[0].path == "line 3, value" and values(plates) == ["AB12 CDE"]
    entry = AuditEntry.objects.filter(verb="changed list").last()
    assert entry.detail == {"name": "staff plates", "entries": 1}


def test_entries_with_faults_say_where(as_, plates):
    with pytest.raises(Refused) as refused:
        set_entries(as_("ines"), plates, [{"value": "A"}, {"value": "", "valid_from": "soon"}])
    assert {p.path for p in refused.value.problems} == {"entries.1.value", "entries.1.valid_from"}


def test_operators_may_not_change_lists(as_, plates):
    with pytest.raises(PermissionDenied):
        set_entries(as_("oskar"), plates, [])


def test_a_content_is_kept_once_and_the_journal_names_it_by_digest(as_, plates, bench):
    before = Content.objects.count()
    set_entries(as_("ines"), plates, [{"value": "A1"}])
    set_entries(as_("ines"), plates, [])
    set_entries(as_("ines"), plates, [{"value": "A1"}])
    assert Content.objects.count() == before + 1, "that of nothing is there since the list was made"
    bench.run()
    body = chain_before(GARDENS).body
    named = next(w for w in body["lists"] if w["id"] == "staff-plates")
    assert "entries" not in named and len(json.dumps(body)) < 100_000
    assert facts_from_json(body).list_by_id["staff-plates"].entries[0].value == "A1"
    facts = facts_of(plates.site)
    assert facts_from_json(facts_to_json(facts)) == facts


def test_a_rehearsal_compares_with_the_list_as_it_was(as_, bench, plates):
    cause = {"cause": "event", "kind": "plate.read", "phase": "pulse", "where": {"points": [{"id": "service-plates"}]}}
    known = {"test": "list", "field": "plate", "among": {"id": "staff-plates"}, "how": "tolerant", "errors": 1}
    rule = save(
        as_("ines"),
        {"name": "Known", "cause": cause, "provided": known, "response": [{"do": "line", "text": "{listed}"}]},
    )
    switch(as_("ines"), rule, True)
    bench.run()
    for _ in range(2):
        bench.http(kind="plate.read", point="service-plates", phase="pulse", fields={"plate": "QM17FKO"})
        bench.run()
        set_entries(as_("ines"), plates, [])
        bench.run()
    assert RunRow.objects.filter(rule=rule.id).count() == 1
    (result,) = rehearse(
        entries(GARDENS, 0, now_ms() + 1, {"plate.read"}, {"service-plates"}),
        [Stage(None, 0, now_ms() + 1, only=rule.id)],
    )
    assert [r.ref for r in result.runs] == list(RunRow.objects.filter(rule=rule.id).values_list("ref", flat=True))


# -- kept current ----------------------------------------------------------------------------------------------------------


@pytest.mark.django_db(transaction=True)
def test_a_list_is_fetched_from_an_address_and_keeps_what_it_had_when_that_fails(as_, serve, plates):
    answers = [("value\nAA11 AAA\n", 200), ("oops", 500), ("valu\nx\n", 200)]

    async def table(request):
        text, status = answers.pop(0)
        return PlainTextResponse(text, status)

    plates.source = serve(Starlette(routes=[Route("/staff.csv", table)])) + "/staff.csv"
    plates.save()
    assert asyncio.run(keeper.refresh(plates))
    assert values(plates) == ["AA11 AAA"] and plates.good_at and not plates.trouble
    for words in ("HTTP 500", "there is no column"):
        assert not asyncio.run(keeper.refresh(plates))
        assert values(plates) == ["AA11 AAA"] and words in plates.trouble


@pytest.mark.django_db(transaction=True)
def test_a_list_is_read_from_the_folder_and_from_nowhere_else(as_, plates, tmp_path, monkeypatch):
    monkeypatch.setattr(keeper, "folder", lambda: tmp_path)
    (tmp_path / "staff.csv").write_text("value\nBB22 BBB\n")
    plates.source = "staff.csv"
    plates.save()
    assert asyncio.run(keeper.refresh(plates)) and values(plates) == ["BB22 BBB"]
    (tmp_path / "link.csv").symlink_to("/etc/passwd")
    for source, words in (("gone.csv", "cannot be read"), ("link.csv", "link")):
        plates.source = source
        assert not asyncio.run(keeper.refresh(plates))
        plates.refresh_from_db()
        assert words in plates.trouble


@pytest.mark.django_db(transaction=True)
def test_whatever_fails_while_refreshing_ends_there(as_, plates, monkeypatch, caplog):
    plates.source = "staff.csv"
    plates.save()

    async def fails(known):
        raise WatchList.DoesNotExist("deleted meanwhile")

    monkeypatch.setattr(keeper, "refresh", fails)
    asyncio.run(keeper.look_after())
    assert "could not be refreshed" in caplog.text


@pytest.mark.parametrize("source", ["https://elsewhere.invalid/x.csv", "../secret.csv", "a/b.csv", ".hidden"])
def test_sources_that_may_not_be_used_are_refused(as_, source):
    with pytest.raises(Refused) as refused:
        make_list(as_("ines"), "x", "plates", source)
    assert refused.value.problems[0].path == "source"


def test_a_list_whose_source_is_silent_for_long_is_stale(as_, plates):
    now = now_ms()
    plates.source, plates.every, plates.good_at = "staff.csv", 60, now - 200_000
    plates.save()
    assert next(w for w in lists_of(plates.site) if w["id"] == plates.id)["stale"]
    assert keeper.due(now)[0].id == plates.id
    plates.good_at = plates.tried_at = now
    plates.save()
    assert not next(w for w in lists_of(plates.site) if w["id"] == plates.id)["stale"] and not keeper.due(now)


# -- over the API and the page ----------------------------------------------------------------------------------------------


def test_over_the_api_from_empty_to_table_and_back(as_, client):
    headers = {"Authorization": f"Bearer {make_token(as_('ines').person, 't')[1]}"}
    at = f"?site={GARDENS}"

    def call(method, path, body="", kind="application/json"):
        return client.generic(method, f"/api/v1/lists{path}{at}", body, content_type=kind, headers=headers)

    made = call("POST", "", json.dumps({"name": "Guests", "sort": "plates"})).json()
    assert call("PUT", f"/{made['id']}/table", "value,label\nAB12,Ann\n", "text/csv").json()["count"] == 1
    assert call("GET", f"/{made['id']}").json()["entries"] == [{"value": "AB12", "label": "Ann"}]
    assert call("GET", f"/{made['id']}/table").content.decode().startswith("value,label,note")
    bad = call("PUT", f"/{made['id']}/entries", json.dumps({"entries": [{"value": "x", "colour": 1}]}))
    assert bad.status_code == 422 and bad.json()["problems"][0]["path"] == "entries.0.colour"
    assert call("DELETE", f"/{made['id']}").status_code == 204
    viewer = {"Authorization": f"Bearer {make_token(as_('vera').person, 't')[1]}"}
    assert client.get(f"/api/v1/lists/garden-staff{at}", headers=viewer).status_code == 403


def test_the_page_shows_entries_only_to_those_who_may_edit(as_, client):
    for user, readable in (("ines", True), ("dara", True), ("oskar", False), ("vera", False)):
        client.force_login(as_(user).person)
        page = client.get(f"/s/{GARDENS}/lists/garden-staff").content.decode()
        assert "garden staff" in page and ("data-table-file" in page) is readable
        assert "Clio Fenwright" not in page, "entries are asked for, and only by those who may"


@pytest.mark.django_db(transaction=True)
def test_a_list_with_a_bad_address_holds_up_no_other_and_is_not_asked_again_at_once(garden, monkeypatch):
    from dromikon.lists import keeper

    first, broken, last = WatchList.objects.order_by("id")[:3]
    folder = keeper.folder()
    folder.mkdir(parents=True, exist_ok=True)
    (folder / "good.csv").write_text("value\nAB12CDE\n")
    for known, source in ((first, "http://[::1/x"), (broken, "breaks.csv"), (last, "good.csv")):
        WatchList.objects.filter(pk=known.pk).update(source=source, every=3600, tried_at=None)
    real, asked = keeper._read, []

    def fragile(path):
        asked.append(path.name)
        if path.name == "breaks.csv":
            raise RuntimeError("a fault of ours")
        return real(path)

    monkeypatch.setattr(keeper, "_read", fragile)
    for _ in range(2):
        async_to_sync(keeper.look_after)()
    troubles = dict(WatchList.objects.values_list("pk", "trouble"))
    assert troubles[first.pk] and "log says why" in troubles[broken.pk] and not troubles[last.pk]
    assert asked == ["breaks.csv", "good.csv"], "each once"
    assert values(last) == ["AB12CDE"]
