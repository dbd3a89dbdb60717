"""Mail as it is written: plain text beside HTML with pictures inside (RFC 2045, RFC 2387), and always the same id for the
same message."""

from dataclasses import dataclass
from datetime import UTC, datetime
from email.headerregistry import Address
from email.message import EmailMessage
from email.utils import format_datetime, parseaddr
from html import escape

#: The right side of message ids: a name that nobody has (RFC 2606).
OF_US = "dromikon.invalid"


@dataclass(frozen=True, slots=True)
class Picture:
    """A JPEG and what it shows."""

    caption: str
    jpeg: bytes


@dataclass(frozen=True, slots=True)
class Letter:
    """What is sent to one address. `link`: to where the moment is; `at`: when it was written, ms UTC; `note`: a line behind
    the pictures; `link_words`: what the link reads."""

    to: str
    subject: str
    text: str
    id: str
    at: int
    link: str = ""
    urgent: bool = False
    pictures: tuple[Picture, ...] = ()
    note: str = ""
    link_words: str = "Open the moment"


def written(letter: Letter, sender: str) -> EmailMessage:
    """The message as it is handed over."""
    message = EmailMessage()
    name, address = parseaddr(sender)
    # What a rule puts into a subject must not begin another header.
    message["Subject"] = " ".join(letter.subject.split())[:200]
    message["From"] = Address(name or "Dromikon", addr_spec=address)
    message["To"] = letter.to
    message["Date"] = format_datetime(datetime.fromtimestamp(letter.at / 1000, UTC))
    message["Message-ID"] = f"<{letter.id}@{OF_US}>"
    message["Auto-Submitted"] = "auto-generated"
    if letter.urgent:
        message["Importance"] = "high"
        message["X-Priority"] = "1"
    captions = "\n".join(f"[{p.caption}]" for p in letter.pictures)
    lines = [letter.text, letter.link, captions, letter.note]
    message.set_content("\n\n".join(line for line in lines if line) + "\n")
    message.add_alternative(_html(letter), subtype="html")
    shown = message.get_payload()[-1]  # type: ignore[index]
    for i, picture in enumerate(letter.pictures):
        shown.add_related(  # type: ignore[union-attr]
            picture.jpeg, "image", "jpeg", cid=f"<{_cid(letter, i)}>", filename=f"{i + 1}.jpg", disposition="inline"
        )
    return message


def _cid(letter: Letter, number: int) -> str:
    return f"{letter.id}.{number}@{OF_US}"


def _html(letter: Letter) -> str:
    text = "<br>".join(escape(letter.text).splitlines())
    link = f'<p><a href="{escape(letter.link)}">{escape(letter.link_words)}</a></p>' if letter.link else ""
    pictures = "".join(
        f'<p><img src="cid:{_cid(letter, i)}" alt="{escape(p.caption)}" width="640"><br>{escape(p.caption)}</p>'
        for i, p in enumerate(letter.pictures)
    )
    note = f"<p>{escape(letter.note)}</p>" if letter.note else ""
    return f"<html><body><p>{text}</p>{link}{pictures}{note}</body></html>"
