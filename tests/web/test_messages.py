"""Messages to people: mail, text, push, call, chat and calls in turn, with servers that are not ours where there are any."""

import asyncio
import json
from email import message_from_bytes, policy
from ssl import PROTOCOL_TLS_SERVER, SSLContext

import pytest
from aiosmtpd.controller import Controller
from django.utils.translation import trans_real
from starlette.applications import Starlette
from starlette.responses import Response
from starlette.routing import Route

from dromikon.authoring.services import save, switch
from dromikon.clock import now_ms
from dromikon.core.kinds import KINDS
from dromikon.core.rules.checks import check
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.parts import Ref
from dromikon.core.rules.sentence import sentence
from dromikon.daybook.models import EventRow, Resting, Step
from dromikon.daybook.services import record_act
from dromikon.desk.models import Alarm
from dromikon.desk.services import answer
from dromikon.engine.deliver import Deliverers
from dromikon.engine.lanes import GIVES_UP_AFTER
from dromikon.facts import facts_of
from dromikon.installation.gateways import Gateways, gateway
from dromikon.installation.settings import setting
from dromikon.people.access import Everywhere
from dromikon.people.models import Person
from dromikon.rulebook.models import Rule
from dromikon.setup import changes
from dromikon.setup.destinations import DestinationDocument, save_destination
from dromikon.setup.registry import SORTS
from dromikon.sites.models import Site
from dromikon.sources.models import Recorder
from dromikon.standins.picture.frame import Studio
from dromikon.standins.recorder import StandInRecorder
from dromikon.standins.run import RECORDER_TOKEN
from dromikon.standins.world.world import World
from dromikon.wire import outgoing
from tests.conftest import GARDENS, certificate
from tests.foreign import LANGUAGE, foreign
from tests.small_site import happens
from tools.ports import free_port
from tools.words import write_language

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.timeless]
CROSSED = happens("scene.line_crossed", points=[{"id": "jetty-line"}])
ALARM = {"do": "alarm", "title": "Jetty", "groups": [{"id": "operators"}]}
PEOPLE = {"opal": "opal@example.org", "dara": "dara@example.org", "oskar": ""}


class Box:
    """Keeps what comes; answers as it is told to."""

    def __init__(self):
        self.letters, self.answers, self.full = [], [], set()

    async def handle_RCPT(self, server, session, envelope, address, options):  # noqa: N802
        if address in self.full:
            return "452 this mailbox is full"
        envelope.rcpt_tos.append(address)
        return "250 known"

    async def handle_DATA(self, server, session, envelope):  # noqa: N802
        said = self.answers.pop(0) if self.answers else "250 taken"
        if said.startswith("250"):
            self.letters.append((envelope, message_from_bytes(envelope.content, policy=policy.default)))
        return said


@pytest.fixture
def people(garden):
    for name, address in PEOPLE.items():
        Person.objects.filter(username=name).update(email=address, push=f"topic-{name}", chat="", number="")
    Person.objects.filter(username="dara").update(number="+447700900101")
    Person.objects.filter(username="oskar").update(number="+447700900102")
    return {p.username: p for p in Person.objects.filter(username__in=PEOPLE)}


def everywhere():
    return Everywhere(Person.objects.get(username="ada"))


@pytest.fixture
def box(people, tmp_path, monkeypatch):
    cert, key = certificate(tmp_path, "localhost")
    monkeypatch.setenv("SSL_CERT_FILE", str(cert))
    outgoing.tls.cache_clear()
    context, kept = SSLContext(PROTOCOL_TLS_SERVER), Box()
    context.load_cert_chain(cert, key)
    running = []

    def start(**settings):
        controller = Controller(kept, hostname="127.0.0.1", port=free_port(), tls_context=context)
        controller.start()
        running.append(controller)
        content = {
            "host": "127.0.0.1",
            "port": controller.port,
            "security": "none",
            "sender": "dromikon@example.org",
        }
        changes.save(SORTS["mail"], everywhere(), "mail", content | settings)
        return kept

    yield start
    for controller in running:
        controller.stop()
    outgoing.tls.cache_clear()


@pytest.fixture
def gates(people, serve):
    """A gateway for each way: what was posted where."""
    got = []

    async def take(request):
        got.append((request.url.path, dict(request.headers), (await request.body()).decode()))
        return Response(status_code=202)

    where = serve(Starlette(routes=[Route("/{rest:path}", take, methods=["POST"])]))
    parts = {way: {"address": f"{where}/{way}", "token": f"secret-{way}"} for way in ("text", "push", "call", "chat")}
    changes.save(SORTS["gateways"], everywhere(), "gateways", parts)
    return got


