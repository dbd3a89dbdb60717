"""Loads the demo site once, and lets its seven past days happen: the simulated world is run through the cameras' own
messages, the inbox and the real engine, in the time of those days."""

import json
import random
import time
from collections.abc import Callable, Iterator
from contextlib import closing

from django.db import transaction

from dromikon import config, secrets
from dromikon.clock import now_ms
from dromikon.core.alarms.states import OPEN_TO_ANSWER
from dromikon.core.hours import Hours as HoursDocument
from dromikon.core.lists.watchlist import Entry
from dromikon.daybook.services import record_act
from dromikon.demo import quillmere, rulebook
from dromikon.desk.models import Alarm
from dromikon.desk.services import answer
from dromikon.engine.engine import Engine
from dromikon.hours.models import Hours
from dromikon.intake import inbox
from dromikon.lists.models import WatchList
from dromikon.lists.services import keep_content
from dromikon.people.access import access
from dromikon.people.models import Membership, Person
from dromikon.people.services import make_token
from dromikon.rulebook.models import Revision, Rule
from dromikon.rulebook.services import read_document
from dromikon.sites.models import Area, Counter, Customer, Group, Site
from dromikon.sources.models import Device, Intake, Point, Recorder, Sightline
from dromikon.standins.camera import StandInCamera
from dromikon.standins.gateway import plain
from dromikon.standins.picture.frame import Studio
from dromikon.standins.run import CLOCK_OFFSETS, PASSWORD, RECORDER_TOKEN, USER, ports
from dromikon.standins.soap import NAMES, Account
from dromikon.standins.world.world import World

DAY, SLICE = 86_400_000, 600_000
#: What was raised this shortly before the demo begins waits for somebody real.
LEFT_OPEN = 100 * 60_000
PAST_DAYS = 7
#: A session notices after about this long that a camera is gone.
NOTICED_AFTER = 12_000

Say = Callable[[str], None]


def load(say: Say = print, days: int = PAST_DAYS) -> bool:
    """Load the demo site unless it is there. Returns whether anything was loaded."""
    if Site.objects.filter(id=quillmere.GARDENS).exists():
        return False
    at = now_ms()
    start = at - days * DAY
    with transaction.atomic():
        _configure(start)
    say(f"Quillmere Gardens: {Rule.objects.count()} rules, {Point.objects.count()} points. Now its past {days} days …")
    began = time.monotonic()
    live_through(start, at, say)
    say(f"The past {days} days took {time.monotonic() - began:.0f} s.")
    return True


def _configure(at: int) -> None:
    customer = Customer.objects.create(id="quillmere", name="Quillmere Trust")
    sites = {
        id: Site.objects.create(
            id=id,
            customer=customer,
            name=name,
            zone=quillmere.ZONE,
            latitude=quillmere.LATITUDE,
            longitude=quillmere.LONGITUDE,
            modes=list(quillmere.MODES) if id == quillmere.GARDENS else [],
        )
        for id, name in quillmere.SITES
    }
    _people(sites)
    areas = {
        id: Area.objects.create(id=id, site=sites[site], name=name, order=i)
        for i, (id, site, name) in enumerate(quillmere.AREAS)
    }
    for id, site, name, roles in quillmere.GROUPS:
        Group.objects.create(id=id, site=sites[site], name=name, roles=roles)
    _sources(sites, areas)
    for id, site, name, document in quillmere.HOURS:
        HoursDocument.model_validate({**document, "id": id, "name": name})
        Hours.objects.create(id=id, site=sites[site], name=name, document=document)
    for id, site, name in quillmere.COUNTERS:
        Counter.objects.create(id=id, site=sites[site], name=name)
    for id, site, name, sort, rows in quillmere.LISTS:
        entries = [Entry(value=v, label=label, note=note, template=t) for v, label, note, t in rows]
        WatchList.objects.create(
            id=id, site=sites[site], name=name, sort=sort, content=keep_content(entries), changed_at=at
        )
    integrator = Person.objects.get(username="ines")
    for id, site, content in rulebook.RULES:
        document = read_document(content)
        rule = Rule.objects.create(id=id, site=sites[site], name=document.name, enabled=True, changed_at=at)
        Revision.objects.create(rule=rule, number=1, document=document.to_json(), by=integrator, at=at)
    for site in sites:
        record_act(site, "facts", at)


def _people(sites: dict[str, Site]) -> None:
    for username, first, last, at_gardens, at_nursery in quillmere.PEOPLE:
        person = Person.objects.create_user(username, password=quillmere.PASSWORD, first_name=first, last_name=last)
        for site, role in ((quillmere.GARDENS, at_gardens), (quillmere.NURSERY, at_nursery)):
            if role:
                Membership.objects.create(person=person, site=sites[site], role=role)


def set_demo_token(token: str) -> None:
    """Give the demo's integrator a known API token (DROMIKON_DEMO_TOKEN)."""
    make_token(Person.objects.get(username="ines"), "demo", token)


