"""The gate for outgoing connections: decided by address after resolution, for every client."""

import pytest
from starlette.applications import Starlette
from starlette.responses import Response
from starlette.routing import Route

from dromikon.wire import outgoing
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.soap import DeviceError
from dromikon.wire.outgoing import Gate, NotAllowed
from dromikon.wire.pictures import HttpRecorder, PicturesUnavailable


@pytest.mark.parametrize(
    ("listed", "host", "address", "lets"),
    [
        ("", "192.0.2.7", "192.0.2.7", False),
        ("192.0.2.0/24", "192.0.2.7", "192.0.2.7", True),
        ("192.0.2.0/24", "camera.example", "192.0.2.7", True),
        ("192.0.2.0/24", "camera.example", "198.51.100.7", False),
        ("Gateway.Example", "gateway.example", "198.51.100.7", True),
        ("gateway.example", "gateway.example.", "198.51.100.7", True),
        ("gateway.example", "gateway.example", "127.0.0.1", False),
        ("gateway.example", "gateway.example", "169.254.169.254", False),
        ("gateway.example", "gateway.example", "::ffff:127.0.0.1", False),
        ("gateway.example", "gateway.example", "0.0.0.0", False),
        ("localhost", "gateway.example", "127.0.0.5", True),
        ("127.0.0.1", "127.0.0.1", "127.0.0.1", True),
        ("[2001:db8::1]", "2001:db8::1", "2001:db8::1", True),
        ("192.0.2.7", "x", "no address", False),
    ],
)
def test_the_gate_decides_by_where_a_name_leads(listed, host, address, lets):
    assert Gate.read(listed).lets(host, address) is lets


@pytest.fixture
def closed(serve, monkeypatch):
    """A server that is there, and that nobody allows."""
    reached = []

    async def answer(request):
        reached.append(request.url.path)
        return Response("secret")

    address = serve(Starlette(routes=[Route("/{path:path}", answer, methods=["GET", "POST"])]))
    monkeypatch.setenv("DROMIKON_OUTGOING", "192.0.2.0/24, elsewhere.example")
    yield address
    assert reached == []


async def test_every_client_passes_the_gate(closed):
    for call in (outgoing.client().get(closed), outgoing.shared_client(closed).post(closed)):
        with pytest.raises(NotAllowed, match="DROMIKON_OUTGOING"):
            await call
    with pytest.raises(DeviceError) as refused:
        await OnvifDevice(f"{closed}/onvif/device_service", "a", "b").measure_clock()
    assert refused.value.reason == "not_allowed"
    with pytest.raises(PicturesUnavailable, match="not allowed"):
        await HttpRecorder(closed, "token").picture("one", 0, 100)


def test_an_address_to_be_kept_is_checked_too(monkeypatch):
    monkeypatch.setenv("DROMIKON_OUTGOING", "gateway.invalid")
    outgoing.check_address("http://gateway.invalid/x")
    for url in ("http://127.0.0.1/", "http://other.invalid/", "http://[::1/", "http:///"):
        with pytest.raises(NotAllowed):
            outgoing.check_address(url)


async def test_no_cookie_goes_from_one_call_into_the_next(serve):
    got = []

    async def answer(request):
        got.append(request.cookies)
        return Response(headers={"set-cookie": "a=b"})

    address = serve(Starlette(routes=[Route("/", answer)]))
    for _ in range(2):
        await outgoing.shared_client(address).get(address)
    assert got == [{}, {}]
