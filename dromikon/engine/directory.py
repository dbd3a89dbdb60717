"""What reading messages must know of the configuration."""

from dataclasses import dataclass, field

from dromikon.sources.models import Device, Intake, Point


@dataclass
class Directory:
    """Senders by id, and points by how their senders name them; read again whenever facts change."""

    devices: dict[str, tuple[str, str]] = field(default_factory=dict)
    intakes: dict[str, tuple[str, str]] = field(default_factory=dict)
    by_token: dict[tuple[str, str], str] = field(default_factory=dict)
    cameras: dict[str, tuple[str, ...]] = field(default_factory=dict)
    by_site: dict[str, dict[str, str]] = field(default_factory=dict)

    @classmethod
    def read(cls) -> "Directory":
        found = cls()
        found.devices = {d.id: (d.site_id, d.name) for d in Device.objects.filter(retired_at=None)}
        found.intakes = {i.id: (i.site_id, i.name) for i in Intake.objects.filter(retired_at=None)}
        cameras: dict[str, list[str]] = {}
        for point in Point.objects.filter(retired_at=None):
            if point.device_id:
                found.by_token[point.device_id, point.token] = point.id
                if point.kind == "camera":
                    cameras.setdefault(point.device_id, []).append(point.id)
            site = found.by_site.setdefault(point.site_id, {})
            site[point.id] = point.id
            if point.device_id is None and point.token:
                site[point.token] = point.id
        found.cameras = {device: tuple(points) for device, points in cameras.items()}
        return found
