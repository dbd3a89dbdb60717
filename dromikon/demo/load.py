"""Loads the demo site once, and lets its seven past days happen: the simulated world is run through the cameras' own
messages, the inbox and the real engine, in the time of those days."""

import json
import math
import random
import sqlite3
import time
from collections.abc import Callable, Iterable, Iterator
from contextlib import closing
from pathlib import Path
from typing import Any

from django.db import transaction
from django.db.models import F

from dromikon import config
from dromikon.authoring.services import save, switch
from dromikon.clock import as_of, now_ms
from dromikon.core.alarms.states import OPEN_TO_ANSWER
from dromikon.core.decoders.document import DecoderDocument
from dromikon.core.lists.watchlist import Entry
from dromikon.core.rules.parts import Ref
from dromikon.daybook.models import ActRow, Feed, Step
from dromikon.daybook.services import record_act
from dromikon.demo import outside, quillmere, rulebook
from dromikon.desk.models import Alarm
from dromikon.desk.services import answer
from dromikon.engine.engine import Engine
from dromikon.hours.services import save_hours
from dromikon.intake import inbox
from dromikon.lists.models import WatchList
from dromikon.lists.services import change_list, make_list, store
from dromikon.people.access import Access, Everywhere, access
from dromikon.people.models import Person
from dromikon.people.roles import Role
from dromikon.people.services import set_password
from dromikon.people.tokens import keep_token
from dromikon.rulebook.models import Rule
from dromikon.scene.camera import save_mounting
from dromikon.scene.own import OwnDocument, save_own
from dromikon.setup.areas import AreaDocument, save_area
from dromikon.setup.counters import CounterDocument, save_counter
from dromikon.setup.decoders import save_decoder
from dromikon.setup.displays import DisplayDocument, save_display
from dromikon.setup.groups import GroupDocument, save_group
from dromikon.setup.intakes import IntakeDocument, save_intake
from dromikon.setup.mibs import MibDocument, save_mib
from dromikon.setup.people import AnyoneDocument, RolePart, save_person
from dromikon.setup.points import PointDocument, save_point
from dromikon.setup.recognisers import RecogniserDocument, save_recogniser
from dromikon.setup.recorders import RecorderDocument, save_recorder
from dromikon.setup.sites import CustomerDocument, NewSiteDocument, save_customer, save_site
from dromikon.sites.models import Site
from dromikon.sources.models import Point, Recorder
from dromikon.sources.plan import place_point, save_plan, set_sightlines
from dromikon.sources.services import save_device
from dromikon.standins.agents import AGENTS, kept, of_agent
from dromikon.standins.broker import of_broker, payload_of, topic_of
from dromikon.standins.devices import CLOCK_OFFSETS, device_of
from dromikon.standins.fieldbus import of_fieldbus
from dromikon.standins.gateway import of_gateway, plain
from dromikon.standins.onvif.controller import StandInController
from dromikon.standins.onvif.device import StandInDevice
from dromikon.standins.onvif.soap import NAMES, Account
from dromikon.standins.picture.frame import Studio
from dromikon.standins.run import PASSWORD, RECOGNISER_TOKEN, RECORDER_TOKEN, USER, ports
from dromikon.standins.world.access import DOORS
from dromikon.standins.world.scenes import CAMERAS
from dromikon.standins.world.world import World

DAY, SLICE = 86_400_000, 1_800_000
#: What was raised this shortly before the demo begins waits for somebody real.
LEFT_OPEN = 100 * 60_000
PAST_DAYS = 7
#: The width of the cameras' sensors, in mm.
SENSOR = 5.4
#: A session notices after about this long that a camera is gone.
NOTICED_AFTER = 12_000

#: What the door controller says of its doors, as its session learns it.
_DOORS = [
    {
        "token": d.token,
        "name": d.name,
        "can": ["release", "lock", "unlock", "block", "hold_open"],
        "access": [d.access_point],
    }
    for d in DOORS
]
PLANS = Path(__file__).parent / "plans"
MIBS = Path(__file__).parent / "mibs"
Say = Callable[[str], None]


