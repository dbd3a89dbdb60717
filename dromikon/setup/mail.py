"""The mail server: the installation's. A test message goes to whoever asks for it."""

from typing import Annotated

from pydantic import Field, field_validator, model_validator

from dromikon import secrets
from dromikon.clock import now_ms
from dromikon.core.rules.controls import Choice, Number, Secret, Words
from dromikon.core.rules.parts import Part
from dromikon.core.words import N_
from dromikon.installation.mail import Mail, mail_server
from dromikon.installation.settings import keep_setting, setting
from dromikon.people.access import Everywhere
from dromikon.people.services import email_of
from dromikon.setup.sort import Row, Saved, Sort, Verb, refuse
from dromikon.wire.letters import Letter
from dromikon.wire.mail import MailRefused, NotNow, Security, hand_over
from dromikon.wire.outgoing import NotAllowed

_SECURITY = {"starttls": "STARTTLS", "tls": "TLS", "none": N_("none")}


class MailDocument(Part):
    """Where mail is handed over. Without a server, none is sent."""

    host: Annotated[str, Field(max_length=253), Words(N_("Server"), hint=N_("empty: no mail is sent"))] = ""
    port: Annotated[int, Field(ge=1, le=65_535), Number(N_("Port"))] = 587
    security: Annotated[Security, Choice(N_("Secured by"), words=_SECURITY)] = "starttls"
    sender: Annotated[str, Field(max_length=254), Words(N_("Sender"), hint=N_("such as dromikon@example.org"))] = ""
    user: Annotated[str, Field(max_length=254), Words(N_("User"))] = ""
    password: Annotated[str, Field(max_length=500), Secret(N_("Password"))] = ""

    @field_validator("sender")
    @classmethod
    def _sender(cls, sender: str) -> str:
        return email_of(sender)

    @model_validator(mode="after")
    def _whole(self) -> "MailDocument":
        if self.host and not self.sender:
            raise ValueError("A server needs a sender, in whose name it sends.")
        return self


def save_mail(who: Everywhere, document: MailDocument) -> None:
    """Set the mail server; the password that is kept stays when none is typed. Raises PermissionDenied."""
    who.need()
    kept = setting(Mail).password_sealed
    sealed = secrets.seal(document.password) if document.password else kept
    content = document.model_dump(exclude={"password"})
    keep_setting(
        who, Mail(**{**content, "host": document.host.strip()}, password_sealed=sealed if document.user else "")
    )


def send_test(who: Everywhere) -> str:
    """Send a message to whoever asks. Answers where it went. Raises Refused, PermissionDenied."""
    who.need()
    server, person = mail_server(), who.person
    if server is None or person is None:
        raise refuse("host", "Name a server first.")
    if not person.email:
        raise refuse("", "You have no e-mail address; give yourself one under People.")
    try:
        hand_over(
            server,
            Letter(
                to=person.email,
                subject="Dromikon can send mail",
                text="This message was asked for on the page Installation · Mail.",
                id=f"test-{now_ms()}",
                at=now_ms(),
            ),
        )
    except (MailRefused, NotNow, NotAllowed) as error:
        raise refuse("host", str(error)) from error
    return person.email


def _test(who: Everywhere, id: str) -> Saved:
    send_test(who)
    return Saved(id)


class MailSort(Sort[MailDocument]):
    name = "mail"
    label = N_("Mail")
    one = ""
    about = ""
    icon = "send"
    document = MailDocument
    whole = True
    single = True
    verbs = (Verb("test", N_("Send me a test message"), _test),)

    def rows(self, who: Everywhere) -> list[Row]:
        kept = setting(Mail)
        document = MailDocument(**kept.model_dump(exclude={"password_sealed"}))
        return [Row("mail", "", document, verbs=("test",) if kept.host else ())]

    def save(self, who: Everywhere, id: str | None, document: MailDocument) -> Saved:
        save_mail(who, document)
        return Saved("mail")
