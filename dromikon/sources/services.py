"""Verbs on sources."""

from asgiref.sync import async_to_sync
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
from dromikon.sources.offers import catalogue_of
from dromikon.sources.recording import recorder_of
from dromikon.sources.told import told_of
from dromikon.wire.certificates import fingerprint, shown_by
from dromikon.wire.outgoing import NotAllowed, check_address

#: What is said in a session is written down for so long after somebody looked, in ms.
WATCHED = 120_000


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
    certificate: str | None = None,
    new_id: str | None = None,
) -> Device:
    """Add a device, or change one. `password` and `certificate` None keep what is kept. Its session starts within a second.
    `certificate`: the only one (PEM) that it may show. `new_id`: when a new one's id is to be a certain one.

    Raises Refused, PermissionDenied.
    """
    access.need(May.EDIT_SOURCES)
    problems = []
    if not name.strip():
        problems.append(Problem(path="name", message="Give it a name that an operator understands."))
    problems += address_problems(address.strip())
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
        if certificate is not None:
            device.certificate = certificate
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
    enabled: bool = True, trust: str = "",
) -> Device:  # fmt: skip
    """Add a device that somebody typed in: it is asked who it is first. Without a name it is called what it calls itself;
    one that is here already is refused, whatever its address. One that does not answer is added all the same. `trust`: the
    fingerprint of a certificate that somebody has compared.

    Raises Refused, PermissionDenied.
    """
    access.need(May.EDIT_SOURCES)
    address = address.strip()
    problems = address_problems(address)
    if problems:
        raise Refused(problems)
    certificate = trusted_certificate(address, trust) if trust else ""
    identity = identify(address, user.strip(), password or "", certificate)
    if identity.answer == "certificate":
        raise Refused([_to_compare(address)])
    if identity.answer == "refused":
        raise Refused([Problem(path="password", message="It answers, but not to this user with this password.")])
    other = same_device(known_devices(access.site), identity, address)
    if other is not None:
        where = f" at {other.site.name}" if other.site_id != access.site.id else ""
        raise Refused([Problem(path="address", message=f"This is {other.name}{where}, which is here already.")])
    return save_device(
        access, None, name=name.strip() or identity.name or host_of(address), address=address, user=user, password=password,
        area=area, enabled=enabled, certificate=certificate,
    )  # fmt: skip


def change_device(
    access: Access, device: Device, *, name: str, address: str, user: str, password: str | None, area: str | None = None,
    enabled: bool = True, trust: str = "",
) -> Device:  # fmt: skip
    """Change a device. Where its session has met a certificate that is not trusted, that is shown to be compared; `trust`
    is its fingerprint once it was. Raises Refused, PermissionDenied."""
    access.need(May.EDIT_SOURCES)
    address = address.strip()
    moved = address != device.address
    if not trust and not moved and device.reason == "certificate":
        raise Refused([_to_compare(address)])
    certificate = trusted_certificate(address, trust) if trust else ("" if moved else None)
    return save_device(
        access, device, name=name, address=address, user=user, password=password, area=area, enabled=enabled,
        certificate=certificate,
    )  # fmt: skip


def trusted_certificate(address: str, trust: str) -> str:
    """The certificate (PEM) that a device shows, when its fingerprint is the one that somebody has compared. Raises Refused."""
    shown = _shown(address)
    if not shown or fingerprint(shown) != trust.strip().upper():
        raise Refused([Problem(path="trust", message="It shows another certificate now. Compare once more.")])
    return shown


def _to_compare(address: str) -> Problem:
    shown = _shown(address)
    if not shown:
        return Problem(path="address", message="Nobody vouches for its certificate, and it shows none now.")
    words = "Nobody vouches for its certificate. Compare its SHA-256 fingerprint with the device's own: "
    return Problem(path="trust", message=f"{words}{fingerprint(shown)}")


def _shown(address: str) -> str:
    try:
        return async_to_sync(shown_by)(address)
    except NotAllowed as error:
        raise Refused([Problem(path="address", message=str(error))]) from error


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


def watch_session(access: Access, device: Device) -> None:
    """Have what is asked and answered in its session written down for a while, so that it can be seen."""
    access.need(May.EDIT_SOURCES)
    device.watched_until = now_ms() + WATCHED
    device.save(update_fields=["watched_until"])


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


def address_problems(address: str) -> list[Problem]:
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
            point.told = told_of(point, catalogue_of(device))
            point.save(update_fields=["told"])
            record(access.site, access.person, "added point", f"point:{point.id}", at, name=point.name)
            record_act(access.site.id, "facts", at)
    return point