def load(say: Say = print, days: int = PAST_DAYS) -> bool:
    """Load the demo site unless it is there. Returns whether anything was loaded."""
    if Site.objects.filter(id=quillmere.GARDENS).exists():
        return False
    at = now_ms()
    start = at - days * DAY
    with transaction.atomic():
        configure(start, rulebook.RULES)
    say(f"Quillmere Gardens: {Rule.objects.count()} rules, {Point.objects.count()} points. Now its past {days} days …")
    began = time.monotonic()
    live_through(start, at, say)
    say(f"The past {days} days took {time.monotonic() - began:.0f} s.")
    return True


def configure(at: int, rules: Iterable[tuple[str, str, dict[str, Any]]]) -> None:
    """Make customer, sites, people, sources, hours, lists and some rules (id, site, document), as of an instant: by the same
    services as the pages of set-up, only under ids that links and tests can name."""
    with as_of(at):
        sites = _sites()
        _people(sites)
        integrator = Person.objects.get(username="ines")
        here = {id: access(integrator, id) for id in sites}
        _places(here)
        _sources(here)
        _comparisons(here)
        outside.set_up(here)
        _rules(here, rules)
    # What was set up just now was so from the beginning of the past that is lived next.
    ActRow.objects.all().delete()
    Feed.objects.all().delete()
    for site in sites:
        record_act(site, "facts", at)


def _sites() -> dict[str, Site]:
    who = Everywhere(None)
    customer = save_customer(who, None, CustomerDocument(name="Quillmere Trust"), quillmere.CUSTOMER)
    owner = Ref(id=customer.id, name=customer.name)
    sites = {}
    for id, name in quillmere.SITES:
        modes = quillmere.MODES if id == quillmere.GARDENS else ()
        content = NewSiteDocument(
            customer=owner, name=name, zone=quillmere.ZONE, latitude=quillmere.LATITUDE, longitude=quillmere.LONGITUDE,
            modes=modes,
        )  # fmt: skip
        sites[id] = save_site(who, None, content, id)
    return sites


def _places(here: dict[str, Access]) -> None:
    for order, (id, site, name) in enumerate(quillmere.AREAS):
        save_area(here[site], None, AreaDocument(name=name, order=order), id)
    for id, site, name, roles in quillmere.GROUPS:
        save_group(here[site], None, GroupDocument(name=name, roles=tuple(Role(r) for r in roles)), id)
    for id, site, name, room in quillmere.COUNTERS:
        save_counter(here[site], None, CounterDocument(name=name, room=room), id)


def _comparisons(here: dict[str, Access]) -> None:
    for id, site, name, document in quillmere.HOURS:
        save_hours(here[site], name, document, new_id=id)
    for id, site, name, sort, rows in quillmere.LISTS:
        made = make_list(here[site], name, sort, new_id=id)
        store(
            made, [Entry(value=v, label=label, note=note, template=t) for v, label, note, t in rows], here[site].person
        )
    for id, colour in quillmere.LIST_COLOURS.items():
        known = WatchList.objects.get(pk=id)
        change_list(here[known.site_id], known, colour=colour)


def _rules(here: dict[str, Access], rules: Iterable[tuple[str, str, dict[str, Any]]]) -> None:
    for id, site, content in rules:
        switch(here[site], save(here[site], content, id=id), True)


def _people(sites: dict[str, Site]) -> None:
    for username, first, last, at_gardens, at_nursery in quillmere.PEOPLE:
        held = ((quillmere.GARDENS, at_gardens), (quillmere.NURSERY, at_nursery))
        roles = tuple(RolePart(site=Ref(id=id, name=sites[id].name), role=Role(role)) for id, role in held if role)
        document = AnyoneDocument(
            username=username, first_name=first, last_name=last, number=quillmere.NUMBERS.get(username, ""),
            email=f"{username}@quillmere.example", push=quillmere.PUSHED.get(username, ""),
            chat=quillmere.CHATS.get(username, ""),
            roles=roles, administers=at_gardens == Role.ADMINISTRATOR,
        )  # fmt: skip
        person, _ = save_person(Everywhere(None), None, document)
        set_password(None, person, quillmere.PASSWORD)


def set_demo_token(token: str) -> None:
    """Give the demo's integrator a known API token (DROMIKON_DEMO_TOKEN), or none; one of an earlier start counts no more."""
    person = Person.objects.get(username="ines")
    person.tokens.filter(name="demo").delete()
    if token:
        keep_token(person, "demo", token)


