"""A device is asked who it is when it is added, and has a page that leads on."""

import re

import pytest

from dromikon.clock import now_ms
from dromikon.intake.sessions import wanted_devices
from dromikon.people.models import AuditEntry, Person
from dromikon.refusals import Refused
from dromikon.sources.models import Device, Point, Unclaimed
from dromikon.sources.services import add_device, change_device, rename_point
from dromikon.standins.run import PASSWORD, USER
from tests.conftest import GARDENS, NURSERY

pytestmark = pytest.mark.timeless


@pytest.fixture
def camera(standins):
    return f"{standins['gate']}/onvif/device_service"


def added(access, address, **more):
    return add_device(access, **{"name": "", "address": address, "user": USER, "password": PASSWORD, **more})


@pytest.mark.django_db(transaction=True)
class TestAdding:
    def test_it_is_called_what_it_calls_itself_until_somebody_knows_better(self, as_, camera):
        made = added(as_("ines"), camera)
        assert made.name and made.name != "127.0.0.1" and Device.objects.get(pk=made.pk).password == PASSWORD
        assert added(as_("ines"), "http://192.0.2.77:9/x", name="Attic").name == "Attic"

    def test_a_wrong_password_is_told_at_its_place_at_once(self, as_, camera):
        with pytest.raises(Refused) as refused:
            added(as_("ines"), camera, password="wrong")
        assert refused.value.problems[0].path == "password"

    def test_the_same_device_is_not_added_twice_at_any_address_of_the_customers(self, as_, camera):
        from dromikon.sources.identify import identify

        said = identify(camera, USER, PASSWORD)
        Device.objects.filter(pk="cam-yard").update(
            information={"manufacturer": said.manufacturer, "serial": said.serial}
        )
        with pytest.raises(Refused) as refused:
            added(as_("ines"), camera.replace("127.0.0.1", "localhost"))
        (problem,) = refused.value.problems
        assert problem.path == "address" and "Yard camera at Quillmere Nursery" in problem.message
        Device.objects.filter(pk="cam-yard").update(retired_at=now_ms())
        assert added(as_("ines"), camera)

    def test_one_that_tells_no_number_is_known_by_its_address(self, as_):
        address = "http://192.0.2.77:9/onvif/device_service"
        added(as_("ines"), address, name="Attic")
        with pytest.raises(Refused):
            added(as_("ines", NURSERY), address, name="Attic again")


@pytest.mark.django_db(transaction=True)
class TestCertificates:
    """A device by HTTPS for which nobody vouches: compared once, and from then on that certificate alone."""

    def test_it_is_shown_to_be_compared_and_trusted_once_it_was(self, as_, secured):
        address, _ = secured
        with pytest.raises(Refused) as refused:
            added(as_("ines"), address)
        (problem,) = refused.value.problems
        shown = re.search(r"([0-9A-F]{2}:){31}[0-9A-F]{2}", problem.message).group(0)
        assert problem.path == "trust" and Device.objects.filter(address=address).count() == 0
        with pytest.raises(Refused) as refused:
            added(as_("ines"), address, trust=shown.replace(shown[:2], "00" if shown[:2] != "00" else "11"))
        assert "another certificate" in refused.value.problems[0].message
        made = added(as_("ines"), address, trust=shown)
        assert "BEGIN CERTIFICATE" in made.certificate and made.name == "Stand-in Optics Heron 4"
        assert {w.id: w.certificate for w in wanted_devices()}[made.id] == made.certificate

    def test_one_whose_certificate_changed_is_compared_anew_when_it_is_saved(self, as_, secured):
        address, certificate = secured
        device = Device.objects.get(pk="cam-gate")
        Device.objects.filter(pk="cam-gate").update(address=address, reason="certificate", certificate="an old one")
        device.refresh_from_db()
        change = lambda **more: change_device(
            as_("ines"), device, name="Gate", address=address, user=USER, password=None, **more
        )
        with pytest.raises(Refused) as refused:
            change()
        shown = re.search(r"([0-9A-F]{2}:){31}[0-9A-F]{2}", refused.value.problems[0].message).group(0)
        assert change(trust=shown).certificate.split() == certificate.split()

    def test_another_address_is_not_trusted_because_of_the_one_before(self, as_):
        Device.objects.filter(pk="cam-gate").update(certificate="of the old address")
        moved = change_device(
            as_("ines"),
            Device.objects.get(pk="cam-gate"),
            name="Gate",
            address="http://127.0.0.1:9/x",
            user="",
            password=None,
        )
        assert moved.certificate == ""


def test_a_point_is_renamed_where_it_is_seen(client, as_):
    client.force_login(as_("ines").person)
    address = f"/api/v1/points/jetty-line/name?site={GARDENS}"
    assert client.put(address, {"name": " Line on the jetty "}, "application/json").status_code == 204
    assert Point.objects.get(pk="jetty-line").name == "Line on the jetty"
    entry = AuditEntry.objects.last()
    assert entry.verb == "renamed point" and entry.detail["before"] == "Jetty line"
    assert client.put(address, {"name": " "}, "application/json").status_code == 422
    with pytest.raises(Exception, match="may not do this"):
        rename_point(as_("oskar"), Point.objects.get(pk="jetty"), "Mine")


def test_its_page_shows_what_it_offers_its_points_what_comes_and_rules_for_it(client, bench, as_):
    device = Device.objects.get(pk="cam-jetty")
    device.catalogue = {
        "events": [{"topic": "tns1:RuleEngine/LineDetector/Crossed", "state": False, "source": {}, "data": {}}], "channels": ["vs0", "vs1"], "relays": ["spare"],
        "detectors": [{"name": "Jetty line", "type": "tt:LineDetector", "parameters": {}, "waits": 0, "channel": "vsc0"}],
    }  # fmt: skip
    device.save()
    bench.cross()
    bench.run()
    Unclaimed.objects.create(
        inbox=9, site_id=GARDENS, source=device.name, at=now_ms(), reason="Nobody knows it.", raw="<x/>"
    )
    client.force_login(as_("ines").person)
    page = client.get(f"/s/{GARDENS}/sources/device/cam-jetty").content.decode()
    for words in (
        "Jetty camera vs1",
        "Jetty camera spare",
        'data-rename="jetty-line"',
        "Nobody knows it.",
        "Rules it is good for",
    ):
        assert words in page, words
    assert "data-event=" in page
    come = client.get(f"/s/{GARDENS}/sources/device/cam-jetty/come").content.decode()
    assert "data-event=" in come and "Jetty line" in come
    client.force_login(Person.objects.get(username="vera"))
    seen = client.get(f"/s/{GARDENS}/sources/device/cam-jetty").content.decode()
    assert "data-rename" not in seen and "data-adopt" not in seen and "&lt;x/&gt;" not in seen


def test_a_device_that_is_switched_off_takes_no_tile_on_the_desk(client, as_):
    client.force_login(as_("oskar").person)
    shown = f"/api/v1/desk/own?site={GARDENS}"
    assert "jetty" in [c["camera"] for c in client.get(shown).json()["screen"]["cells"]]
    Device.objects.filter(pk="cam-jetty").update(enabled=False)
    assert "jetty" not in [c["camera"] for c in client.get(shown).json()["screen"]["cells"]]