@pytest.fixture
def fire(bench, as_):
    """A rule with some steps is made and set off; what is due is delivered. Answers with its outside steps."""

    def go(*response, ahead=0, **parts):
        record_act(GARDENS, "facts", now_ms())
        document = {"name": "Told", "cause": CROSSED, "response": list(response), **parts}
        switch(as_("ines"), save(as_("ines"), document), True)
        bench.run()
        bench.cross()
        bench.run()
        return work(ahead)

    go.bench = bench
    return go


def work(ahead=0):
    async def run():
        deliverers = Deliverers(lambda: now_ms() + ahead)
        for _ in range(2):
            await deliverers.look()
            await deliverers.settle()
        await deliverers.close()

    asyncio.run(run())
    return list(Step.objects.exclude(delivery="inside").exclude(action="evidence").order_by("id"))


# -- mail ------------------------------------------------------------------------------------------------------------------


def test_mail_carries_pictures_inside_a_link_and_says_how_urgent_it_is(fire, box, serve, tmp_path):
    changes.save(SORTS["reach"], everywhere(), "reach", {"address": "https://dromikon.example/"})
    kept = box()
    recorder = StandInRecorder(Studio(World(), tmp_path), RECORDER_TOKEN)
    Recorder.objects.update(address=serve(recorder.app()))
    steps = fire(
        {"do": "mail", "groups": [{"id": "duty"}], "persons": [{"id": str(Person.objects.get(username="opal").pk)}],
         "subject": "Jetty: {class}\r\nBcc: all@example.org", "text": "<b>{point}</b>", "moments": [-1, 0],
         "urgent": True, "cameras": {"point": {"id": "jetty"}}}, ahead=2_000,
    )  # fmt: skip
    assert [(s.status, s.answer) for s in steps] == [("done", "127.0.0.1 took it.")] * 2
    envelope, letter = kept.letters[0]
    assert {e.rcpt_tos[0] for e, _ in kept.letters} == {"opal@example.org", "dara@example.org"}
    assert letter["From"] == "Dromikon <dromikon@example.org>" and letter["Importance"] == "high"
    assert letter["Subject"] == "Urgent: Jetty: human Bcc: all@example.org" and letter["Bcc"] is None
    html = letter.get_body(("html",)).get_content()
    run = steps[0].run
    assert f'<a href="https://dromikon.example/s/{GARDENS}/moment/{run}">' in html and "&lt;b&gt;" in html
    pictures = [p for p in letter.walk() if p.get_content_type() == "image/jpeg"]
    assert len(pictures) == 2 and all(p.get_content()[:2] == b"\xff\xd8" for p in pictures)
    assert all(f"cid:{p['Content-ID'].strip('<>')}" in html for p in pictures)
    assert f"moment/{run}" in letter.get_body(("plain",)).get_content()


def test_mail_that_is_refused_for_now_comes_with_the_same_id_and_for_good_is_loud(fire, box):
    kept = box(security="starttls", host="localhost")
    kept.answers += ["451 busy", "250 taken"]
    person = {"id": str(Person.objects.get(username="opal").pk)}
    step = {"do": "mail", "persons": [person], "subject": "S", "moments": []}
    [one] = fire(step)
    assert (one.status, one.attempts) == ("due", 1) and "451 busy" in one.answer
    [one] = work(3_000)
    assert (one.status, one.attempts) == ("done", 2)
    assert kept.letters[0][1]["Message-ID"] == f"<step-{one.pk}@dromikon.invalid>"
    kept.answers += ["554 spam"]
    fire.bench.cross()
    fire.bench.run()
    last = work()[-1]
    assert last.status == "failed" and "554 spam" in last.answer
    fire.bench.run()
    event = EventRow.objects.get(kind="step.failed")
    assert event.fields["by_rule"] == "Told" and event.fields["step"] == "mail" and "554" in event.fields["reason"]