def _sources(here: dict[str, Access]) -> None:
    where = ports(config.standins_port())
    address = f"http://127.0.0.1:{where['recorder']}"
    recorder = RecorderDocument(name="Recorder in the lodge", address=address, token=RECORDER_TOKEN)
    recorders = {site: save_recorder(access, None, recorder) for site, access in here.items()}
    recogniser = RecogniserDocument(
        name="Faces in the lodge", address=f"http://127.0.0.1:{where['faces']}", token=RECOGNISER_TOKEN
    )
    save_recogniser(here[quillmere.GARDENS], None, recogniser)
    for id, site, area, name, camera in quillmere.DEVICES:
        save_device(
            here[site], None, name=name, address=f"http://127.0.0.1:{where[camera]}/onvif/device_service", user=USER,
            password=PASSWORD, area=area, new_id=id,
        )  # fmt: skip
    seen_by: dict[str, list[str]] = {}
    for point, camera in quillmere.SIGHTLINES:
        seen_by.setdefault(point, []).append(camera)
    # Cameras come first, since others name them.
    for row in sorted(quillmere.POINTS, key=lambda p: p[5] != "camera"):
        save_point(here[row[1]], None, _point(row, seen_by.get(row[0], []), recorders), row[0])
    for id, site, camera, name, watch in quillmere.OWN:
        own = OwnDocument.model_validate({"name": name, "watch": watch})
        save_own(here[site], Point.objects.get(pk=camera), None, own, id)
    for id, site, content in quillmere.DISPLAYS:
        save_display(here[site], None, DisplayDocument.model_validate(content), id)
    _hanging(here)
    _plans(here)
    for id, site, name, more in quillmere.INTAKES:
        save_intake(here[site], None, IntakeDocument(name=name, **more), id)
    for file in sorted(MIBS.glob("*.mib")):
        save_mib(here[quillmere.GARDENS], None, MibDocument(text=file.read_text()), file.stem)
    for id, site, content in quillmere.DECODERS:
        save_decoder(here[site], None, DecoderDocument.model_validate(content), id)


def _hanging(here: dict[str, Access]) -> None:
    """The lenses that the cameras really have."""
    for id, dark in quillmere.NIGHT_LIGHT.items():
        camera, lens = Point.objects.get(pk=id), CAMERAS[id].lens
        focal = SENSOR / 2 / math.tan(math.radians(lens.wide) / 2)
        content = {
            "high": lens.z,
            "tilt": lens.tilt,
            "sensor": SENSOR,
            "focal": round(focal, 2),
            "needs": 0.05,
            "dark": dark,
        }
        save_mounting(here[camera.site_id], camera, content)


def _plans(here: dict[str, Access]) -> None:
    for site, file, wide in quillmere.PLANS:
        save_plan(here[site], (PLANS / file).read_bytes(), file, wide)
    for point in Point.objects.filter(id__in=quillmere.PLACES):
        x, y, *eye = quillmere.PLACES[point.id]
        place_point(here[point.site_id], point, (x, y), *eye)
    for id, lines in quillmere.BY_PRESET:
        point = Point.objects.get(id=id)
        set_sightlines(here[point.site_id], point, lines)


def _point(point: quillmere.PointRow, seen_by: list[str], recorders: dict[str, Recorder]) -> PointDocument:
    id, site, area, device, channel, kind, name, token, tags = point
    return PointDocument(
        name=name, kind=kind, area=Ref(id=area), device=Ref(id=device) if device else None, token=token, tags=tuple(tags),
        channel=Ref(id=channel) if channel else None, seen_by=tuple(Ref(id=camera) for camera in seen_by),
        recorder=Ref(id=recorders[site].id) if kind == "camera" else None,
        recorder_channel=id if kind == "camera" else "", **quillmere.SETTINGS.get(id, {}),
    )  # fmt: skip


def live_through(start: int, end: int, say: Say) -> None:
    """Feed the engine what cameras and gateway told between two instants, with operators who answer."""
    world = World(journal=config.data() / "standins" / "provocations.jsonl")
    messages = sorted(told(world, start, end), key=lambda m: m.received_at)
    with closing(inbox.connect(config.inbox_path())) as connection:
        connection.execute("PRAGMA synchronous=OFF")
        past = Past(connection, messages, start, leave_from=end - LEFT_OPEN)
        for day in range(start, end, DAY):
            past.live_until(min(day + DAY, end))
            say(f"  {time.strftime('%A', time.gmtime(day / 1000))}: {past.engine.seq} journal entries")
        past.engine.close()
    _put_down(end)


