"""Verbs on sources."""

from typing import TypedDict, cast

from django.db import transaction
from django.db.models import Max

from dromikon import secrets
from dromikon.clock import now_ms
from dromikon.core import reading
from dromikon.core.decoding.onvif import DETECTOR_KINDS, KIND_TOPICS
from dromikon.core.kinds import KINDS, Kind
from dromikon.core.rules.document import Problem
from dromikon.daybook import feed
from dromikon.daybook.models import EventRow
from dromikon.daybook.services import record_act, tell
from dromikon.ids import id_or_new
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.refusals import Refused
from dromikon.sites.models import Area
from dromikon.sources.identify import host_of, identify, known_devices, same_device
from dromikon.sources.models import Device, Point, Sightline
from dromikon.sources.recording import recorder_of
from dromikon.wire.onvif.catalogue import DetectorSaid, DeviceCatalogue
from dromikon.wire.outgoing import NotAllowed, check_address


def save_device(
    access: Access,
    device: Device | None,
    *,
    name: str,
    address: str,
    user: str,
    password: str | None,
    area: str | None = None,
    enabled: bool = True,
    new_id: str | None = None,
) -> Device:
    """Add a device, or change one. `password` None keeps the one that is kept. Its session starts within a second.
    `new_id`: when a new one's id is to be a certain one.

    Raises Refused, PermissionDenied.
    """
    access.need(May.EDIT_SOURCES)
    problems = []
    if not name.strip():
        problems.append(Problem(path="name", message="Give it a name that an operator understands."))
    problems += _address_problems(address.strip())
    if problems:
        raise Refused(problems)
    at = now_ms()
    with transaction.atomic():
        new = device is None
        device = device or Device(site=access.site, id=id_or_new(new_id))
        device.name, device.address, device.user, device.enabled = (
            name.strip()[:120],
            address.strip(),
            user.strip()[:80],
            enabled,
        )
        device.area = Area.objects.filter(id=area, site=access.site, retired_at=None).first() or device.area
        if password is not None:
            device.password_sealed = secrets.seal(password)
        device.save(force_insert=new)
        record(
            access.site,
            access.person,
            "added device" if new else "changed device",
            f"device:{device.id}",
            at,
            name=device.name,
        )
        record_act(access.site.id, "facts", at)
        tell(feed.device(access.site.id, device.id, device.state, at))
    return device


def add_device(
    access: Access, *, name: str, address: str, user: str, password: str | None, area: str | None = None,
    enabled: bool = True,
) -> Device:  # fmt: skip
    """Add a device that somebody typed in: it is asked who it is first. Without a name it is called what it calls itself;
    one that is here already is refused, whatever its address. One that does not answer is added all the same.

    Raises Refused, PermissionDenied.
    """
    access.need(May.EDIT_SOURCES)
    address = address.strip()
    problems = _address_problems(address)
    if problems:
        raise Refused(problems)
    identity = identify(address, user.strip(), password or "")
    if identity.answer == "refused":
        raise Refused([Problem(path="password", message="It answers, but not to this user with this password.")])
    other = same_device(known_devices(access.site), identity, address)
    if other is not None:
        where = f" at {other.site.name}" if other.site_id != access.site.id else ""
        raise Refused([Problem(path="address", message=f"This is {other.name}{where}, which is here already.")])
    return save_device(
        access, None, name=name.strip() or identity.name or host_of(address), address=address, user=user, password=password,
        area=area, enabled=enabled,
    )  # fmt: skip


