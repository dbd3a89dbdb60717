"""Who may see and do what: every page, call, picture and stream."""

import json

import pytest
from django.urls import URLPattern, get_resolver

from dromikon.clock import now_ms
from dromikon.people import audit
from dromikon.people.access import access
from dromikon.people.models import AuditEntry, Membership, Person
from dromikon.people.roles import May, Role, role_may
from dromikon.people.tokens import make_token, token_of
from dromikon.rulebook.models import Rule
from dromikon.sites.models import Customer, Site
from dromikon.sources.models import Device
from tests.conftest import GARDENS, NURSERY

pytestmark = [pytest.mark.django_db, pytest.mark.timeless]

SAMPLES = {
    "alarm_id": "1",
    "button_id": "gate-help",
    "evidence_id": "1",
    "seq": "1",
    "rule_id": "jetty-closed",
    "device_id": "cam-jetty",
    "camera": "jetty",
    "list_id": "staff-plates",
    "snapshot_id": "1",
    "case_id": "1",
    "piece_id": "1",
    "step": "0",
    "handover": "1",
    "slug": "lodge-wall",
}


def site_paths():
    """Every address below /s/<site>/, filled with things of the Gardens."""
    for pattern in get_resolver().url_patterns:
        if isinstance(pattern, URLPattern) and str(pattern.pattern).startswith("s/<str:site_id>/"):
            path = str(pattern.pattern).replace("<str:site_id>", GARDENS)
            for name, sample in SAMPLES.items():
                path = path.replace(f"<number:{name}>", sample).replace(f"<str:{name}>", sample)
                path = path.replace(f"<slug:{name}>", sample)
            yield "/" + path


@pytest.fixture
def stranger(garden):
    """Somebody of another customer."""
    site = Site.objects.create(id="elsewhere", customer=Customer.objects.create(name="Other"), name="Elsewhere")
    person = Person.objects.create_user("stranger", password="x")
    Membership.objects.create(person=person, site=site, role=Role.ADMINISTRATOR)
    return person


@pytest.mark.parametrize("path", list(site_paths()))
def test_nobody_sees_another_customers_site(client, stranger, path):
    client.force_login(stranger)
    for method in (client.get, client.post):
        assert method(path).status_code == 404, path


@pytest.mark.parametrize("path", list(site_paths()))
def test_without_log_in_there_is_nothing(client, garden, path):
    assert client.get(path).status_code in (302, 401, 403), path


@pytest.mark.parametrize(
    ("user", "path", "expected"),
    [
        ("vera", "desk", 200), ("vera", "daybook", 200), ("vera", "rulebook", 200), ("vera", "rulebook/jetty-closed", 200),
        ("vera", "rulebook/new", 403), ("vera", "sources/device", 403), ("vera", "sources", 200), ("vera", "hours", 200),
        ("oskar", "rulebook/new", 403), ("oskar", "archive", 200), ("ines", "rulebook/new", 200), ("ines", "sources/device/cam-jetty", 200),
        ("dara", "desk", 200), ("ada", "sources/device", 200),
    ],
)  # fmt: skip
def test_pages_by_role(client, garden, user, path, expected):
    client.force_login(Person.objects.get(username=user))
    assert client.get(f"/s/{GARDENS}/{path}").status_code == expected


@pytest.mark.parametrize(
    ("user", "path", "expected"),
    [
        ("vera", "buttons/gate-help/press", 403), ("vera", "bookmarks", 403), ("vera", "rules", 403),
        ("vera", "rules/jetty-closed/enable", 403), ("oskar", "rules/jetty-closed/enable", 403),
        ("oskar", "buttons/gate-help/press", 200), ("opal", "devices", 403), ("ines", "rules/jetty-closed/enable", 200),
    ],
)  # fmt: skip
def test_acts_by_role(client, garden, user, path, expected):
    client.force_login(Person.objects.get(username=user))
    times = {"start": "2026-03-01T10:00:00Z", "end": "2026-03-01T10:01:00Z"}
    body = {
        "enabled": False,
        "camera": "jetty",
        **times,
        "title": "t",
        "document": {},
        "name": "n",
        "address": "http://a/",
    }
    at = f"/api/v1/{path}?site={GARDENS}"
    assert client.post(at, json.dumps(body), content_type="application/json").status_code == expected


def test_an_operator_of_one_site_is_nobody_at_the_other(client, garden):
    client.force_login(Person.objects.get(username="opal"))
    assert client.get(f"/s/{GARDENS}/desk").status_code == 200
    assert client.get(f"/s/{NURSERY}/desk").status_code == 404
    assert b"Nursery" not in client.get(f"/s/{GARDENS}/desk").content


