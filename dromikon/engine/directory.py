"""What reading messages must know of the configuration."""

import logging
from dataclasses import dataclass, field

from pydantic import ValidationError

from dromikon.core.decoders.document import DecoderDocument
from dromikon.core.decoding.onvif.doors import ACCESS
from dromikon.core.devices.standing import stand_for_device
from dromikon.core.mibs.names import Names
from dromikon.engine.readings import Sensor, sensor_of
from dromikon.sources.mibs import names_by_site
from dromikon.sources.models import Decoder, Device, Intake, Point
from dromikon.sources.naming import names_of
from dromikon.sources.offers import catalogue_of

log = logging.getLogger("dromikon.engine")


@dataclass
class Directory:
    """Senders by id, and points by how their senders name them; read again whenever facts change."""

    devices: dict[str, tuple[str, str]] = field(default_factory=dict)
    intakes: dict[str, tuple[str, str]] = field(default_factory=dict)
    by_token: dict[tuple[str, str], str] = field(default_factory=dict)
    #: The points that stand for a device as a whole.
    standing: dict[str, tuple[str, ...]] = field(default_factory=dict)
    by_site: dict[str, dict[str, str]] = field(default_factory=dict)
    #: By intake or device, what its messages mean, in the order in which decoders are asked.
    decoders: dict[str, tuple[DecoderDocument, ...]] = field(default_factory=dict)
    #: By site, names for what traps tell by numbers, where there are more than the standard's.
    names: dict[str, Names] = field(default_factory=dict)
    #: Points whose readings are converted, thinned or missed.
    sensors: dict[str, Sensor] = field(default_factory=dict)

    @classmethod
    def read(cls) -> "Directory":
        found = cls()
        devices = list(Device.objects.filter(retired_at=None))
        found.devices = {d.id: (d.site_id, d.name) for d in devices}
        found.intakes = {i.id: (i.site_id, i.name) for i in Intake.objects.filter(retired_at=None)}
        of_device: dict[str, list[tuple[str, str]]] = {}
        of_site: dict[str, list[Point]] = {}
        for point in Point.objects.filter(retired_at=None):
            of_site.setdefault(point.site_id, []).append(point)
            if sensor := sensor_of(point):
                found.sensors[point.id] = sensor
            if point.device_id:
                found.by_token[point.device_id, point.token] = point.id
                of_device.setdefault(point.device_id, []).append((point.id, point.kind))
        found.by_site = {site: names_of(points) for site, points in of_site.items()}
        for device in devices:
            found._read_access(device)
        found.decoders = decoders_by_source()
        found.names = names_by_site()
        found.standing = {device: stand_for_device(points) for device, points in of_device.items()}
        return found

    def point(self, site: str, source: str, name: str) -> str | None:
        """The point that a message of an intake or device means by a name."""
        return self.by_site.get(site, {}).get(name) or self.by_token.get((source, name))

    def _read_access(self, device: Device) -> None:
        """Access points are known by the door that they lead to."""
        for door in catalogue_of(device).get("doors", []):
            point = self.by_token.get((device.id, f"door/{door['token']}"))
            if point is not None:
                self.by_token.update({(device.id, f"{ACCESS}{token}"): point for token in door.get("access", [])})


def decoders_by_source() -> dict[str, tuple[DecoderDocument, ...]]:
    """What messages of each intake and device mean, by those decoders that read. One that a newer release would refuse is
    left out."""
    found: dict[str, list[DecoderDocument]] = {}
    known = Decoder.objects.filter(retired_at=None).values_list("intake_id", "device_id", "document")
    for intake, device, content in known:
        source = intake or device
        try:
            document = DecoderDocument.model_validate(content)
        except ValidationError:
            log.warning("a decoder of %s is no longer valid", source)
            continue
        if document.enabled:
            found.setdefault(source, []).append(document)
    return {source: tuple(sorted(own, key=lambda d: (d.order, d.name))) for source, own in found.items()}
