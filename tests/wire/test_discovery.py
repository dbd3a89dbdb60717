"""WS-Discovery over real sockets, and answers that are none."""

import socket
from contextlib import closing

import pytest

from dromikon.standins.discovery import answer, endpoint_of, listen
from dromikon.wire.onvif import discovery
from dromikon.wire.onvif.discovery import discover, matches, probe

CAMERAS = {
    "jetty": ("Boathouse & jetty", "http://127.0.0.1:8111/onvif/device_service"),
    "gate": ("Gate", "http://127.0.0.1:8112/onvif/device_service"),
}


def free_port():
    with closing(socket.socket(socket.AF_INET, socket.SOCK_DGRAM)) as probing:
        probing.bind(("127.0.0.1", 0))
        return probing.getsockname()[1]


async def test_who_listens_on_the_link_is_found_once():
    port = free_port()
    transport = await listen(CAMERAS, port)
    try:
        found = await discover(1.0, port)
    finally:
        transport.close()
    by_endpoint = {f.endpoint: f for f in found}
    assert set(by_endpoint) == {endpoint_of("jetty"), endpoint_of("gate")} and len(found) == 2
    jetty = by_endpoint[endpoint_of("jetty")]
    assert (jetty.name, jetty.hardware) == ("Boathouse & jetty", "Heron 4")
    assert jetty.addresses == (CAMERAS["jetty"][1],)


async def test_a_network_that_cannot_be_asked_finds_nothing_and_breaks_nothing(monkeypatch):
    monkeypatch.setattr(discovery, "own_addresses", lambda: ["192.0.2.250"])
    assert await discover(0.6, free_port()) == []


def test_only_an_answer_to_this_probe_counts():
    said = answer(probe("urn:uuid:1"), CAMERAS)
    assert len(matches(said, "urn:uuid:1")) == 2 and matches(said, "urn:uuid:2") == []


@pytest.mark.parametrize(
    "said",
    [
        b"", b"no xml", b"<a/>", b'<?xml version="1.0"?><!DOCTYPE a [<!ENTITY b "c">]><a>&b;</a>',
        answer(probe("urn:uuid:1"), CAMERAS)[:-40],
        answer(probe("urn:uuid:1"), {"x": ("X", "file:///etc/passwd javascript:x")}),
    ],
)  # fmt: skip
def test_what_cannot_be_read_or_leads_nowhere_is_no_device(said):
    assert matches(said, "urn:uuid:1") == []


def test_the_stand_ins_answer_probes_that_mean_them_alone():
    assert answer(b"rubbish", CAMERAS) is None
    other = probe("urn:uuid:1").replace(b"dn:NetworkVideoTransmitter", b"x:Printer")
    assert answer(other, CAMERAS) is None