def _put_down(end: int) -> None:
    """Nobody was there to take what the rules sent in those days: their steps say so, and none is sent late. Pictures
    that are still wanted are fetched all the same, since the recorder has them."""
    past = Step.objects.filter(status=Step.Status.DUE, due__lt=end).exclude(action="evidence")
    past = past.exclude(action="snapshot", expires__gt=end)
    past.update(status=Step.Status.DROPPED, done_at=F("due"), answer="Not sent: it lies before the demo began.")


class Past:
    """Past time at work: messages, the engine, and operators who answer in their own time.

    When an alarm is to be answered within a stretch that was just lived, the stretch is undone and lived again up to that
    moment, so that what waits for an answer sees it when it came.
    """

    def __init__(
        self, connection: sqlite3.Connection, messages: list[inbox.Message], start: int, leave_from: int
    ) -> None:
        self.inbox, self.messages, self.now = connection, messages, start
        self.operators = Operators(leave_from)
        self.engine = Engine(clock=lambda: self.now, hold=0.4)
        self.engine.load()
        self._fed = 0

    def live_until(self, end: int) -> None:
        while self.now < end:
            until = min(self.now + SLICE, end)
            answered = self._try(until)
            if answered is not None:
                until = answered
                self._live(until)
            self.operators.answer(until)
            self.engine.checkpoint()

    def _try(self, until: int) -> int | None:
        """Live until an instant; when an answer was due before, undo it and say when."""
        begun, fed = self.now, self._fed
        with transaction.atomic():
            self._live(until)
            answered = self.operators.next_answer()
            undone = answered is not None and begun < answered < until
            transaction.set_rollback(undone)
        if not undone:
            return None
        self.engine.load()
        with self.inbox:
            self.inbox.execute("DELETE FROM message WHERE id > ?", [self.engine.inbox_position])
        self.now, self._fed = begun, fed
        return answered

    def _live(self, until: int) -> None:
        upto = self._fed
        while upto < len(self.messages) and self.messages[upto].received_at < until:
            upto += 1
        if upto > self._fed:
            inbox.append(self.inbox, self.messages[self._fed : upto])
        self.now, self._fed = until, upto
        while self.engine.turn():
            pass


def told(world: World, start: int, end: int) -> Iterator[inbox.Message]:
    """Every message the devices' sessions would have stored, as bytes on the wire."""
    studio = Studio(world, config.data() / "standins" / "scenery")
    where = ports(config.standins_port())
    yield from _from_gateway(world, start, end)
    yield from _from_broker(world, start, end)
    yield from _from_fieldbus(world, start, end)
    yield from _from_agents(world, start, end)
    for id, _, _, _, name in quillmere.DEVICES:
        address, account = f"http://127.0.0.1:{where[name]}", Account(USER, PASSWORD)
        offset = CLOCK_OFFSETS.get(name, 0.0)
        yield from _from_device(id, device_of(name, studio, address, account), round(offset * 1000), start, end)
        for gone, back in world.outages(name, start, end):
            yield _session(id, gone + NOTICED_AFTER, "lost", round(offset * 1000))
            yield _session(id, back + 3_000, "online", round(offset * 1000))


def _from_device(id: str, device: StandInDevice, offset: int, start: int, end: int) -> Iterator[inbox.Message]:
    """What a device's session would have stored: how it was at first, and every report."""
    meta, delay = json.dumps({"clock_offset_ms": offset}), random.Random(id)
    yield _session(id, start, "online", offset)
    if isinstance(device, StandInController):
        # Which reader leads to which door is how their events are known.
        body = json.dumps({"doors": _DOORS}).encode()
        yield inbox.Message(start + 20, "catalogue", id, "{}", body)
    for report in device.properties(start):
        yield inbox.Message(start + 50, "onvif", id, meta, _standalone(device.events.message(report, "Initialized")))
    for report in device.reports(start, end):
        if not device.cut_off(report.at):
            body = _standalone(device.events.message(report, "Changed" if report.property else ""))
            yield inbox.Message(report.at + delay.randrange(25, 90), "onvif", id, meta, body)


