"""Every address of the web process."""

from django.contrib.auth.views import LogoutView
from django.urls import path, register_converter

from dromikon.api.api import api
from dromikon.pages import (
    archive,
    begin,
    counts,
    daybook,
    deliveries,
    desk,
    detectors,
    device,
    display,
    health,
    home,
    hours,
    intake,
    listening,
    lists,
    moment,
    people,
    pictures,
    plan,
    quality,
    readings,
    records,
    rulebook,
    scene,
    seen,
    setup,
    shift,
    siting,
    sources,
    stretches,
    teach,
    who,
)


class Number:
    """A growing number in an address; longer ones than the database keeps lead nowhere."""

    regex = "[0-9]{1,15}"

    def to_python(self, value: str) -> int:
        return int(value)

    def to_url(self, value: int) -> str:
        return str(value)


register_converter(Number, "number")

SITE = "s/<str:site_id>/"

urlpatterns = [
    path("", home.home, name="home"),
    path("begin", begin.begin_here, name="begin"),
    path("login", people.LogIn.as_view(), name="login"),
    path("password", people.password, name="password"),
    path("logout", LogoutView.as_view(), name="logout"),
    path("tokens", people.tokens, name="tokens"),
    path("words.js", home.Words.as_view(), name="words"),
    path("healthz", health.healthz, name="healthz"),
    path("metrics", health.metrics, name="metrics"),
    path("health", health.health, name="health"),
    path("display/<slug:slug>", display.by_name, name="display.by_name"),
    path("kit", home.kit, name="kit"),
    path("api/v1/", api.urls),
    path("setup", setup.installation, name="installation"),
    path("setup/<str:sort>", setup.installation, name="installation.sort"),
    path(SITE + "setup", setup.setup, name="setup"),
    path(SITE + "setup/<str:sort>", setup.setup, name="setup.sort"),
    path(SITE + "feed", home.feed, name="feed"),
    path(SITE + "desk", desk.desk, name="desk"),
    path(SITE + "desk/load", desk.load, name="desk.load"),
    path(SITE + "desk/shelf", desk.shelf, name="desk.shelf"),
    path(SITE + "desk/cards", desk.cards, name="desk.cards"),
    path(SITE + "desk/camera/<str:camera>", desk.camera_sheet, name="desk.camera"),
    path(SITE + "desk/sound/<str:sound_id>", desk.sound, name="desk.sound"),
    path(SITE + "desk/quality", quality.quality, name="desk.quality"),
    path(SITE + "daybook/shift", shift.shift, name="daybook.shift"),
    path(SITE + "daybook/shift/<number:handover>", shift.handover, name="daybook.handover"),
    path(SITE + "display/<slug:slug>", display.display, name="display"),
    path(SITE + "desk/alarm/<number:alarm_id>", desk.alarm_card, name="desk.alarm"),
    path(SITE + "moment/<str:run>", moment.moment, name="moment"),
    path(SITE + "evidence/<number:evidence_id>", desk.evidence, name="desk.evidence"),
    path(SITE + "daybook", daybook.daybook, name="daybook"),
    path(SITE + "daybook/event/<number:seq>", daybook.event_sheet, name="daybook.event"),
    path(SITE + "daybook/lines", daybook.lines, name="daybook.lines"),
    path(SITE + "daybook/recent", daybook.recent, name="daybook.recent"),
    path(SITE + "records", records.records, name="records"),
    path(SITE + "deliveries", deliveries.deliveries, name="deliveries"),
    path(SITE + "rulebook", rulebook.rulebook, name="rulebook"),
    path(SITE + "rulebook/new", rulebook.edit, name="rulebook.new"),
    path(SITE + "rulebook/rows", rulebook.rows, name="rulebook.rows"),
    path(SITE + "rulebook/checks", rulebook.checks, name="rulebook.checks"),
    path(SITE + "rulebook/matrix", rulebook.as_matrix, name="rulebook.matrix"),
    path(SITE + "receivers", rulebook.receivers, name="receivers"),
    path(SITE + "rulebook/<str:rule_id>", rulebook.edit, name="rulebook.edit"),
    path(SITE + "rulebook/<str:rule_id>/lately", rulebook.lately, name="rulebook.lately"),
    path(SITE + "sources", sources.sources, name="sources"),
    path(SITE + "sources/find", sources.find, name="sources.find"),
    path(SITE + "sources/plan", plan.plan, name="sources.plan"),
    path(SITE + "sources/plan/point/<str:point_id>", plan.point_sheet, name="sources.plan_point"),
    path(SITE + "sources/device", device.device_sheet, name="sources.new_device"),
    path(SITE + "sources/device/<str:device_id>", device.device, name="sources.device"),
    path(SITE + "sources/device/<str:device_id>/form", device.device_sheet, name="sources.device_form"),
    path(SITE + "sources/device/<str:device_id>/detectors", detectors.detectors, name="sources.detectors"),
    path(SITE + "sources/device/<str:device_id>/seen", seen.seen, name="sources.seen"),
    path(SITE + "sources/device/<str:device_id>/session", device.session, name="sources.session"),
    path(SITE + "sources/device/<str:device_id>/exchanges", device.exchanges, name="sources.exchanges"),
    path(SITE + "sources/device/<str:device_id>/come", device.device_recent, name="sources.device_come"),
    path(SITE + "sources/readings/<str:point_id>", readings.readings, name="sources.readings"),
    path(SITE + "sources/intake/<str:intake_id>", intake.intake, name="sources.intake"),
    path(SITE + "sources/intake/<str:intake_id>/came", intake.came, name="sources.intake_came"),
    path(SITE + "sources/intake/<str:intake_id>/teach", teach.teach, name="sources.teach"),
    path(SITE + "sources/device/<str:device_id>/teach", teach.teach_device, name="sources.teach_device"),
    path(SITE + "sources/scene/<str:camera>", scene.scene, name="sources.scene"),
    path(SITE + "sources/siting/<str:camera>", siting.siting, name="sources.siting"),
    path(SITE + "counts", counts.counts, name="counts"),
    path(SITE + "counts/<str:counter_id>", counts.counts, name="counts.one"),
    path(SITE + "counts/<str:counter_id>/board", counts.board, name="counts.board"),
    path(SITE + "archive", archive.archive, name="archive"),
    path(SITE + "lists", lists.lists, name="lists"),
    path(SITE + "who", who.who, name="who"),
    path(SITE + "who/by-picture", who.by_picture, name="who.by_picture"),
    path(SITE + "who/attendance", who.present, name="who.present"),
    path(SITE + "lists/<str:list_id>", lists.lists, name="lists.list"),
    path(SITE + "snapshot/<number:snapshot_id>", pictures.snapshot, name="archive.snapshot"),
    path(SITE + "hours", hours.hours, name="hours"),
    path(SITE + "hours/<str:hours_id>", hours.one, name="hours.one"),
    path(SITE + "audit", people.audit_trail, name="audit"),
    path(SITE + "listen/<str:camera>", listening.listen, name="listening"),
    path(SITE + "live", pictures.live, name="pictures.live"),
    path(SITE + "picture/<str:camera>", pictures.picture, name="pictures.picture"),
    path(SITE + "stretch", stretches.stretch, name="pictures.stretch"),
    path(SITE + "export/<str:camera>", pictures.export, name="pictures.export"),
]
