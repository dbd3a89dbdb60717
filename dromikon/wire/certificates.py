"""Certificates of devices that no authority vouches for: seen once, trusted by a person, and from then on only that one."""

import hashlib
import ssl
from urllib.parse import urlsplit

import anyio
import httpcore
from cryptography import x509
from cryptography.hazmat.primitives.serialization import Encoding

from dromikon.wire.outgoing import GatedBackend

PATIENCE = 5.0


def pinned(certificate: str) -> ssl.SSLContext:
    """A context that takes this very certificate (PEM), whatever name it is for, and no other. Raises ValueError."""
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT)
    context.check_hostname = False
    # The certificate itself is the anchor, also where it was issued by somebody.
    context.verify_flags |= ssl.VERIFY_X509_PARTIAL_CHAIN
    try:
        context.load_verify_locations(cadata=certificate)
    except ssl.SSLError as error:
        raise ValueError("This is no certificate.") from error
    return context


def fingerprint(certificate: str) -> str:
    """SHA-256 over the certificate, in pairs, as devices show it."""
    whole = x509.load_pem_x509_certificate(certificate.encode()).public_bytes(Encoding.DER)
    digest = hashlib.sha256(whole).hexdigest().upper()
    return ":".join(digest[i : i + 2] for i in range(0, len(digest), 2))


async def shown_by(address: str) -> str:
    """The certificate (PEM) that the host of an address shows, without trusting it; empty when it shows none. Raises
    NotAllowed."""
    parts = urlsplit(address)
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT)
    context.check_hostname, context.verify_mode = False, ssl.CERT_NONE
    try:
        with anyio.fail_after(PATIENCE):
            stream = await GatedBackend().connect_tcp(parts.hostname or "", parts.port or 443, PATIENCE)
            secured = await stream.start_tls(context, parts.hostname, PATIENCE)
            shown = secured.get_extra_info("ssl_object").getpeercert(binary_form=True)
            await secured.aclose()
    except (OSError, TimeoutError, httpcore.NetworkError, httpcore.TimeoutException, ssl.SSLError):
        return ""
    return ssl.DER_cert_to_PEM_cert(shown) if shown else ""
