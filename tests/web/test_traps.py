"""Traps and informs on a real socket, sent by net-snmp: kept, answered, and read by decoders."""

import contextlib
import json
import shutil
import socket
import subprocess
import time

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromikon.core.decoding import snmp
from dromikon.core.reading import NotReadable
from dromikon.daybook.models import EventRow
from dromikon.intake.inbox import connect
from dromikon.intake.looking import last_sent
from dromikon.refusals import Refused
from dromikon.setup import changes
from dromikon.setup.intakes import IntakeDocument, save_intake
from dromikon.setup.registry import SORTS
from dromikon.sources.models import IntakeCount, Unclaimed
from tests.conftest import GARDENS
from tests.core.test_mibs import BASE, FREEZERS
from tests.web.trapping import kept

pytestmark = [
    pytest.mark.timeless,
    pytest.mark.django_db(transaction=True),
    pytest.mark.skipif(shutil.which("snmptrap") is None, reason="net-snmp sends"),
]
LINK_DOWN, LINK_UP, INDEX = "1.3.6.1.6.3.1.1.5.3", "1.3.6.1.6.3.1.1.5.4", "1.3.6.1.2.1.2.2.1.1.7"


@pytest.fixture
def switches(as_):
    return save_intake(as_("ines"), None, IntakeDocument(name="Switches", proof="community", secret="gatehouse"))[0]


def test_a_community_belongs_to_one_intake(switches, as_):
    same = IntakeDocument(name="More switches", proof="community", secret="gatehouse")
    with pytest.raises(Refused):
        save_intake(as_("ines"), None, same)
    save_intake(as_("ines"), switches.id, same.model_copy(update={"name": "Switches"}))
    assert save_intake(as_("ines"), None, same.model_copy(update={"secret": "gatehouse-2"}))[0].id


def trap(port, *words, version="2c", community="gatehouse", tool="snmptrap"):
    where = f"127.0.0.1:{port}"
    return subprocess.run(
        [tool, f"-v{version}", "-c", community, "-r", "0", "-t", "2", where, *words], capture_output=True, timeout=20
    )


def test_a_trap_of_version_2_is_kept_and_says_what_it_tells(bench, port, switches):
    assert trap(port, "", LINK_DOWN, INDEX, "i", "7", "1.3.6.1.2.1.2.2.1.2.7", "s", "Uplink lodge").returncode == 0
    (stored,) = kept(bench, 1)
    content = snmp.read(stored.message.body)
    assert (content["version"], content["trap"], content["by"]) == (
        "v2c",
        LINK_DOWN,
        {INDEX: 7, "1.3.6.1.2.1.2.2.1.2.7": "Uplink lodge"},
    )
    bench.run()
    left = Unclaimed.objects.get()
    assert left.reason == "No decoder knows the trap linkDown." and json.loads(left.raw)["by"][INDEX] == 7
    assert "Uplink lodge" in last_sent(switches)[0].raw


@pytest.mark.parametrize(("generic", "specific", "name"), [("2", "0", LINK_DOWN), ("6", "17", "1.3.6.1.4.1.8072.0.17")])
def test_traps_of_version_1_have_the_names_of_version_2(bench, switches, port, generic, specific, name):
    assert (
        trap(port, "1.3.6.1.4.1.8072", "192.0.2.7", generic, specific, "55", INDEX, "i", "7", version="1").returncode
        == 0
    )
    content = snmp.read(kept(bench, 1)[0].message.body)
    assert (content["version"], content["trap"], content["agent"], content["by"]) == (
        "v1",
        name,
        "192.0.2.7",
        {INDEX: 7},
    )


def test_an_inform_is_answered_once_it_is_kept_and_not_otherwise(bench, switches, port):
    assert trap(port, "", LINK_UP, INDEX, "i", "7", tool="snmpinform").returncode == 0
    assert len(kept(bench, 1)) == 1
    holder = connect(bench.path)
    holder.execute("BEGIN EXCLUSIVE")
    try:
        assert trap(port, "", LINK_UP, INDEX, "i", "7", tool="snmpinform").returncode != 0, "its sender sends it again"
    finally:
        holder.execute("ROLLBACK")


def test_another_community_and_what_is_no_trap_are_not_kept(bench, switches, port):
    trap(port, "", LINK_DOWN, community="public")
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as sender:
        for data in (b"", b"\x30\x82\xff\xff", b"\x30" * 2_000, b"hello"):
            sender.sendto(data, ("127.0.0.1", port))
    assert trap(port, "", LINK_UP).returncode == 0
    (only,) = kept(bench, 1)
    assert snmp.read(only.message.body)["trap"] == LINK_UP


