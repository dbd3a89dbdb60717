"""The gate for outgoing connections: decided by address after resolution, for every client."""

import asyncio
import socket
import ssl
import subprocess
import threading

import pytest
from starlette.applications import Starlette
from starlette.responses import Response
from starlette.routing import Route

from dromikon.wire import calls, outgoing
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
    named = closed.replace("127.0.0.1", "localhost")
    for call in (outgoing.client().get(closed), calls.call("POST", closed), calls.call("POST", named)):
        with pytest.raises(NotAllowed, match="DROMIKON_OUTGOING"):
            await call
    await calls.close()
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
        assert (await calls.call("GET", address)).is_success
    await calls.close()
    assert got == [{}, {}]


@pytest.fixture
def raw():
    """A server that does with each connection what a test says; its port, and what it was sent."""
    got, answers = [], []
    listening = socket.create_server(("127.0.0.1", 0))

    def work():
        while True:
            try:
                connection, _ = listening.accept()
            except OSError:
                return
            with connection:
                while sent := connection.recv(65536):
                    got.append(sent)
                    connection.sendall(answers.pop(0) if answers else b"")
                    if not answers:
                        break

    threading.Thread(target=work, daemon=True).start()
    yield listening.getsockname()[1], got, answers
    listening.shutdown(socket.SHUT_RDWR)
    listening.close()


@pytest.mark.parametrize("method", ["GET", "PUT", "DELETE", "POST"])
async def test_a_call_that_breaks_off_is_not_made_again(raw, method):
    port, got, answers = raw
    answers += [b"HTTP/1.1 204 No Content\r\n\r\n", b""]
    await calls.call(method, f"http://127.0.0.1:{port}/first")
    with pytest.raises(calls.NoAnswer):
        await calls.call(method, f"http://127.0.0.1:{port}/second")
    await calls.close()
    assert [g.split()[1] for g in got] == [b"/first", b"/second"], "over the kept connection, once"


async def test_what_went_wrong_is_told_apart(raw, serve):
    port, got, answers = raw
    answers += [b"this is no HTTP\r\n\r\n"]
    with pytest.raises(calls.NoAnswer):
        await calls.call("GET", f"http://127.0.0.1:{port}/")
    with pytest.raises(calls.NotSent):
        await calls.call("GET", "http://127.0.0.1:9/")
    for url in ("http://[::1/", "nowhere", "ftp://127.0.0.1/", "http://127.0.0.1:99999/"):
        with pytest.raises(calls.NoAddress):
            await calls.call("GET", url)
    address = serve(
        Starlette(
            routes=[
                Route("/moved", lambda r: Response(status_code=302, headers={"location": "/long"})),
                Route("/long", lambda r: Response(b"x" * 5_000_000)),
            ]
        )
    )
    assert (await calls.call("GET", f"{address}/moved")).status == 302, "not followed"
    assert (await calls.call("GET", f"{address}/long")).status == 200, "not read to its end"
    await calls.close()


async def test_a_certificate_that_nobody_vouches_for_is_tried_again_like_a_host_out_of_reach(tmp_path):
    key, certificate = tmp_path / "key.pem", tmp_path / "certificate.pem"
    command = ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "1", "-subj", "/CN=localhost"]
    subprocess.run([*command, "-keyout", key, "-out", certificate], check=True, capture_output=True)
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    context.load_cert_chain(certificate, key)
    server = await asyncio.start_server(lambda reader, writer: writer.close(), "127.0.0.1", 0, ssl=context)
    with pytest.raises(calls.NotSent, match="(?i)certificate"):
        await calls.call("POST", f"https://127.0.0.1:{server.sockets[0].getsockname()[1]}/")
    await calls.close()
    server.close()
