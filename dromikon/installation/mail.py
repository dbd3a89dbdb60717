"""The mail server that messages are handed to, as administrators set it on the page."""

from typing import ClassVar

from dromikon import secrets
from dromikon.installation.settings import Document, setting
from dromikon.wire.mail import MailServer, Security


class Mail(Document):
    """How it is kept: the password sealed."""

    kept_as: ClassVar[str] = "mail"

    host: str = ""
    port: int = 587
    security: Security = "starttls"
    sender: str = ""
    user: str = ""
    password_sealed: str = ""


def mail_server() -> MailServer | None:
    """The server as it is set now; None where none is. Raises SealBroken."""
    kept = setting(Mail)
    if not kept.host:
        return None
    return MailServer(kept.host, kept.port, kept.security, kept.sender, kept.user, secrets.unseal(kept.password_sealed))