def test_things_of_another_site_are_not_reached_through_ones_own(client, garden):
    client.force_login(Person.objects.get(username="opal"))
    for path in ("rulebook/yard-night", "picture/yard"):
        assert client.get(f"/s/{GARDENS}/{path}").status_code == 404
    assert client.get(f"/api/v1/cameras/yard/axis?start=0&end=9&site={GARDENS}").status_code == 404
    client.force_login(Person.objects.get(username="ines"))
    assert client.get(f"/s/{GARDENS}/sources/device/cam-yard").status_code == 404


def test_a_person_who_is_switched_off_is_out_at_once(garden):
    person = Person.objects.get(username="oskar")
    person.is_active = False
    person.save()
    from django.http import Http404

    with pytest.raises(Http404):
        access(person, GARDENS)


def test_a_viewer_may_look_and_nothing_else():
    assert [m for m in May if role_may("viewer", m)] == [May.LOOK, May.SEE_ALL_ALARMS]
    assert not role_may("operator", May.EDIT_RULES) and role_may("integrator", May.EDIT_RULES)


def test_security_headers_and_no_open_redirect(client, garden):
    answer = client.get("/login")
    policy = answer["Content-Security-Policy"]
    assert "default-src 'none'" in policy and "script-src 'self'" in policy and "unsafe" not in policy
    assert answer["X-Frame-Options"] == "DENY"
    after = client.post(
        "/login?next=https://example.invalid/",
        {"username": "oskar", "password": "quillmere-demo", "next": "https://example.invalid/"},
    )
    assert after.status_code == 302 and after["Location"] == "/"


def test_log_in_attempts_are_limited(client, garden, settings):
    settings.AXES_ENABLED = True
    wrong = {"username": "oskar", "password": "wrong"}
    codes = [client.post("/login", wrong).status_code for _ in range(7)]
    assert codes[0] == 200 and codes[-1] == 429
    assert b"Too many attempts" in client.post("/login", wrong).content


def test_posts_need_their_token(garden):
    from django.test import Client

    client = Client(enforce_csrf_checks=True)
    client.force_login(Person.objects.get(username="oskar"))
    at = f"/api/v1/buttons/gate-help/press?site={GARDENS}"
    client.get(f"/s/{GARDENS}/desk")
    assert client.post(at).status_code == 403
    token = {"X-CSRFToken": client.cookies["csrftoken"].value}
    assert client.post(at, "{}", content_type="application/json", headers=token).status_code == 200
    assert client.post(at, {"x": "y"}, headers=token).status_code == 422, "a form is told that JSON is wanted"
    assert client.post(at, headers={**token, "Authorization": "Bearer none"}).status_code == 401
    client.logout()
    left = client.post(at, headers=token)
    assert left.status_code == 401 and "log in" in left.json()["error"]


def test_tokens_are_kept_as_digests(garden):
    token = make_token(Person.objects.get(username="ines"), "t")[1]
    assert token_of(token).person.username == "ines"
    assert token_of(token + "x") is None
    assert token not in str(list(Person.objects.get(username="ines").tokens.values()))


def test_secrets_are_sealed_and_never_shown(client, garden):
    device = Device.objects.get(id="cam-jetty")
    assert device.password == "heron-blue-17" and "heron" not in device.password_sealed
    client.force_login(Person.objects.get(username="ines"))
    page = client.get(f"/s/{GARDENS}/sources/device/cam-jetty").content
    assert b"heron-blue" not in page and device.password_sealed.encode() not in page


def test_the_audit_trail_shows_tampering(garden, as_):
    from dromikon.authoring.services import switch

    before = AuditEntry.objects.count()
    for rule in Rule.objects.filter(site=GARDENS)[:3]:
        switch(as_("ines"), rule, False)
    entries = list(AuditEntry.objects.all())[before:]
    assert [e.verb for e in entries] == ["switched off"] * 3 and entries[0].name == "Ines Falkmere"
    assert audit.first_break() is None
    AuditEntry.objects.filter(pk=entries[1].pk).update(verb="switched on")
    assert audit.first_break() == entries[1].pk
    AuditEntry.objects.filter(pk=entries[1].pk).update(verb="switched off")
    AuditEntry.objects.filter(pk=entries[1].pk).delete()
    assert audit.first_break() == entries[2].pk


@pytest.mark.parametrize(("beat", "status"), [(0, 200), (60_000, 503)])
def test_healthz_knows_whether_the_engine_is_alive(client, bench, beat, status):
    bench.engine.clock = lambda: now_ms() - beat
    bench.engine.beat()
    answer = client.get("/healthz")
    assert answer.status_code == status
    assert answer.json()["devices"] == {"unknown": Device.objects.count()}
