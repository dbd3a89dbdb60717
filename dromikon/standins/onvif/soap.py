"""SOAP 1.2 as a camera speaks it: reading requests, checking who asks, writing answers and faults."""

import base64
import hashlib
import hmac
import secrets
from collections import OrderedDict
from dataclasses import dataclass, field
from datetime import UTC, datetime
from urllib.request import parse_http_list, parse_keqv_list

from lxml import etree

SOAP = "http://www.w3.org/2003/05/soap-envelope"
WSA = "http://www.w3.org/2005/08/addressing"
WSSE = "http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-wssecurity-secext-1.0.xsd"
WSU = "http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-wssecurity-utility-1.0.xsd"
NAMES = {
    # Topics of the door station's maker.
    "sta": "urn:stand-in-optics:stations",
    "s": SOAP,
    "wsa": WSA,
    "wsnt": "http://docs.oasis-open.org/wsn/b-2",
    "wstop": "http://docs.oasis-open.org/wsn/t-1",
    "tds": "http://www.onvif.org/ver10/device/wsdl",
    "trt": "http://www.onvif.org/ver10/media/wsdl",
    "tev": "http://www.onvif.org/ver10/events/wsdl",
    "tan": "http://www.onvif.org/ver20/analytics/wsdl",
    "tmd": "http://www.onvif.org/ver10/deviceIO/wsdl",
    "tptz": "http://www.onvif.org/ver20/ptz/wsdl",
    "tdc": "http://www.onvif.org/ver10/doorcontrol/wsdl",
    "tac": "http://www.onvif.org/ver10/accesscontrol/wsdl",
    "tam": "http://www.onvif.org/ver10/appmgmt/wsdl",
    "tth": "http://www.onvif.org/ver10/thermal/wsdl",
    "tt": "http://www.onvif.org/ver10/schema",
    "tns1": "http://www.onvif.org/ver10/topics",
    "ter": "http://www.onvif.org/ver10/error",
    "so": "urn:stand-in-optics:analytics",
    "xs": "http://www.w3.org/2001/XMLSchema",
    "xsi": "http://www.w3.org/2001/XMLSchema-instance",
}
#: A token may be this old or new by the camera's clock.
TOKEN_WINDOW = 300


@dataclass(frozen=True, slots=True)
class Request:
    """One request: its body element ("{namespace}Name") and header; and the end of the address that it came to, which names
    a subscription."""

    body: etree._Element
    header: etree._Element | None
    place: str = ""

    @property
    def name(self) -> str:
        return etree.QName(self.body).localname

    @property
    def namespace(self) -> str:
        return etree.QName(self.body).namespace or ""

    def text(self, name: str) -> str | None:
        """Text of the first element below the body with a local name."""
        found = next((e for e in self.body.iter() if isinstance(e.tag, str) and etree.QName(e).localname == name), None)
        return (found.text or "").strip() if found is not None else None


class Fault(Exception):
    """A SOAP fault with an ONVIF subcode."""

    def __init__(self, subcode: str, reason: str, status: int = 400) -> None:
        super().__init__(reason)
        self.subcode, self.reason, self.status = subcode, reason, status


def read(data: bytes, place: str = "") -> Request:
    """Parse a request. Raises Fault for anything that is not SOAP 1.2 with a body."""
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False)
    try:
        root = etree.fromstring(data, parser)
    except etree.XMLSyntaxError as error:
        raise Fault("ter:WellFormed", "The request is not well-formed XML.") from error
    body = root.find(f"{{{SOAP}}}Body")
    if root.tag != f"{{{SOAP}}}Envelope" or body is None or not len(body):
        raise Fault("ter:WellFormed", "The request is not a SOAP 1.2 envelope with a body.")
    return Request(body[0], root.find(f"{{{SOAP}}}Header"), place)


def answer(body: str, action: str = "") -> bytes:
    """An envelope around the body's XML."""
    spaces = " ".join(f'xmlns:{prefix}="{uri}"' for prefix, uri in NAMES.items())
    header = f"<s:Header><wsa:Action>{action}</wsa:Action></s:Header>" if action else ""
    return f'<?xml version="1.0" encoding="UTF-8"?><s:Envelope {spaces}>{header}<s:Body>{body}</s:Body></s:Envelope>'.encode()