def test_a_full_mailbox_holds_up_nobody_elses_mail(fire, box):
    kept = box()
    kept.full.add("opal@example.org")
    opal, dara = (str(Person.objects.get(username=name).pk) for name in ("opal", "dara"))
    fire({"do": "mail", "persons": [{"id": opal}, {"id": dara}], "subject": "S", "moments": []})
    for minutes in range(1, GIVES_UP_AFTER + 2):
        mine, theirs = work(minutes * 70_000)
    assert (mine.status, theirs.status) == ("due", "done") and mine.attempts > GIVES_UP_AFTER
    assert "mailbox is full" in mine.answer and not Resting.objects.exists()


def test_a_mail_server_with_a_wrong_certificate_gets_no_mail(fire, box, monkeypatch):
    kept = box(security="starttls", host="localhost")
    monkeypatch.delenv("SSL_CERT_FILE")
    outgoing.tls.cache_clear()
    [one] = fire({"do": "mail", "groups": [{"id": "duty"}], "subject": "S", "moments": []})
    assert one.status == "due" and "certificate" in one.answer and kept.letters == []


@pytest.fixture
def bracketed(settings, tmp_path):
    """The made-up language is installed, and the gardens' own."""
    write_language(tmp_path, LANGUAGE, foreign)
    settings.LOCALE_PATHS = [tmp_path]
    Site.objects.filter(id=GARDENS).update(language=LANGUAGE)
    yield
    trans_real._translations.pop(LANGUAGE, None)


@pytest.mark.timeless
def test_what_is_sent_speaks_the_sites_language_and_what_a_page_shows_stays(fire, box, people, gates, bracketed):
    changes.save(SORTS["reach"], everywhere(), "reach", {"address": "https://dromikon.example/"})
    kept, who = box(), [{"id": str(people["dara"].pk)}]
    fire(
        {"do": "mail", "persons": who, "subject": "{kind}", "text": "It is here.", "moments": [], "urgent": True},
        {"do": "text", "persons": who, "text": "{kind}"},
    )
    letter = kept.letters[0][1]
    assert letter["Subject"] == "⟦Urgent: ⟦Line crossed⟧⟧"
    assert ">⟦Open the moment⟧</a>" in letter.get_body(("html",)).get_content()
    assert json.loads(gates[0][2])["text"].startswith("⟦Line crossed⟧\n")
    assert KINDS["scene.line_crossed"].label == "Line crossed"


# -- gateways --------------------------------------------------------------------------------------------------------------


def test_text_push_and_call_go_to_their_gateways_each_in_its_own_words(fire, people, gates):
    who = [{"id": str(people["dara"].pk)}]
    steps = fire(
        {"do": "text", "persons": who, "text": 'A "quoted" {point}'},
        {"do": "push", "persons": who, "title": "T", "text": "now", "urgent": True},
        {"do": "call", "persons": who, "text": "Please come."},
    )
    assert {s.status for s in steps} == {"done"}
    came = {path: (headers, json.loads(body)) for path, headers, body in gates}
    assert came["/text"][1]["to"] == "+447700900101" and came["/text"][1]["text"] == 'A "quoted" Jetty line'
    assert came["/push"][1]["to"] == "topic-dara" and came["/push"][1]["sound"] == "urgent"
    assert came["/call"][1]["say"] == "Please come."
    assert came["/push"][0]["authorization"] == "Bearer secret-push"
    assert {s.lane for s in steps} == {"gateway:text", "gateway:push", "gateway:call"}


def test_a_gateways_body_is_written_as_the_administrator_says_and_its_token_stays_with_its_host(gates):
    part = {"address": "https://gw.example/send", "content": "form", "body": "msisdn={to}&body={text}", "token": "t1"}
    changes.save(SORTS["gateways"], everywhere(), "gateways", {"text": part})
    known = gateway("text")
    assert known.write({"to": "+44 1", "text": "a&b"}) == "msisdn=%2B44+1&body=a%26b" and known.token == "t1"
    row = SORTS["gateways"].row(everywhere(), "gateways")
    assert "t1" not in row.document.model_dump_json()
    changes.save(SORTS["gateways"], everywhere(), "gateways", {"text": {**part, "token": ""}})
    assert gateway("text").token == "t1"
    changes.save(
        SORTS["gateways"], everywhere(), "gateways", {"text": {**part, "token": "", "address": "https://evil.example/"}}
    )
    assert gateway("text").token == ""
    with pytest.raises(ValueError, match="There is no {password}"):
        Gateways.model_validate({"text": {"address": "https://gw.example/", "body": "{password}"}})


