"""Traps and informs of version 3 on a real socket, sent by net-snmp: signed, private, in time, and answered as they came."""

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
from dromikon.core.snmp import ber, usm
from dromikon.core.snmp.usm import Clock, Rejected, Times, User
from dromikon.intake.looking import last_sent
from dromikon.refusals import Refused
from dromikon.setup.intakes import IntakeDocument, rotate_secret, save_intake
from dromikon.sources.models import IntakeCount, Stranger
from tests.conftest import GARDENS
from tests.web.trapping import kept

pytestmark = [
    pytest.mark.timeless,
    pytest.mark.django_db(transaction=True),
    pytest.mark.skipif(shutil.which("snmptrap") is None, reason="net-snmp sends"),
]
LINK_DOWN, INDEX = "1.3.6.1.6.3.1.1.5.3", "1.3.6.1.2.1.2.2.1.1.7"
SECRET, PRIVATE = "garden-auth-pass", "garden-priv-pass"
SUMS = {"sha1": "SHA", "sha224": "SHA-224", "sha256": "SHA-256", "sha384": "SHA-384", "sha512": "SHA-512"}


def user(**more):
    known = {"name": "Supplies", "proof": "usm", "user": "warden", "secret": SECRET, "private": PRIVATE, **more}
    return IntakeDocument(**known)


@pytest.fixture
def supplies(as_):
    return save_intake(as_("ines"), None, user())[0]


def send(
    port, *, name="warden", sums="SHA-256", secret=SECRET, private=PRIVATE, level="authPriv", tool="snmptrap", boots=""
):
    """A trap of an engine of its own, or an inform, which goes by ours."""
    words = [tool, "-v3", "-r", "0", "-t", "2", "-l", level, "-u", name]
    words += ["-e", "0x8000000001020304"] if tool == "snmptrap" else []
    words += ["-Z", boots] if boots else []
    if level != "noAuthNoPriv":
        words += ["-a", sums, "-A", secret]
    if level == "authPriv":
        words += ["-x", "AES", "-X", private]
    return subprocess.run(
        [*words, f"127.0.0.1:{port}", "", LINK_DOWN, INDEX, "i", "7"], capture_output=True, timeout=20
    )


def counted(intake, outcome, count=1):
    deadline = time.monotonic() + 5
    while time.monotonic() < deadline:
        if IntakeCount.objects.filter(intake=intake, outcome=outcome, count__gte=count).exists():
            return True
        time.sleep(0.05)
    return False


@pytest.mark.parametrize("hashing", SUMS)
def test_a_trap_is_taken_whatever_it_is_signed_with(bench, as_, port, hashing):
    intake, _ = save_intake(as_("ines"), None, user(hashing=hashing))
    assert send(port, sums=SUMS[hashing]).returncode == 0
    (stored,) = kept(bench, 1)
    content = snmp.read(stored.message.body)
    assert (content["version"], content["trap"], content["by"]) == ("v3", LINK_DOWN, {INDEX: 7})
    assert json.loads(stored.message.meta)["engine"] == "8000000001020304" and stored.message.source == intake.id
    assert LINK_DOWN in last_sent(intake)[0].raw, "its page shows what it says"


def test_an_inform_learns_who_we_are_and_hears_an_answer_that_only_it_can_read(bench, supplies, port):
    done = send(port, tool="snmpinform")
    assert done.returncode == 0, done.stderr.decode()
    assert [m.message.source for m in kept(bench, 1)] == [supplies.id]
    wrong = send(port, tool="snmpinform", secret="another-pass-phrase")
    assert wrong.returncode != 0 and b"uthentication" in wrong.stderr, "whoever sets it up is told what is amiss"
    assert counted(supplies, "signature") and b"nknown user" in send(port, tool="snmpinform", name="nobody").stderr


@pytest.mark.parametrize(
    ("how", "outcome"),
    [({"secret": "another-pass-phrase"}, "signature"), ({"private": "another-pass-phrase"}, "cipher"), ({"level": "authNoPriv"}, "level"),
     ({"sums": "SHA-512"}, "signature"), ({"level": "noAuthNoPriv"}, "level")],
)  # fmt: skip
def test_what_is_not_as_secret_as_it_is_to_be_is_counted_and_not_kept(bench, supplies, port, how, outcome):
    send(port, **how)
    assert counted(supplies, outcome) and kept(bench, 0) == []


def test_a_user_that_nobody_knows_is_told_of(bench, supplies, port, client, as_):
    send(port, name="nobody")
    deadline = time.monotonic() + 5
    while time.monotonic() < deadline and not Stranger.objects.exists():
        time.sleep(0.1)
    stranger = Stranger.objects.get()
    assert (stranger.address, stranger.why, stranger.count) == ("127.0.0.1", "user", 1)
    client.force_login(as_("ines").person)
    assert "an unknown SNMP user" in client.get(f"/s/{GARDENS}/sources").content.decode()


