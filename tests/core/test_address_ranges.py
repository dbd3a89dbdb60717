"""Addresses as people list them."""

import pytest

from dromikon.core.address_ranges import MOST, device_addresses
from dromikon.core.reading import NotReadable

pytestmark = pytest.mark.timeless
PATH = "/onvif/device_service"


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("", []),
        ("192.0.2.10", [f"http://192.0.2.10{PATH}"]),
        ("192.0.2.10:8080, cam.example", [f"http://192.0.2.10:8080{PATH}", f"http://cam.example{PATH}"]),
        ("https://cam.example:8443/x", ["https://cam.example:8443/x"]),
        ("192.0.2.9-11", [f"http://192.0.2.{n}{PATH}" for n in (9, 10, 11)]),
        ("192.0.2.254-192.0.3.1", [f"http://192.0.{n}{PATH}" for n in ("2.254", "2.255", "3.0", "3.1")]),
        ("192.0.2.9-10:81", [f"http://192.0.2.{n}:81{PATH}" for n in (9, 10)]),
        ("192.0.2.4/30\n192.0.2.5", [f"http://192.0.2.{n}{PATH}" for n in (5, 6)]),
    ],
)
def test_what_is_listed_is_found_once_in_its_order(text, found):
    assert device_addresses(text) == found


@pytest.mark.parametrize(
    "text",
    ["192.0.2.300-310", "192.0.2.20-10", "10.0.0.0/8", "ftp:x", "a b!", "192.0.2.1-10.0.0.1", "http://u:p@x/", "1/99"],
)
def test_what_is_none_is_named(text):
    with pytest.raises(NotReadable):
        device_addresses(text)


def test_too_many_are_refused():
    with pytest.raises(NotReadable, match=str(MOST)):
        device_addresses("192.0.2.0/22, 198.51.100.0/22")