def _from_gateway(world: World, start: int, end: int) -> Iterator[inbox.Message]:
    """What the gateway would have sent."""
    meta = json.dumps({"content_type": "application/json"})
    for signal in world.signals(start, end):
        if of_gateway(signal):
            body = json.dumps(plain(signal)).encode()
            yield inbox.Message(signal.at + 120, "http", "garden-gateway", meta, body)


def _from_broker(world: World, start: int, end: int) -> Iterator[inbox.Message]:
    """What would have been published, and taken from the broker."""
    for signal in world.signals(start, end):
        if of_broker(signal):
            meta = json.dumps({"topic": topic_of(signal), "retained": False})
            yield inbox.Message(signal.at + 140, "mqtt", "orchid-broker", meta, payload_of(signal))


def _from_fieldbus(world: World, start: int, end: int) -> Iterator[inbox.Message]:
    """What the field device would have answered when it was asked next."""
    for signal in world.signals(start, end):
        if of_fieldbus(signal):
            value = signal.fields.get("value", signal.phase == "begin")
            said = {"kind": signal.kind, "point": signal.point, "value": value}
            if signal.fields.get("unit"):
                said["unit"] = signal.fields["unit"]
            body = json.dumps({"first": False, "values": [said]}).encode()
            yield inbox.Message(signal.at + 600, "modbus", "field-device", "{}", body)


def _from_agents(world: World, start: int, end: int) -> Iterator[inbox.Message]:
    """What their informs would have said."""
    for signal in world.signals(start, end):
        if of_agent(signal):
            yield inbox.Message(signal.at + 40, "snmp", AGENTS[signal.point].intake, "{}", kept(signal))


def _session(device: str, at: int, state: str, offset: int) -> inbox.Message:
    lost = state == "lost"
    body = {
        "state": state,
        "reason": "timeout" if lost else "",
        "message": "The device stopped answering." if lost else "",
        "clock_offset_ms": offset,
    }
    return inbox.Message(at, "session", device, "{}", json.dumps(body).encode())


def _standalone(message: str) -> bytes:
    """A notification with the namespaces that its envelope would have declared."""
    spaces = " ".join(f'xmlns:{p}="{u}"' for p, u in NAMES.items() if p in ("wsnt", "tt", "tns1", "sta"))
    return message.replace("<wsnt:NotificationMessage>", f"<wsnt:NotificationMessage {spaces}>", 1).encode()


class Operators:
    """The garden's operators, who answer what comes up on the desk after a while, as people do. What is raised from
    `leave_from` on waits for somebody real."""

    def __init__(self, leave_from: int) -> None:
        self.leave_from = leave_from

    def next_answer(self) -> int | None:
        """When the next of the waiting alarms is answered."""
        return min((self._moment(a) for a in self._waiting()), default=None)

    def answer(self, until: int) -> None:
        """Answer what is due by an instant."""
        for alarm in self._waiting():
            moment = self._moment(alarm)
            if moment <= until:
                self._answer(alarm, moment)

    def _waiting(self) -> list[Alarm]:
        return list(Alarm.objects.filter(state__in=OPEN_TO_ANSWER, raised_at__lt=self.leave_from))

    def _moment(self, alarm: Alarm) -> int:
        """Always the same for an alarm, however often its time is lived."""
        return alarm.raised_at + round(random.Random(alarm.run).lognormvariate(3.6, 0.9) * 1000)

    def _answer(self, alarm: Alarm, at: int) -> None:
        rnd = random.Random(f"answer/{alarm.run}")
        names = ("oskar", "opal") if alarm.site_id == quillmere.GARDENS else ("oskar",)
        note, tags = rnd.choice(rulebook.ANSWERS.get(alarm.rule, (("Seen.", ()),)))
        person = Person.objects.get(username=rnd.choice(names))
        answer(access(person, alarm.site_id), alarm.pk, note, tags, at=at, outcome=_outcome(tags))


def _outcome(tags: Iterable[str]) -> str:
    """What an answer says that it was, by its tags."""
    known = {"false": "false", "test": "test", "staff": "own"}
    return next((known[tag] for tag in tags if tag in known), "real")


def reset() -> None:
    """Delete the demo's data folder's contents."""
    folder = config.data()
    for path in sorted(folder.rglob("*"), reverse=True):
        if path.is_file() or path.is_symlink():
            path.unlink()
        elif path != folder:
            path.rmdir()
