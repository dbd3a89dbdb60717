"""Sending mail: SMTP (RFC 5321) with STARTTLS (RFC 3207) or TLS from the beginning (RFC 8314), through the gate."""

import smtplib
import socket
import ssl
from dataclasses import dataclass
from typing import Any, Literal

from dromikon.wire.letters import Letter, written
from dromikon.wire.outgoing import resolve_now, tls

Security = Literal["starttls", "tls", "none"]
#: A server is waited for so long, in seconds.
PATIENCE = 10.0


class MailRefused(Exception):
    """It will not be taken; the message says why."""


class NotNow(Exception):
    """It was not taken now and may be later; the message says why. A letter that arrived all the same has the same id."""


class MailboxBusy(NotNow):
    """The server takes nothing for this one address just now; it takes mail for others."""


@dataclass(frozen=True, slots=True)
class MailServer:
    """Where mail is handed over, and in whose name."""

    host: str
    port: int
    security: Security
    sender: str
    user: str = ""
    password: str = ""


def hand_over(server: MailServer, letter: Letter) -> str:
    """Hand one letter over; answers what the server said. Raises NotNow, MailRefused, NotAllowed."""
    message = written(letter, server.sender)
    try:
        address = resolve_now(server.host, server.port)
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
        raise _of_recipient(letter.to, error) from error
    except smtplib.SMTPResponseException as error:
        # 4yz is for now, 5yz for good (RFC 5321, 4.2.1).
        sort = NotNow if 400 <= error.smtp_code < 500 else MailRefused
        raise sort(f"The mail server answered {error.smtp_code} {_said(error.smtp_error)}.") from error
    except ssl.SSLCertVerificationError as error:
        raise NotNow(f"Nobody vouches for the mail server's certificate: {error.verify_message}.") from error
    except (smtplib.SMTPException, OSError) as error:
        raise NotNow(f"The mail server could not be used: {error}.") from error
    return f"{server.host} took it."


def _of_recipient(to: str, error: smtplib.SMTPRecipientsRefused) -> "MailRefused | MailboxBusy":
    code, said = next(iter(error.recipients.values()), (550, b""))
    text = f"The mail server does not take mail for {to}: {code} {_said(said)}."
    return MailboxBusy(text) if 400 <= code < 500 else MailRefused(text)


def _said(answer: bytes | str) -> str:
    text = answer.decode("utf-8", "replace") if isinstance(answer, bytes) else answer
    return " ".join(text.split())[:200]


def _client(server: MailServer, address: str) -> smtplib.SMTP:
    """A client that connects to that very address, and expects the certificate of the name."""

    class Pinned(smtplib.SMTP_SSL if server.security == "tls" else smtplib.SMTP):  # type: ignore[misc]
        def _get_socket(self, host: str, port: int, timeout: float) -> Any:
            made = socket.create_connection((address, port), timeout)
            return tls().wrap_socket(made, server_hostname=server.host) if server.security == "tls" else made

    return Pinned(server.host, server.port, timeout=PATIENCE)
