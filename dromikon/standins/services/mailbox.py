"""A mail server that keeps what it is given (SMTP)."""

import asyncio
from email import message_from_bytes, policy
from email.message import EmailMessage

from aiosmtpd.smtp import SMTP, Envelope, Session

from dromikon.standins.services.received import Received


class Mailbox:
    """Takes every letter for everybody."""

    def __init__(self, received: Received) -> None:
        self.received = received

    async def run(self, port: int, host: str) -> None:
        """Until it is cancelled."""
        loop = asyncio.get_running_loop()
        server = await loop.create_server(
            lambda: SMTP(self, hostname="mail.quillmere.example", enable_SMTPUTF8=True), host, port
        )
        async with server:
            await server.serve_forever()

    async def handle_DATA(self, server: SMTP, session: Session, envelope: Envelope) -> str:  # noqa: N802
        content = envelope.content if isinstance(envelope.content, bytes) else (envelope.content or "").encode()
        letter = message_from_bytes(content, policy=policy.default)
        assert isinstance(letter, EmailMessage)
        body = letter.get_body(("plain",))
        pictures = [p.get_content() for p in letter.walk() if p.get_content_type() == "image/jpeg"]
        more = [
            ("from", str(letter["From"])),
            *([("importance", str(letter["Importance"]))] if letter["Importance"] else []),
        ]
        self.received.take(
            "mail", ", ".join(envelope.rcpt_tos), str(letter["Subject"]), body.get_content().strip() if body else "", more,
            str(letter["Message-ID"]) + ",".join(envelope.rcpt_tos), pictures,
        )  # fmt: skip
        return "250 It is in the box"
