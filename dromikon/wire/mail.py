"""Sending mail: SMTP (RFC 5321) with STARTTLS (RFC 3207) or TLS from the beginning (RFC 8314), through the gate."""

import smtplib
import socket
from dataclasses import dataclass
from email.message import EmailMessage
from email.utils import formatdate, make_msgid
from typing import Any, Literal

from dromikon.wire.outgoing import gate, tls

Security = Literal["starttls", "tls", "none"]
#: A server is waited for so long, in seconds.
PATIENCE = 10.0


class MailRefused(Exception):
    """It could not be sent; the message says why."""


@dataclass(frozen=True, slots=True)
class MailServer:
    """Where mail is handed over, and in whose name."""

    host: str
    port: int
    security: Security
    sender: str
    user: str = ""
    password: str = ""


def send(server: MailServer, to: str, subject: str, text: str) -> None:
    """Hand one message over. Raises MailRefused, NotAllowed."""
    message = EmailMessage()
    message["From"], message["To"], message["Subject"] = server.sender, to, subject
    message["Date"], message["Message-ID"] = formatdate(localtime=False), make_msgid(domain="dromikon.invalid")
    message.set_content(text)
    address = _address(server.host, server.port)
    try:
        with _client(server, address) as client:
            if server.security == "starttls":
                client.starttls(context=tls())
            if server.user:
                client.login(server.user, server.password)
            client.send_message(message)
    except smtplib.SMTPAuthenticationError as error:
        raise MailRefused("The mail server refuses this user with this password.") from error
    except smtplib.SMTPNotSupportedError as error:
        raise MailRefused(f"The mail server cannot do that: {error}.") from error
    except smtplib.SMTPRecipientsRefused as error:
        raise MailRefused(f"The mail server does not take mail for {to}.") from error
    except (smtplib.SMTPException, OSError) as error:
        raise MailRefused(f"The mail server could not be used: {error}.") from error


def _address(host: str, port: int) -> str:
    """The address that the gate lets through. Raises NotAllowed, MailRefused."""
    try:
        found = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)
    except (OSError, UnicodeError) as error:
        gate().check_unresolved(host)
        raise MailRefused(f"The name {host} leads nowhere.") from error
    return gate().choose(host, [str(f[4][0]) for f in found])


def _client(server: MailServer, address: str) -> smtplib.SMTP:
    """A client that connects to that very address, and expects the certificate of the name."""

    class Pinned(smtplib.SMTP_SSL if server.security == "tls" else smtplib.SMTP):  # type: ignore[misc]
        def _get_socket(self, host: str, port: int, timeout: float) -> Any:
            made = socket.create_connection((address, port), timeout)
            return tls().wrap_socket(made, server_hostname=server.host) if server.security == "tls" else made

    return Pinned(server.host, server.port, timeout=PATIENCE)