def rename_point(access: Access, point: Point, name: str) -> None:
    """Call a point by another name. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_SOURCES)
    name = name.strip()
    if not 0 < len(name) <= 120:
        raise Refused([Problem(path="name", message="Give it a name that an operator understands.")])
    at = now_ms()
    with transaction.atomic():
        before, point.name = point.name, name
        point.save(update_fields=["name"])
        record(access.site, access.person, "renamed point", f"point:{point.id}", at, name=name, before=before)
        record_act(access.site.id, "facts", at)


def retire_device(access: Access, device: Device) -> None:
    """Take a device and its points away: its session ends, nothing comes from it any more, history keeps their names."""
    access.need(May.EDIT_SOURCES)
    at = now_ms()
    with transaction.atomic():
        points = device.points.filter(retired_at=None)
        Sightline.objects.filter(camera__in=points).delete()
        Sightline.objects.filter(point__in=points).delete()
        points.update(retired_at=at)
        device.retired_at, device.enabled = at, False
        device.save(update_fields=["retired_at", "enabled"])
        record(access.site, access.person, "retired device", f"device:{device.id}", at, name=device.name)
        record_act(access.site.id, "facts", at)
        tell(feed.device(access.site.id, device.id, device.state, at))


def _address_problems(address: str) -> list[Problem]:
    try:
        reading.address(address)
        check_address(address)
    except reading.NotReadable:
        words = "An address such as http://192.0.2.10/onvif/device_service, without a user in it."
    except NotAllowed as error:
        words = str(error)
    else:
        return []
    return [Problem(path="address", message=words)]


def adopt_point(access: Access, device: Device, kind: str, token: str, name: str, waits: float = 0.0) -> Point:
    """Make a point of something a device said it has. A camera is joined to the recorder that records it, if any does."""
    access.need(May.EDIT_SOURCES)
    at = now_ms()
    recorded = recorder_of(device, token) if kind == "camera" else None
    with transaction.atomic():
        camera = Point.objects.filter(device=device, kind="camera", retired_at=None).first()
        point, made = Point.objects.get_or_create(
            device=device,
            token=token,
            retired_at=None,
            defaults={
                "site": access.site,
                "area": device.area,
                "kind": kind,
                "name": name.strip()[:120] or token,
                "waits": waits,
                "channel": camera if kind == "detector" else None,
                "recorder": recorded[0] if recorded else None,
                "recorder_channel": recorded[1] if recorded else "",
            },
        )
        if made:
            record(access.site, access.person, "added point", f"point:{point.id}", at, name=point.name)
            record_act(access.site.id, "facts", at)
    return point


class Offer(TypedDict):
    """Something a device has that could be a point. `waits`: seconds it watches before it reports."""

    kind: str
    token: str
    name: str
    waits: float


def offered_points(device: Device, known: set[str] | None = None) -> list[Offer]:
    """What a device said it has and nobody has named yet; `known` are the tokens of its points, where they are at hand."""
    if known is None:
        known = set(device.points.filter(retired_at=None).values_list("token", flat=True))
    content = cast(DeviceCatalogue, device.catalogue)
    offers: list[Offer] = [
        {"kind": "camera", "token": c, "name": f"{device.name} {c}", "waits": 0} for c in content.get("channels", [])
    ]
    offers += [
        {"kind": "detector", "token": token, "name": d["name"], "waits": d["waits"]}
        for token, d in _detectors(content).items()
    ]
    for kind, tokens in (("input", content.get("inputs", [])), ("relay", content.get("relays", []))):
        offers += [
            {"kind": kind, "token": f"{kind}/{token}", "name": f"{device.name} {token}", "waits": 0} for token in tokens
        ]
    return [o for o in offers if o["token"] not in known]


def _detectors(catalogue: DeviceCatalogue) -> dict[str, DetectorSaid]:
    """A device's detectors by the token under which their events come."""
    return {f"{d['channel']}/{d['name']}": d for d in catalogue.get("detectors", []) if d.get("channel")}


def kinds_of(point: Point) -> list[Kind]:
    """The kinds a point can send, as far as its device has told."""
    fitting = [k for k in KINDS if point.kind in k.point_kinds]
    if point.device is None:
        return fitting
    catalogue = cast(DeviceCatalogue, point.device.catalogue)
    known = _detectors(catalogue).get(point.token)
    if known is not None:
        told = DETECTOR_KINDS.get(known["type"])
        return [k for k in fitting if told is None or k.name == told]
    topics = catalogue.get("topics", [])
    return [k for k in fitting if KIND_TOPICS.get(k.name) in (None, *topics)]


def last_seen(access: Access) -> dict[tuple[str, str], int]:
    """When each kind was last seen at each point of the site."""
    seen = (
        EventRow.objects.filter(site=access.site.id, initial=False)
        .values("point", "kind")
        .annotate(last=Max("occurred_at"))
    )
    return {(row["point"], row["kind"]): row["last"] for row in seen}
