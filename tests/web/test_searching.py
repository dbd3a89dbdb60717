"""Many devices are one operation, with an outcome for each."""

import pytest

from dromikon.clock import now_ms
from dromikon.people.models import AuditEntry
from dromikon.refusals import Refused
from dromikon.sources import searching
from dromikon.sources.models import Device, Search
from dromikon.sources.searching import add_found, begin_search, run_search
from dromikon.standins.run import PASSWORD, USER
from dromikon.wire.onvif.discovery import Found
from tests.conftest import GARDENS

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.timeless]


def searched(access, addresses="", network=False, password=PASSWORD):
    search = begin_search(access, addresses, network, USER, password, start=run_search)
    search.refresh_from_db()
    return search


def states(search):
    return {o["address"]: o["state"] for o in search.outcomes}


def service(standins, name):
    return f"{standins[name]}/onvif/device_service"


def test_each_address_has_an_outcome_and_one_that_is_silent_holds_up_nobody(as_, standins, monkeypatch):
    monkeypatch.setattr("dromikon.sources.identify.PATIENCE", 1.0)
    gate, jetty = service(standins, "gate"), service(standins, "jetty")
    search = searched(as_("ines"), f"{gate}, {jetty}, 192.0.2.1, 198.51.100.7")
    assert search.ended_at and states(search) == {
        gate: "found", jetty: "found", "http://192.0.2.1/onvif/device_service": "silent",
        "http://198.51.100.7/onvif/device_service": "not_allowed",
    }  # fmt: skip
    found = next(o for o in search.outcomes if o["address"] == gate)
    assert found["model"] and found["serial"] and found["name"]
    assert found["channels"] == "1" and int(found["events"]) >= 1, "how much it has is told, too"
    assert PASSWORD not in str(search.outcomes) and search.password == PASSWORD


def test_a_wrong_password_is_told_for_each(as_, standins):
    gate = service(standins, "gate")
    assert states(searched(as_("ines"), gate, password="wrong")) == {gate: "refused"}


def test_the_network_is_asked_and_what_is_here_already_is_known_by_its_endpoint(as_, standins, monkeypatch):
    gate, jetty = service(standins, "gate"), service(standins, "jetty")

    async def network():
        return [Found("urn:uuid:gate", (gate,), "Gate"), Found("urn:uuid:jetty", (jetty,), "Jetty")]

    monkeypatch.setattr(searching, "discover", network)
    Device.objects.filter(pk="cam-jetty").update(endpoint="urn:uuid:jetty")
    search = searched(as_("ines"), network=True)
    assert states(search) == {gate: "found", jetty: "here"}
    assert {o["name"] for o in search.outcomes} == {"Gate", "Jetty camera"}


def test_what_is_chosen_is_added_and_a_second_time_it_is_here(as_, standins):
    gate, jetty = service(standins, "gate"), service(standins, "jetty")
    search = searched(as_("ines"), f"{gate} {jetty}")
    before = Device.objects.count()
    done = add_found(as_("ines"), search, [(gate, "North gate"), (jetty, "")], "boathouse")
    assert [o["state"] for o in done] == ["added", "added"] and Device.objects.count() == before + 2
    made = Device.objects.get(pk=done[0]["device"])
    assert (made.name, made.area_id, made.password) == ("North gate", "boathouse", PASSWORD)
    assert AuditEntry.objects.filter(verb="added device", subject=f"device:{made.pk}").exists()
    search.refresh_from_db()
    again = add_found(as_("ines"), search, [(gate, "North gate")], None)
    assert again[0]["state"] == "here" and Device.objects.count() == before + 2
    assert states(searched(as_("ines"), gate)) == {gate: "here"}


def test_one_device_at_two_addresses_is_added_once_and_nothing_before_the_search_is_over(as_, standins):
    gate = service(standins, "gate")
    other = gate.replace("127.0.0.1", "localhost")
    search = searched(as_("ines"), f"{gate} {other}")
    done = add_found(as_("ines"), search, [(gate, "Gate"), (other, "Gate again")], None)
    assert [o["state"] for o in done] == ["added", "here"]
    Search.objects.update(ended_at=None)
    search.refresh_from_db()
    with pytest.raises(Refused, match="still goes on"):
        add_found(as_("ines"), search, [(gate, "")], None)


def test_what_cannot_be_searched_is_said_at_its_place_and_old_searches_go(client, as_):
    for addresses in ("", "10.0.0.0/8", "nonsense!"):
        with pytest.raises(Refused) as refused:
            begin_search(as_("ines"), addresses, False, "", "", start=lambda pk: None)
        assert refused.value.problems[0].path == "addresses"
    begin_search(as_("ines"), "192.0.2.1", False, "", "", start=lambda pk: None)
    Search.objects.update(began_at=0)
    kept = begin_search(as_("ines"), "192.0.2.2", False, "", "", start=lambda pk: None)
    assert [s.pk for s in Search.objects.all()] == [kept.pk]
    client.force_login(as_("oskar").person)
    assert client.get(f"/api/v1/searches/{kept.pk}?site={GARDENS}").status_code == 403
    client.force_login(as_("ines").person)
    state = client.get(f"/api/v1/searches/{kept.pk}?site={GARDENS}").json()
    assert (state["ended"], state["outcomes"][0]["state"]) == (False, "asking")
    assert client.get(f"/s/{GARDENS}/sources/find").context["last"] == kept.pk
    Search.objects.update(began_at=now_ms() - 3_600_000)
    state = client.get(f"/api/v1/searches/{kept.pk}?site={GARDENS}").json()
    assert state["ended"], "one whose process ended is waited for no more"
