"""SOAP 1.2 over HTTP for devices we do not trust: answers are limited in size and parsed without entities.

Authentication is WS-UsernameToken (password digest) in the envelope, and HTTP digest when the device asks for it.
"""

import base64
import hashlib
import secrets
from collections.abc import Mapping
from datetime import datetime, timedelta
from time import perf_counter
from urllib.parse import urljoin, urlsplit

import aiohttp
from lxml import etree
from yarl import URL

from dromikon.core import reading
from dromikon.wire.calls import check_numeric, session
from dromikon.wire.certificates import pinned
from dromikon.wire.onvif.exchanges import Exchanges
from dromikon.wire.onvif.namespaces import BASE64, PASSWORD_DIGEST, PREFIXES, SOAP, WSA, WSSE, WSU
from dromikon.wire.outgoing import NotAllowed

#: No honest answer to the calls made here is larger.
MAX_ANSWER = 4 * 1024 * 1024
#: Answers that send us on, and how often that is followed.
MOVED, MOST_MOVES = (301, 302, 307, 308), 3
#: An idle connection is kept for so long, in seconds: devices close theirs after a few.
KEEP = 2.0


#: Reasons that mean that nobody answers: whatever else was to be asked can wait.
NOBODY = ("unreachable", "timeout")


class DeviceError(Exception):
    """A device could not be used. `reason` is a word for programs, the message one for people."""

    def __init__(self, reason: str, message: str) -> None:
        super().__init__(message)
        self.reason = reason


def parse_xml(data: bytes) -> etree._Element:
    """Parse XML from outside. Raises DeviceError("malformed") also for a document type, which SOAP forbids."""
    try:
        return reading.xml(data)
    except reading.NotReadable as error:
        raise DeviceError("malformed", f"What the device sent cannot be read: {error}.") from error


def username_token(user: str, password: str, created: datetime) -> etree._Element:
    """wsse:Security with a digest: Base64(SHA-1(nonce + created + password)), WS-Security UsernameToken Profile 1.0."""
    nonce = secrets.token_bytes(16)
    stamp = created.strftime("%Y-%m-%dT%H:%M:%SZ")
    digest = hashlib.sha1(nonce + stamp.encode() + password.encode(), usedforsecurity=False).digest()
    security = etree.Element(f"{{{WSSE}}}Security", {f"{{{SOAP}}}mustUnderstand": "1"})
    token = etree.SubElement(security, f"{{{WSSE}}}UsernameToken")
    etree.SubElement(token, f"{{{WSSE}}}Username").text = user
    secret = etree.SubElement(token, f"{{{WSSE}}}Password", {"Type": PASSWORD_DIGEST})
    secret.text = base64.b64encode(digest).decode()
    coded = etree.SubElement(token, f"{{{WSSE}}}Nonce", {"EncodingType": BASE64})
    coded.text = base64.b64encode(nonce).decode()
    etree.SubElement(token, f"{{{WSU}}}Created").text = stamp
    return security