def test_down_and_up_are_taught_like_anything_else(bench, port, switches, as_):
    document = {
        "name": "Uplink", "intake": {"id": switches.id}, "kind": "input.active", "phase_path": "$.trap", "begins": [LINK_DOWN],
        "ends": [LINK_UP], "point": {"id": "leak"}, "when": [{"path": f"$.by['{INDEX}']", "how": "is", "value": "7"}],
    }  # fmt: skip
    changes.save(SORTS["decoders"], as_("ines"), None, document)
    bench.run()
    for name, index in ((LINK_DOWN, "7"), (LINK_DOWN, "8"), (LINK_UP, "7")):
        trap(port, "", name, INDEX if index == "7" else INDEX[:-1] + index, "i", index)
    kept(bench, 3)
    bench.run()
    events = EventRow.objects.filter(kind="input.active").order_by("seq")
    assert list(events.values_list("point", "phase")) == [("leak", "begin"), ("leak", "end")]


def test_a_burst_is_kept_whole(bench, port, switches):
    trap(port, "", LINK_DOWN, INDEX, "i", "7")
    data = kept(bench, 1)[0].message.body
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as sender:
        for _ in range(1_000):
            sender.sendto(data, ("127.0.0.1", port))
            time.sleep(0.0005)
    assert len(kept(bench, 1_001)) == 1_001
    deadline = time.monotonic() + 5
    while time.monotonic() < deadline and IntakeCount.objects.get(intake=switches, outcome="accepted").count < 1_001:
        time.sleep(0.1)
    assert IntakeCount.objects.get(intake=switches, outcome="accepted").count == 1_001


@pytest.mark.parametrize(
    "data",
    [
        b"",
        b"\x30",
        b"\x30\x03\x02\x01\x03",
        b"\x30\x0b\x02\x01\x01\x04\x01a\xa0\x03\x02\x01\x01",
        b"\x30\x85" + b"\xff" * 9,
        b"\x30\x82\xff\xff\x02",
    ],
)
def test_other_requests_versions_and_what_is_cut_off_are_said(data):
    with pytest.raises(NotReadable):
        snmp.header(data)


@given(st.binary(max_size=60))
def test_no_datagram_raises_anything_else(data):
    for told in (data, b"\x30" + bytes([len(data)]) + data, b"\x30\x0c\x02\x01\x01\x04\x01a\xa7" + data):
        with contextlib.suppress(NotReadable):
            snmp.read(told)


def test_its_page_says_where_traps_go(switches, client, as_, monkeypatch):
    monkeypatch.setenv("DROMIKON_SNMP_PORT", "1162")
    client.force_login(as_("ines").person)
    page = client.get(f"/s/{GARDENS}/sources/intake/{switches.id}").content.decode()
    assert "127.0.0.1:1162 (UDP)" in page and "snmptrap -v2c" in page


def test_a_module_that_is_loaded_gives_names_that_decoders_read(bench, port, switches, as_, client):
    ines = as_("ines")
    assert changes.save(SORTS["mibs"], ines, None, {"text": FREEZERS}).id
    with pytest.raises(Refused, match="loaded already"):
        changes.save(SORTS["mibs"], ines, None, {"text": FREEZERS})
    with pytest.raises(Refused, match="no MIB module"):
        changes.save(SORTS["mibs"], ines, None, {"text": "hello"})
    document = {
        "name": "Freezers", "intake": {"id": switches.id}, "kind": "input.active", "phase_path": "$.named.freezerState", "begins": ["warm"],
        "ends": ["cold"], "point": {"id": "leak"}, "when": [{"path": "$.name", "how": "is", "value": "freezerWarm"}],
    }  # fmt: skip
    changes.save(SORTS["decoders"], ines, None, document)
    bench.run()
    for state in ("2", "1"):
        trap(port, "", f"{BASE}.0.1", f"{BASE}.1.4", "i", state)
    kept(bench, 2)
    bench.run()
    events = EventRow.objects.filter(kind="input.active").order_by("seq")
    assert list(events.values_list("point", "phase")) == [("leak", "begin"), ("leak", "end")]
    assert '"freezerState": "cold"' in last_sent(switches)[0].raw
    client.force_login(ines.person)
    page = client.get(f"/s/{GARDENS}/sources/intake/{switches.id}/teach").content.decode()
    assert "$.named.freezerState" in page