def fault(problem: Fault) -> bytes:
    return answer(
        "<s:Fault><s:Code><s:Value>s:Sender</s:Value><s:Subcode>"
        f"<s:Value>{problem.subcode}</s:Value></s:Subcode></s:Code>"
        f'<s:Reason><s:Text xml:lang="en">{problem.reason}</s:Text></s:Reason></s:Fault>'
    )


@dataclass
class Account:
    """The camera's one user, known by password digest (WS-Security) or HTTP digest (RFC 7616)."""

    user: str
    password: str
    realm: str = "stand-in camera"
    _nonces: OrderedDict[str, None] = field(default_factory=OrderedDict)
    _challenge: str = field(default_factory=lambda: secrets.token_hex(16))

    def token_is_good(self, request: Request, now: datetime) -> bool:
        """Whether the envelope carries a valid, fresh and unused UsernameToken."""
        token = (
            request.header.find(f"{{{WSSE}}}Security/{{{WSSE}}}UsernameToken") if request.header is not None else None
        )
        if token is None:
            return False
        nonce = token.findtext(f"{{{WSSE}}}Nonce") or ""
        created = token.findtext(f"{{{WSU}}}Created") or ""
        given = token.findtext(f"{{{WSSE}}}Password") or ""
        try:
            made = datetime.fromisoformat(created.strip())
            raw = base64.b64decode(nonce)
        except ValueError:
            return False
        made = made if made.tzinfo else made.replace(tzinfo=UTC)
        wanted = base64.b64encode(
            hashlib.sha1(raw + created.strip().encode() + self.password.encode(), usedforsecurity=False).digest()
        ).decode()
        fresh = abs((made - now).total_seconds()) <= TOKEN_WINDOW and nonce not in self._nonces
        good = (
            token.findtext(f"{{{WSSE}}}Username") == self.user and hmac.compare_digest(given.strip(), wanted) and fresh
        )
        if good:
            self._nonces[nonce] = None
            if len(self._nonces) > 5000:
                self._nonces.popitem(last=False)
        return good

    def challenge(self) -> str:
        """The WWW-Authenticate header."""
        return f'Digest realm="{self.realm}", qop="auth", algorithm=SHA-256, nonce="{self._challenge}"'

    def digest_is_good(self, header: str, method: str) -> bool:
        """Whether an Authorization header answers our challenge."""
        if not header.startswith("Digest "):
            return False
        part = dict(_pairs(header.removeprefix("Digest ")))
        if part.get("username") != self.user or part.get("nonce") != self._challenge:
            return False
        first = _sha(f"{self.user}:{self.realm}:{self.password}")
        second = _sha(f"{method}:{part.get('uri', '')}")
        tail = f"{part.get('nc', '')}:{part.get('cnonce', '')}:{part.get('qop', '')}"
        return hmac.compare_digest(part.get("response", ""), _sha(f"{first}:{self._challenge}:{tail}:{second}"))

    def stream_challenge(self) -> str:
        """The WWW-Authenticate header of a stream: as devices do it there, in the form of RFC 2069."""
        return f'Digest realm="{self.realm}", nonce="{self._challenge}"'

    def stream_digest_is_good(self, header: str, method: str) -> bool:
        """Whether an Authorization header answers a stream's challenge."""
        part = dict(_pairs(header.removeprefix("Digest "))) if header.startswith("Digest ") else {}
        if part.get("username") != self.user or part.get("nonce") != self._challenge:
            return False
        first = _md5(f"{self.user}:{self.realm}:{self.password}")
        second = _md5(f"{method}:{part.get('uri', '')}")
        return hmac.compare_digest(part.get("response", ""), _md5(f"{first}:{self._challenge}:{second}"))


def _md5(text: str) -> str:
    return hashlib.md5(text.encode(), usedforsecurity=False).hexdigest()


def _sha(text: str) -> str:
    return hashlib.sha256(text.encode()).hexdigest()


def _pairs(text: str) -> list[tuple[str, str]]:
    return list(parse_keqv_list(parse_http_list(text)).items())