def test_a_chat_room_is_written_to_in_order_and_tried_again_when_it_is_busy(fire, as_, gates, serve):
    got, answers = [], [503]

    async def take(request):
        got.append(await request.json())
        return Response(status_code=answers.pop(0) if answers else 200)

    where = serve(Starlette(routes=[Route("/hook", take, methods=["POST"])])) + "/hook"
    room = save_destination(as_("ines"), None, DestinationDocument(name="Ops", sort="chat", address=where))
    [one] = fire({"do": "chat", "room": {"id": room.id}, "text": "{point}\n{class}", "urgent": True})
    assert one.status == "due" and "503" in one.answer
    [one] = work(3_000)
    assert one.status == "done" and got[-1] == {"text": "Urgent: Jetty line\nhuman"}
    assert where not in SORTS["destinations"].row(as_("ines"), room.id).document.model_dump_json()


# -- whom it reaches -------------------------------------------------------------------------------------------------------


def member(as_, name, **more):
    sort, ada = SORTS["people"], as_("ada")
    row = sort.row(ada, str(as_(name).person.pk))
    changes.save(sort, ada, row.id, {**row.document.model_dump(mode="json"), **more}, row.version)


def hours(as_, name, spans):
    document = {
        "name": name,
        "seasons": [{"mon": spans, "tue": spans, "wed": spans, "thu": spans, "fri": spans, "sat": spans, "sun": spans}],
    }
    return Ref(id=changes.save(SORTS["hours"], as_("ada"), None, document).id).model_dump()


def test_who_is_off_duty_or_at_rest_is_left_alone_and_nobody_at_all_is_loud(fire, people, gates, as_):
    member(as_, "dara", duty=hours(as_, "Never", ""))
    member(as_, "oskar", quiet=hours(as_, "Always", "00:00-24:00"))
    both = [{"id": str(people[n].pk)} for n in ("dara", "oskar")]
    text = {"do": "text", "persons": both, "text": "x"}
    steps = fire(text, {**text, "urgent": True})
    assert [(s.step, s.status, s.target) for s in steps if s.status != "dropped"] == [
        (1, "done", f"person:{people['oskar'].pk}")
    ]
    [event] = EventRow.objects.filter(kind="step.unreached")
    assert event.fields == {"by_rule": "Told", "step": "text", "reason": "nobody is on duty and can be reached"}


def test_a_muted_rule_is_silent_for_who_muted_it_and_only_where_it_allows(fire, people, gates, as_):
    text = {"do": "text", "groups": [{"id": "duty"}, {"id": "operators"}], "text": "x"}
    people["dara"].mutes.create(rule="some-other")
    steps = fire(text)
    rule = steps[0].run.partition(".")[2]
    people["dara"].mutes.create(rule=rule)
    record_act(GARDENS, "facts", now_ms())
    fire.bench.run()
    Step.objects.all().delete()
    fire.bench.cross()
    fire.bench.run()
    assert len(work()) == len(steps), "the rule does not allow it"
    facts = facts_of(as_("ada").site)
    assert rule in facts.member_by_id[str(people["dara"].pk)].muted


def test_a_person_mutes_a_rule_that_may_be_muted_over_the_api(fire, people, gates, client):
    text = {"do": "text", "groups": [{"id": "duty"}, {"id": "operators"}], "text": "x"}
    all_of_them = len(fire(text, mutable=True))
    rule = Step.objects.filter(action="text").first().run.partition(".")[2]
    client.force_login(people["dara"])

    def put(rule, muted):
        where = f"/api/v1/rules/{rule}/mute?site={GARDENS}"
        return client.put(where, {"muted": muted}, content_type="application/json").status_code

    assert put("jetty-closed", True) == 422 and put(rule, True) == 204
    for muted, told in ((True, all_of_them - 1), (False, all_of_them)):
        put(rule, muted)
        fire.bench.run()
        Step.objects.all().delete()
        fire.bench.cross()
        fire.bench.run()
        assert len([s for s in work() if s.action == "text"]) == told


