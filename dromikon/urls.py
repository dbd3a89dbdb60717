"""Every address of the web process."""

from django.contrib.auth.views import LoginView, LogoutView
from django.urls import path, register_converter

from dromikon.api.api import api
from dromikon.archive import views as archive
from dromikon.daybook import views as daybook
from dromikon.desk import views as desk
from dromikon.hours import views as hours
from dromikon.lists import views as lists
from dromikon.people import views as people
from dromikon.rulebook import streaming
from dromikon.rulebook import views as rulebook
from dromikon.sources import views as sources
from dromikon.web import views as web


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
    path("", web.home, name="home"),
    path("login", LoginView.as_view(template_name="people/login.html", redirect_authenticated_user=True), name="login"),
    path("logout", LogoutView.as_view(), name="logout"),
    path("tokens", people.tokens, name="tokens"),
    path("healthz", web.healthz, name="healthz"),
    path("kit", web.kit, name="kit"),
    path("api/v1/", api.urls),
    path(SITE + "feed", web.feed, name="feed"),
    path(SITE + "desk", desk.desk, name="desk"),
    path(SITE + "desk/state", desk.desk_state, name="desk.state"),
    path(SITE + "desk/alarm/<number:alarm_id>", desk.alarm_card, name="desk.alarm"),
    path(SITE + "desk/alarm/<number:alarm_id>/acknowledge", desk.acknowledge, name="desk.acknowledge"),
    path(SITE + "desk/press/<str:button_id>", desk.press_button, name="desk.press"),
    path(SITE + "evidence/<number:evidence_id>", desk.evidence, name="desk.evidence"),
    path(SITE + "daybook", daybook.daybook, name="daybook"),
    path(SITE + "daybook/marks", daybook.marks, name="daybook.marks"),
    path(SITE + "daybook/event/<number:seq>", daybook.event_sheet, name="daybook.event"),
    path(SITE + "daybook/lines", daybook.lines, name="daybook.lines"),
    path(SITE + "daybook/row/<number:seq>", daybook.recent_row, name="daybook.row"),
    path(SITE + "rulebook", rulebook.rulebook, name="rulebook"),
    path(SITE + "rulebook/new", rulebook.edit, name="rulebook.new"),
    path(SITE + "rulebook/preview", rulebook.preview, name="rulebook.preview"),
    path(SITE + "rulebook/rehearse", streaming.rehearse_rule, name="rulebook.rehearse"),
    path(SITE + "rulebook/save", rulebook.save_rule, name="rulebook.save_new"),
    path(SITE + "receivers", rulebook.receivers, name="receivers"),
    path(SITE + "rulebook/file", rulebook.rulebook_file, name="rulebook.file"),
    path(SITE + "rulebook/<str:rule_id>", rulebook.edit, name="rulebook.edit"),
    path(SITE + "rulebook/<str:rule_id>/save", rulebook.save_rule, name="rulebook.save"),
    path(SITE + "rulebook/<str:rule_id>/try/<number:step>", rulebook.try_step, name="rulebook.try"),
    path(SITE + "rulebook/<str:rule_id>/switch", rulebook.switch_rule, name="rulebook.switch"),
    path(SITE + "sources", sources.sources, name="sources"),
    path(SITE + "sources/device", sources.device_sheet, name="sources.new_device"),
    path(SITE + "sources/device/<str:device_id>", sources.device_sheet, name="sources.device"),
    path(SITE + "sources/device/<str:device_id>/adopt", sources.adopt, name="sources.adopt"),
    path(SITE + "archive", archive.archive, name="archive"),
    path(SITE + "archive/bookmarks", archive.make_bookmark, name="archive.bookmark"),
    path(SITE + "archive/<str:camera>/axis", archive.axis, name="archive.axis"),
    path(SITE + "lists", lists.lists, name="lists"),
    path(SITE + "lists/new", lists.new_list, name="lists.new"),
    path(SITE + "lists/<str:list_id>", lists.lists, name="lists.list"),
    path(SITE + "lists/<str:list_id>/change", lists.change, name="lists.change"),
    path(SITE + "lists/<str:list_id>/table", lists.table, name="lists.table"),
    path(SITE + "mode", web.mode, name="mode"),
    path(SITE + "snapshot/<number:snapshot_id>", archive.snapshot, name="archive.snapshot"),
    path(SITE + "hours", hours.hours, name="hours"),
    path(SITE + "audit", people.audit_trail, name="audit"),
    path(SITE + "live", archive.live, name="pictures.live"),
    path(SITE + "picture/<str:camera>", archive.picture, name="pictures.picture"),
    path(SITE + "frames/<str:camera>", archive.frames, name="pictures.frames"),
    path(SITE + "coverage/<str:camera>", archive.coverage, name="pictures.coverage"),
    path(SITE + "export/<str:camera>", archive.export, name="pictures.export"),
]
