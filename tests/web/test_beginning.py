"""The beginning of an empty installation, and that it happens once."""

import pytest

from dromikon.people.access import access
from dromikon.people.models import AuditEntry, Person
from dromikon.setup.beginning import code_for_beginning, is_empty
from dromikon.setup.zones import places
from dromikon.sites.models import Area, Customer, Site

pytestmark = pytest.mark.django_db

GIVEN = {
    "username": "greta", "first_name": "Greta", "last_name": "Moorcombe", "password": "heather and peat",
    "again": "heather and peat", "customer": "Moorcombe Farms", "site": "Upper barn", "zone": "Europe/London",
    "latitude": "54.1", "longitude": "-2.8", "modes": "open, closed", "areas": "Yard\nBarn\n\nYard\n",
}  # fmt: skip


def begin(client, **given):
    return client.post("/begin", {**GIVEN, **given})


def test_every_page_of_an_empty_installation_leads_to_its_beginning(client):
    assert client.get("/", follow=True).redirect_chain[-1][0] == "/begin"
    assert b"Code from the console" in client.get("/begin").content


def test_it_makes_administrator_site_and_areas_and_ends_where_a_device_is_added(client):
    answer = begin(client, code=code_for_beginning().upper().replace("-", " "))
    site = Site.objects.get()
    assert answer.headers["location"] == f"/s/{site.id}/sources?open=new-device"
    assert client.get(answer.headers["location"]).status_code == 200
    person = Person.objects.get()
    assert person.is_superuser and not person.must_change and access(person, site.id).role == "administrator"
    assert (site.name, site.zone, site.latitude, site.modes) == (
        "Upper barn",
        "Europe/London",
        54.1,
        ["open", "closed"],
    )
    assert [a.name for a in Area.objects.all()] == ["Yard", "Barn"] and site.customer.name == "Moorcombe Farms"
    assert set(AuditEntry.objects.exclude(name__in=["Dromikon", "Greta Moorcombe"])) == set()


@pytest.mark.parametrize(
    ("given", "place", "said"),
    [
        ({"code": "aaaa-bbbb-cccc"}, "code", "not the code"),
        ({"code": ""}, "code", "This is needed"),
        ({"again": "another"}, "again", "differ"),
        ({"password": "short", "again": "short"}, "password", "at least 10 characters"),
        ({"zone": "Mars/North"}, "zone", "such as Europe/London"),
        ({"latitude": "north"}, "latitude", "as a number"),
        ({"latitude": "95"}, "latitude", "less than or equal"),
        ({"site": ""}, "site", "This is needed"),
    ],
)
def test_what_is_wrong_stands_at_its_field_and_nothing_is_made(client, given, place, said):
    answer = begin(client, **{"code": code_for_beginning(), **given})
    assert answer.status_code == 422 and said in answer.context["problems"][place]
    assert is_empty() and not Customer.objects.exists() and not AuditEntry.objects.exists()
    page = answer.content.decode()
    assert "Moorcombe Farms" in page and "heather" not in page, "what was typed stays, but no password"


def test_it_happens_once_and_an_old_code_is_worth_nothing(client):
    first, second = code_for_beginning(), code_for_beginning()
    assert begin(client, code=first).status_code == 422
    assert begin(client, code=second).status_code == 302
    client.logout()
    assert begin(client, code=second, username="mallory").headers["location"] == "/login"
    assert Person.objects.count() == 1 and code_for_beginning() == ""


def test_a_zone_says_where_it_lies():
    assert places()["Europe/London"] == (51.51, -0.13) and places()["America/St_Johns"][1] < -52


def test_an_administrator_without_a_site_is_led_to_where_one_is_made(client):
    from dromikon.people.access import Everywhere
    from dromikon.setup.people import Everybody, save_person

    person, _ = save_person(Everywhere(None), None, Everybody().read({"username": "root", "administers": True}))
    client.force_login(Person.objects.get(pk=person.pk))
    Person.objects.update(must_change=False)
    assert client.get("/").headers["location"] == "/setup"
    Person.objects.update(is_superuser=False)
    assert client.get("/").status_code == 403


def test_the_demo_neither_moves_into_a_real_installation_nor_forgets_it(client):
    from dromikon.demo.run import _check_whose, reset_and_say
    from dromikon.start import CannotStart

    begin(client, code=code_for_beginning())
    for attempt in (_check_whose, reset_and_say):
        with pytest.raises(CannotStart, match="real installation"):
            attempt()
    assert Site.objects.exists()
