"""The mail server, with a real one at the other end."""

import pytest
from aiosmtpd.controller import Controller
from aiosmtpd.smtp import AuthResult

from dromikon.installation.models import Setting
from dromikon.people.access import Everywhere
from dromikon.people.models import Person
from dromikon.refusals import Refused
from dromikon.secrets import unseal
from dromikon.setup import changes
from dromikon.setup.registry import SORTS
from tools.ports import free_port

MAIL = SORTS["mail"]


class Box:
    def __init__(self):
        self.messages = []

    async def handle_DATA(self, server, session, envelope):
        self.messages.append(envelope)
        return "250 OK"


@pytest.fixture
def box():
    made = Box()
    controller = Controller(
        made, hostname="127.0.0.1", port=free_port(), auth_require_tls=False, auth_required=True,
        authenticator=lambda server, session, envelope, mechanism, data: AuthResult(
            success=data.password == b"moss", handled=False
        ),
    )  # fmt: skip
    controller.start()
    made.port = controller.port
    yield made
    controller.stop()


@pytest.fixture
def who(garden):
    Person.objects.filter(username="ada").update(email="ada@example.org")
    return Everywhere(Person.objects.get(username="ada"))


def save(who, **content):
    base = {
        "host": "127.0.0.1",
        "security": "none",
        "sender": "dromikon@example.org",
        "user": "garden",
        "password": "moss",
    }
    return changes.save(MAIL, who, "mail", {**base, **content})


def test_a_test_message_reaches_whoever_asks(who, box):
    save(who, port=box.port)
    changes.do(MAIL, who, "mail", "test")
    (got,) = box.messages
    assert got.rcpt_tos == ["ada@example.org"] and b"Subject: Dromikon can send mail" in got.content
    assert b"From: Dromikon <dromikon@example.org>" in got.content and b"Message-ID:" in got.content


def test_the_password_is_sealed_never_shown_and_stays_when_none_is_typed(who, client):
    save(who)
    kept = Setting.objects.get(name="mail").value
    assert "moss" not in str(kept) and unseal(kept["password_sealed"]) == "moss"
    save(who, password="", port=2525)
    assert unseal(Setting.objects.get(name="mail").value["password_sealed"]) == "moss"
    client.force_login(who.person)
    page = client.get("/setup/mail").content.decode()
    assert "moss" not in page and kept["password_sealed"] not in page
    save(who, user="", password="")
    assert Setting.objects.get(name="mail").value["password_sealed"] == ""


@pytest.mark.parametrize(
    ("content", "said"),
    [
        ({"password": "wrong"}, "refuses this user"),
        ({"port": 1}, "could not be used"),
        ({"security": "starttls"}, "cannot do that"),
        ({"host": "10.9.9.9"}, "not allowed"),
        ({"host": "nowhere.invalid"}, "not allowed"),
    ],
)
def test_what_does_not_work_is_told_in_words(who, box, content, said):
    save(who, **{"port": box.port, **content})
    with pytest.raises(Refused) as refused:
        changes.do(MAIL, who, "mail", "test")
    assert said in refused.value.problems[0].message and box.messages == []


def test_what_cannot_be_a_server_is_refused_at_its_place(who):
    for content, path in (({"sender": "nobody"}, "sender"), ({"port": 0}, "port"), ({"sender": ""}, "")):
        with pytest.raises(Refused) as refused:
            save(who, **content)
        assert [p.path for p in refused.value.problems] == [path]
    Person.objects.filter(username="ada").update(email="")
    save(who)
    with pytest.raises(Refused, match="no e-mail address"):
        changes.do(MAIL, Everywhere(Person.objects.get(username="ada")), "mail", "test")
