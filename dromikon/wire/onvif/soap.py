"""SOAP 1.2 over HTTP for devices we do not trust: answers are limited in size and parsed without entities.

Authentication is WS-UsernameToken (password digest) in the envelope, and HTTP digest when the device asks for it.
"""

import base64
import hashlib
import secrets
from collections.abc import Mapping
from datetime import datetime, timedelta

import httpx
from lxml import etree

from dromikon.wire.onvif.namespaces import BASE64, PASSWORD_DIGEST, PREFIXES, SOAP, WSA, WSSE, WSU
from dromikon.wire.outgoing import NotAllowed, client

#: No honest answer to the calls made here is larger.
MAX_ANSWER = 4 * 1024 * 1024


class DeviceError(Exception):
    """A device could not be used. `reason` is a word for programs, the message one for people."""

    def __init__(self, reason: str, message: str) -> None:
        super().__init__(message)
        self.reason = reason


def parse_xml(data: bytes) -> etree._Element:
    """Parse XML from outside. Raises DeviceError("malformed") also for a document type, which SOAP forbids."""
    try:
        root = etree.fromstring(
            data, etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)
        )
    except etree.XMLSyntaxError as error:
        raise DeviceError("malformed", f"The device sent XML that cannot be read: {error.msg}") from error
    if getattr(root.getroottree().docinfo, "doctype", ""):
        raise DeviceError("malformed", "The device sent XML with a document type, which SOAP forbids.")
    return root


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

    def __init__(self, user: str, password: str, timeout: float = 10.0) -> None:
        self.user, self.password = user, password
        self.clock_offset = timedelta()
        self._http = client(timeout, auth=httpx.DigestAuth(user, password) if user else None)

    async def close(self) -> None:
        await self._http.aclose()

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

        Raises DeviceError with reason not_allowed, unreachable, timeout, refused (credentials), oversized, malformed or fault.
        """
        envelope = self._envelope(address, action, body, now if authenticate else None, reference)
        headers = {"Content-Type": f'application/soap+xml; charset=utf-8; action="{action}"'}
        answer = await self._post(address, etree.tostring(envelope), headers, timeout)
        return _body_of(answer)

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

    async def _post(self, address: str, data: bytes, headers: Mapping[str, str], timeout: float | None) -> bytes:
        limit = httpx.Timeout(timeout) if timeout else httpx.USE_CLIENT_DEFAULT
        try:
            async with self._http.stream("POST", address, content=data, headers=headers, timeout=limit) as response:
                answer = bytearray()
                async for chunk in response.aiter_bytes():
                    answer += chunk
                    if len(answer) > MAX_ANSWER:
                        raise DeviceError("oversized", f"The device's answer is larger than {MAX_ANSWER >> 20} MiB.")
                if response.status_code in (401, 403):
                    raise DeviceError("refused", "The device refuses the user name or password.")
                if response.status_code != 200 and not answer:
                    raise DeviceError("fault", f"The device answered HTTP {response.status_code}.")
                return bytes(answer)
        except httpx.TimeoutException as error:
            raise DeviceError("timeout", "The device stopped answering.") from error
        except NotAllowed as error:
            raise DeviceError("not_allowed", str(error)) from error
        except (httpx.HTTPError, httpx.InvalidURL) as error:
            raise DeviceError("unreachable", f"The device cannot be reached: {error}") from error


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