class SoapClient:
    """Calls to one device. `clock_offset` (device minus ours) is added to the token's time."""

    def __init__(self, user: str, password: str, timeout: float = 10.0, certificate: str = "") -> None:
        """`certificate`: the only one (PEM) that is trusted, instead of what authorities vouch for."""
        self.user, self.password = user, password
        self.clock_offset = timedelta()
        self.exchanges = Exchanges()
        #: Where addresses have moved to, as the device said.
        self._moved: dict[str, str] = {}
        self._trusting = pinned(certificate) if certificate else None
        self._timeout = timeout
        self._http: aiohttp.ClientSession | None = None

    async def close(self) -> None:
        if self._http is not None:
            await self._http.close()

    async def call(
        self,
        address: str,
        action: str,
        body: etree._Element,
        now: datetime,
        *,
        authenticate: bool = True,
        timeout: float | None = None,
        reference: tuple[etree._Element, ...] = (),
    ) -> etree._Element:
        """POST one request and return the first child of the answer's Body.

        Raises DeviceError with reason not_allowed, unreachable, certificate, timeout, refused (credentials), oversized,
        malformed or fault.
        """
        envelope = etree.tostring(self._envelope(address, action, body, now if authenticate else None, reference))
        headers = {"Content-Type": f'application/soap+xml; charset=utf-8; action="{action}"'}
        for _ in range(MOST_MOVES):
            status, answer = await self._noted(self._moved.get(address, address), envelope, headers, timeout, now, body)
            if status not in MOVED:
                return _body_of(answer)
            self._moved[address] = answer.decode()
        raise DeviceError("malformed", "The device sends us on and on.")

    async def _noted(
        self, address: str, data: bytes, headers: Mapping[str, str], timeout: float | None, now: datetime, body: etree._Element
    ) -> tuple[int, bytes]:  # fmt: skip
        """Post, and keep what was asked and answered."""
        at, begun, operation = round(now.timestamp() * 1000), perf_counter(), etree.QName(body).localname
        status, answer, failed = 0, b"", ""
        try:
            status, answer = await self._post(address, data, headers, timeout)
        except DeviceError as error:
            failed = str(error)
            raise
        finally:
            self.exchanges.note(at, operation, data, status, answer, (perf_counter() - begun) * 1000, failed)
        return status, answer

    def _envelope(
        self,
        address: str,
        action: str,
        body: etree._Element,
        now: datetime | None,
        reference: tuple[etree._Element, ...],
    ) -> etree._Element:
        envelope = etree.Element(f"{{{SOAP}}}Envelope", nsmap=_used_prefixes())
        header = etree.SubElement(envelope, f"{{{SOAP}}}Header")
        etree.SubElement(header, f"{{{WSA}}}Action").text = action
        etree.SubElement(header, f"{{{WSA}}}To").text = address
        for parameter in reference:
            header.append(parameter)
        if now is not None and self.user:
            header.append(username_token(self.user, self.password, now + self.clock_offset))
        etree.SubElement(envelope, f"{{{SOAP}}}Body").append(body)
        return envelope

    async def _post(
        self, address: str, data: bytes, headers: Mapping[str, str], timeout: float | None
    ) -> tuple[int, bytes]:
        """Status and body; for an address that has moved, where to."""
        limit = aiohttp.ClientTimeout(total=timeout or self._timeout)
        try:
            check_numeric(URL(address).host or "")
            async with self._session().post(
                address, data=data, headers=headers, timeout=limit, allow_redirects=False
            ) as response:
                return _read(address, response.status, response.headers.get("location", ""), await _limited(response))
        except TimeoutError as error:
            raise DeviceError("timeout", "The device stopped answering.") from error
        except NotAllowed as error:
            raise DeviceError("not_allowed", str(error)) from error
        except aiohttp.ClientConnectorCertificateError as error:
            raise DeviceError("certificate", "Nobody vouches for the device's certificate.") from error
        except (aiohttp.ClientError, ValueError) as error:
            said = str(error) or type(error).__name__
            raise DeviceError("unreachable", f"The device cannot be reached: {said}") from error

    def _session(self) -> aiohttp.ClientSession:
        """The connections to the device, which belong to the event loop that asks first."""
        if self._http is None:
            # Digest is answered when the device asks for it.
            digest = (aiohttp.DigestAuthMiddleware(self.user, self.password),) if self.user else ()
            self._http = session(self._trusting, keep=KEEP, middlewares=digest)
        return self._http


async def _limited(response: aiohttp.ClientResponse) -> bytes:
    answer = bytearray()
    async for chunk in response.content.iter_chunked(65_536):
        answer += chunk
        if len(answer) > MAX_ANSWER:
            raise DeviceError("oversized", f"The device's answer is larger than {MAX_ANSWER >> 20} MiB.")
    return bytes(answer)


def _read(address: str, status: int, location: str, answer: bytes) -> tuple[int, bytes]:
    if status in (401, 403):
        raise DeviceError("refused", "The device refuses the user name or password.")
    if status in MOVED:
        return status, moved_to(address, location).encode()
    if status != 200 and not answer:
        raise DeviceError("fault", f"The device answered HTTP {status}.")
    return status, answer


def moved_to(address: str, location: str) -> str:
    """Where a device sends us on to. Only to itself: to the same host, at the same port, or from HTTP to HTTPS. Raises
    DeviceError."""
    there = urljoin(address, location)
    ours, theirs = urlsplit(address), urlsplit(there)
    same = (ours.scheme, ours.netloc) == (theirs.scheme, theirs.netloc)
    secured = (ours.scheme, theirs.scheme) == ("http", "https") and ours.hostname == theirs.hostname
    if not location or not (same or secured):
        raise DeviceError("malformed", "The device sends us on to another host, where its password does not belong.")
    return there


def _used_prefixes() -> dict[str, str]:
    return {k: v for k, v in PREFIXES.items() if k in ("s", "wsa", "wsnt", "tt", "tns1")}


def _body_of(answer: bytes) -> etree._Element:
    root = parse_xml(answer)
    body = root.find(f"{{{SOAP}}}Body")
    if body is None or len(body) == 0:
        raise DeviceError("malformed", "The device's answer is not a SOAP message.")
    first = body[0]
    if first.tag == f"{{{SOAP}}}Fault":
        text = " ".join(str(piece) for piece in first.itertext()).split()
        said = " ".join(text)[:200]
        refused = "NotAuthorized" in said or "FailedAuthentication" in said
        raise DeviceError("refused" if refused else "fault", f"The device answered with a fault: {said}")
    return first
