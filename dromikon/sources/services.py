"""Verbs on sources."""

from django.db import transaction

from dromikon import secrets
from dromikon.clock import now_ms
from dromikon.core import reading
from dromikon.core.rules.document import Problem
from dromikon.daybook import feed
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


def ask_again(access: Access, device: Device) -> None:
    """Have a device asked again what it has; its page hears when it has answered. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_SOURCES)
    if not device.enabled:
        raise Refused([Problem(path="", message="It is switched off: no session is kept with it.")])
    device.asked_at = now_ms()
    device.save(update_fields=["asked_at"])


def note_changes(access: Access, device: Device) -> None:
    """Somebody has seen what changed on a device, as far as it is told now."""
    access.need(May.EDIT_SOURCES)
    at = now_ms()
    with transaction.atomic():
        count = device.changes.filter(noted_at=None, at__lte=at).update(noted_at=at)
        if count:
            record(
                access.site, access.person, "noted changes", f"device:{device.id}", at, name=device.name, count=count
            )


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