def test_one_after_the_other_is_called_until_somebody_answers(fire, people, gates, as_):
    ladder = [{"persons": [{"id": str(people[n].pk)}]} for n in ("opal", "dara", "oskar")]
    summon = {"do": "summon", "ladder": ladder, "each": 60, "ways": ["call", "text"], "text": "Come, {point}"}
    fire(ALARM, summon)
    called = lambda: [json.loads(body)["to"] for path, _, body in gates]  # noqa: E731
    assert called() == ["+447700900101"], "the first has no number and is passed over"
    bench = fire.bench
    later = now_ms() + 61_000
    bench.engine.clock = lambda: later
    bench.run()
    work(61_000)
    assert called() == ["+447700900101", "+447700900102"]
    answer(as_("opal"), Alarm.objects.get(title="Jetty").pk)
    bench.run()
    bench.engine.clock = lambda: later + 120_000
    bench.run()
    work(200_000)
    assert len(called()) == 2, "somebody has answered"


def test_a_rung_that_nobody_answers_leads_to_the_next_and_then_nobody_is_left(fire, people, gates):
    ladder = [{"persons": [{"id": str(people["dara"].pk)}]}, {"persons": [{"id": str(people["oskar"].pk)}]}]
    fire(ALARM, {"do": "summon", "ladder": ladder, "each": 60, "ways": ["text"], "text": "Come"})
    start = now_ms()
    for ahead in (61_000, 122_000, 183_000):
        fire.bench.engine.clock = lambda ahead=ahead: start + ahead
        fire.bench.run()
        work(ahead)
    assert [json.loads(body)["to"] for _, _, body in gates] == ["+447700900101", "+447700900102"]


def test_a_test_goes_to_a_person_in_every_way_whatever_the_hour(people, gates, box, as_, bench):
    kept = box()
    member(as_, "dara", duty=hours(as_, "Never", ""))
    changes.do(SORTS["people"], as_("ada"), str(people["dara"].pk), "test")
    steps = work()
    assert {(s.action, s.status) for s in steps} == {
        ("text", "done"),
        ("push", "done"),
        ("call", "done"),
        ("mail", "done"),
    }
    assert len(kept.letters) == 1 and len(gates) == 3
    bench.run()
    assert not EventRow.objects.filter(kind__startswith="step.").exists()


def test_two_rules_about_trouble_do_not_set_each_other_off_for_ever(bench, as_, people):
    trouble = {"cause": "event", "kind": "step.unreached", "phase": "pulse", "where": {"everywhere": True}}
    nobody = {"do": "mail", "persons": [{"id": str(people["oskar"].pk)}], "subject": "x", "moments": []}
    record_act(GARDENS, "facts", now_ms())
    for name, cause in (("First", CROSSED), ("Second", trouble), ("Third", trouble)):
        made = save(as_("ines"), {"name": name, "cause": cause, "response": [nobody, ALARM]})
        Rule.objects.filter(pk=made.pk).update(enabled=True)
    record_act(GARDENS, "facts", now_ms())
    bench.run()
    bench.cross()
    bench.run()
    chains = [len(e.chain) for e in EventRow.objects.filter(kind="step.unreached")]
    assert 1 < len(chains) <= 5 and max(chains) == 3


def test_chat_goes_into_a_room_and_to_persons_by_their_gateway(fire, as_, gates, people):
    Person.objects.filter(username="opal").update(chat="opal.r")
    opal, dara = ({"id": str(people[name].pk)} for name in ("opal", "dara"))
    where = setting(Gateways).chat.address.replace("/chat", "/room")
    room = save_destination(as_("ines"), None, DestinationDocument(name="Ops", sort="chat", address=where))
    both = {"do": "chat", "room": {"id": room.id}, "persons": [opal, dara], "text": "{point}: {class}", "link": False}
    steps = fire(both)
    assert [(s.lane, s.status) for s in steps] == [(f"destination:{room.id}", "done"), ("gateway:chat", "done")]
    where, headers, body = next(g for g in gates if g[0] == "/chat")
    assert headers["authorization"] == "Bearer secret-chat"
    assert json.loads(body) == {"id": f"chat-{steps[1].pk}", "to": "opal.r", "text": "Jetty line: human"}
    document = RuleDocument.model_validate({"name": "x", "cause": CROSSED, "response": [both]})
    facts = facts_of(as_("ines").site)
    words = "".join(p.text for p in sentence(document, facts))
    assert "write “{point}: {class}” into Ops and write “{point}: {class}” to Opal " in words
    assert [f.reason for f in check(document, facts) if f.check == "no-number"] == [
        "Dara Quistfield: no name in the chat."
    ]
    only = document.model_copy(update={"response": (document.response[0].model_copy(update={"persons": ()}),)})
    assert not [f for f in check(only, facts) if f.check in ("no-number", "no-recipient")], (
        "a room needs nobody besides"
    )
