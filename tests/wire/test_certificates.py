"""Devices by TLS with certificates that nobody vouches for: made by openssl, seen, trusted, and then no other."""

import subprocess

import pytest

from dromikon.standins.run import PASSWORD, USER
from dromikon.wire.certificates import fingerprint, pinned, shown_by
from dromikon.wire.onvif import parts
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.soap import DeviceError
from tests.conftest import certificate


async def test_it_is_shown_then_trusted_and_no_other(secured, tmp_path):
    address, wanted = secured
    stranger = OnvifDevice(address, USER, PASSWORD)
    with pytest.raises(DeviceError) as refused:
        await stranger.measure_clock()
    assert refused.value.reason == "certificate"
    await stranger.close()

    shown = await shown_by(address)
    assert shown.split() == wanted.split()
    said = subprocess.run(
        ["openssl", "x509", "-noout", "-fingerprint", "-sha256"],
        input=wanted,
        capture_output=True,
        text=True,
        check=True,
    ).stdout
    assert fingerprint(shown) == said.strip().split("=")[1], "as openssl shows it"

    trusting = OnvifDevice(address, USER, PASSWORD, certificate=shown)
    assert (await parts.information(trusting))["model"] == "Heron 4"
    await trusting.close()

    other, _ = certificate(tmp_path, "other")
    mistaken = OnvifDevice(address, USER, PASSWORD, certificate=other.read_text())
    with pytest.raises(DeviceError) as refused:
        await mistaken.measure_clock()
    assert refused.value.reason == "certificate"
    await mistaken.close()


def test_what_is_no_certificate_is_not_trusted():
    with pytest.raises(ValueError, match="no certificate"):
        pinned("-----BEGIN CERTIFICATE-----\nAAAA\n-----END CERTIFICATE-----\n")


async def test_nobody_there_shows_nothing():
    assert await shown_by("https://127.0.0.1:9/") == ""