def test_who_guesses_communities_is_shut_out_and_a_user_that_signs_is_not(bench, supplies, port):
    data = ber.write(ber.SEQUENCE, ber.write_integer(1) + ber.write(ber.OCTETS, b"public") + ber.write(usm.TRAP, b""))
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as sender:
        for _ in range(30):
            sender.sendto(data, ("127.0.0.1", port))
    assert send(port).returncode == 0 and len(kept(bench, 1)) == 1
    deadline = time.monotonic() + 5
    while time.monotonic() < deadline and not Stranger.objects.filter(why="shut_out").exists():
        time.sleep(0.1)
    assert dict(Stranger.objects.values_list("why", "count")) == {"community": 20, "shut_out": 10}


def test_what_is_old_is_not_taken_again(bench, supplies, port):
    send(port, boots="7,5000")
    send(port, boots="7,4700")
    send(port, boots="6,9000")
    assert counted(supplies, "time", 2) and len(kept(bench, 1)) == 1
    send(port, boots="8,1")
    assert len(kept(bench, 2)) == 2


def test_the_passphrase_before_counts_while_a_rotation_overlaps(bench, supplies, port, as_):
    made = rotate_secret(as_("ines"), supplies.id)
    send(port)
    send(port, secret=made)
    assert len(kept(bench, 2)) == 2


def test_an_inform_that_is_sent_again_is_kept_once_and_answered_again(bench, supplies, port, as_):
    switches, _ = save_intake(as_("ines"), None, IntakeDocument(name="Switches", proof="community", secret="gatehouse"))
    time.sleep(2.2)
    pdu = ber.write(usm.INFORM, b"".join(ber.write_integer(n) for n in (41, 0, 0)) + ber.write(ber.SEQUENCE, b""))
    data = ber.write(ber.SEQUENCE, ber.write_integer(1) + ber.write(ber.OCTETS, b"gatehouse") + pdu)
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as sender:
        sender.settimeout(5)
        for _ in range(3):
            sender.sendto(data, ("127.0.0.1", port))
            assert sender.recv(2_000) == data.replace(bytes([usm.INFORM]), bytes([usm.RESPONSE]), 1)
    assert counted(switches, "accepted") and len(kept(bench, 1)) == 1


@pytest.mark.parametrize(
    ("change", "said"),
    [({"private": ""}, "passphrase for privacy"), ({"secret": "short"}, "8 letters"), ({"private": "short"}, "8 letters"), ({"user": " "}, "Name the user")],
)  # fmt: skip
def test_what_a_user_lacks_is_said_at_its_place(as_, change, said):
    with pytest.raises(Refused) as refused:
        save_intake(as_("ines"), None, user(**change))
    assert said in str(refused.value.problems)


def test_a_user_belongs_to_one_intake(supplies, as_):
    with pytest.raises(Refused):
        save_intake(as_("ines"), None, user(name="More"))
    changed, made = save_intake(as_("ines"), supplies.id, user(name="Supplies again", secret="", private=""))
    assert changed.name == "Supplies again" and made == "", "what is left empty stays"


# -- the sums themselves -----------------------------------------------------------------------------------------------------


def test_keys_are_those_of_the_standards_example():
    """RFC 3414, A.3.2."""
    engine = bytes.fromhex("000000000000000000000002")
    assert usm._localized("sha1", "maplesyrup", engine).hex() == "6695febc9288e36282235fc7151f128497b38f3f"


def test_clocks_of_engines_run_on_and_never_back():
    times, engine = Times(), b"abcde"
    times.check(Clock(engine, 3, 1_000), 50)
    times.check(Clock(engine, 3, 1_080), 130)
    times.check(Clock(engine, 3, 1_010), 135)
    with pytest.raises(Rejected):
        times.check(Clock(engine, 3, 1_000), 400)
    with pytest.raises(Rejected):
        times.check(Clock(engine, 2, 99_999), 401)
    times.check(Clock(engine, 4, 0), 402)


@given(st.binary(max_size=90), st.integers(0, 200))
def test_no_datagram_raises_anything_but_that_it_cannot_be_read(noise, place):
    someone = User("warden", SECRET, cipher="none")
    whole = usm.report(
        usm.Frame(1, usm.REPORTABLE, Clock(b"x", 1, 1), "warden", (0, 0), b"", b""),
        "time",
        4,
        Clock(b"engine", 1, 1),
        someone,
    )
    for data in (
        noise,
        b"\x30\x03\x02\x01\x03" + noise,
        whole[:place],
        whole[:place] + noise + whole[place + len(noise) :],
    ):
        try:
            usm.opened(usm.frame(data), data, someone)
        except (NotReadable, Rejected):
            continue


@given(st.integers(-(2**31), 2**31 - 1), st.lists(st.integers(0, 2**31), min_size=0, max_size=6))
def test_numbers_and_names_are_written_as_they_are_read(number, rest):
    assert ber.integer(ber.write_integer(number), 0)[0] == number
    from pyasn1.codec.ber import decoder

    name = ".".join(map(str, (1, 3, *rest)))
    assert str(decoder.decode(ber.write_oid(name))[0]) == name