def _sources(sites: dict[str, Site], areas: dict[str, Area]) -> None:
    where = ports(config.standins_port())
    recorders = {
        id: Recorder.objects.create(
            site=site, name="Recorder in the lodge", address=f"http://127.0.0.1:{where['recorder']}",
            token_sealed=secrets.seal(RECORDER_TOKEN),
        )
        for id, site in sites.items()
    }  # fmt: skip
    for id, site, area, name, camera in quillmere.DEVICES:
        Device.objects.create(
            id=id, site=sites[site], area=areas[area], name=name, user=USER, password_sealed=secrets.seal(PASSWORD),
            address=f"http://127.0.0.1:{where[camera]}/onvif/device_service",
        )  # fmt: skip
    for id, site, area, device, channel, kind, name, token, tags in quillmere.POINTS:
        Point.objects.create(
            id=id, site=sites[site], area=areas[area], device_id=device, channel_id=channel, kind=kind, name=name,
            token=token or id, tags=tags, recorder=recorders[site] if kind == "camera" else None,
            recorder_channel=id if kind == "camera" else "",
        )  # fmt: skip
    for point, camera in quillmere.SIGHTLINES:
        Sightline.objects.create(point_id=point, camera_id=camera)
    for id, site, name, token in quillmere.INTAKES:
        Intake.objects.create(id=id, site=sites[site], name=name, token_digest=secrets.digest_of_token(token))


def live_through(start: int, end: int, say: Say) -> None:
    """Feed the engine what the cameras told between two instants, in slices, with operators who answer."""
    world = World(journal=config.data() / "standins" / "provocations.jsonl")
    virtual = start
    engine = Engine(clock=lambda: virtual)
    engine.load()
    operators = Operators()
    messages = list(told(world, start, end))
    messages.sort(key=lambda m: m.received_at)
    position = 0
    with closing(inbox.connect(config.inbox_path())) as connection:
        connection.execute("PRAGMA synchronous=OFF")
        for slice_start in range(start, end, SLICE):
            virtual = min(slice_start + SLICE, end)
            upto = position
            while upto < len(messages) and messages[upto].received_at < virtual:
                upto += 1
            if upto > position:
                inbox.append(connection, messages[position:upto])
            position = upto
            while engine.turn():
                pass
            operators.answer_until(virtual, leave_from=end - LEFT_OPEN)
            engine.checkpoint()
            if (slice_start - start) % DAY < SLICE:
                say(f"  {time.strftime('%A', time.gmtime(virtual / 1000))}: {engine.seq} journal entries")
    while engine.turn():
        pass
    engine.close()


def told(world: World, start: int, end: int) -> Iterator[inbox.Message]:
    """Every message the cameras' sessions would have stored, as bytes on the wire."""
    studio = Studio(world, config.data() / "standins" / "scenery")
    where = ports(config.standins_port())
    yield from _from_gateway(world, start, end)
    for id, _, _, _, camera in quillmere.DEVICES:
        device = StandInCamera(
            camera, studio, f"http://127.0.0.1:{where[camera]}", Account(USER, PASSWORD), CLOCK_OFFSETS.get(camera, 0)
        )
        offset = round(CLOCK_OFFSETS.get(camera, 0) * 1000)
        meta = json.dumps({"clock_offset_ms": offset})
        yield _session(id, start, "online", offset)
        for report in world.properties(camera, start):
            yield inbox.Message(start + 50, "onvif", id, meta, _standalone(device.message(report, "Initialized")))
        for gone, back in world.outages(camera, start, end):
            yield _session(id, gone + NOTICED_AFTER, "lost", offset)
            yield _session(id, back + 3_000, "online", offset)
        delay = random.Random(camera)
        for report in world.reports(camera, start, end):
            if not world.cut_off(camera, report.at):
                body = _standalone(device.message(report, "Changed" if report.property else ""))
                yield inbox.Message(report.at + delay.randrange(25, 90), "onvif", id, meta, body)


def _from_gateway(world: World, start: int, end: int) -> Iterator[inbox.Message]:
    """What the gateway would have sent."""
    meta = json.dumps({"content_type": "application/json"})
    for signal in world.signals(start, end):
        body = json.dumps(plain(signal)).encode()
        yield inbox.Message(signal.at + 120, "http", "garden-gateway", meta, body)


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
    spaces = " ".join(f'xmlns:{p}="{u}"' for p, u in NAMES.items() if p in ("wsnt", "tt", "tns1"))
    return message.replace("<wsnt:NotificationMessage>", f"<wsnt:NotificationMessage {spaces}>", 1).encode()


class Operators:
    """The garden's operators, who answer what comes up on the desk after a while, as people do."""

    def __init__(self) -> None:
        self._random = random.Random("operators")
        self._due: dict[int, int] = {}

    def answer_until(self, at: int, leave_from: int) -> None:
        """Answer what is due by an instant; what was raised from `leave_from` on waits for somebody real."""
        for alarm in Alarm.objects.filter(state__in=OPEN_TO_ANSWER, raised_at__lt=leave_from):
            due = self._due.setdefault(alarm.pk, alarm.raised_at + round(self._random.lognormvariate(3.6, 0.9) * 1000))
            if due <= at:
                self._answer(alarm, due)

    def _answer(self, alarm: Alarm, at: int) -> None:
        person = Person.objects.get(
            username=self._random.choice(("oskar", "opal")) if alarm.site_id == quillmere.GARDENS else "oskar"
        )
        note, tags = self._random.choice(rulebook.ANSWERS.get(alarm.rule, (("Seen.", ()),)))
        answer(access(person, alarm.site_id), alarm.pk, note, tags, at=at)


def reset() -> None:
    """Delete the demo's data folder's contents."""
    folder = config.data()
    for path in sorted(folder.rglob("*"), reverse=True):
        if path.is_file() or path.is_symlink():
            path.unlink()
        elif path != folder:
            path.rmdir()
