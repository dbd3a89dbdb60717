"""What reading messages must know of the configuration."""

import logging
from dataclasses import dataclass, field

from pydantic import ValidationError

from dromikon.core.decoders.document import DecoderDocument
from dromikon.core.decoding.onvif.doors import ACCESS
from dromikon.core.devices.standing import stand_for_device
from dromikon.sources.models import Decoder, Device, Intake, Point
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

    #: By intake, what its messages mean, in the order in which decoders are asked.
    decoders: dict[str, tuple[DecoderDocument, ...]] = field(default_factory=dict)

    @classmethod
    def read(cls) -> "Directory":
        found = cls()
        devices = list(Device.objects.filter(retired_at=None))
        found.devices = {d.id: (d.site_id, d.name) for d in devices}
        found.intakes = {i.id: (i.site_id, i.name) for i in Intake.objects.filter(retired_at=None)}
        of_device: dict[str, list[tuple[str, str]]] = {}
        for point in Point.objects.filter(retired_at=None):
            if point.device_id:
                found.by_token[point.device_id, point.token] = point.id
                of_device.setdefault(point.device_id, []).append((point.id, point.kind))
            site = found.by_site.setdefault(point.site_id, {})
            site[point.id] = point.id
            if point.device_id is None and point.token:
                site[point.token] = point.id
        for device in devices:
            found._read_access(device)
        found.decoders = decoders_by_intake()
        found.standing = {device: stand_for_device(points) for device, points in of_device.items()}
        return found

    def _read_access(self, device: Device) -> None:
        """Access points are known by the door that they lead to."""
        for door in catalogue_of(device).get("doors", []):
            point = self.by_token.get((device.id, f"door/{door['token']}"))
            if point is not None:
                self.by_token.update({(device.id, f"{ACCESS}{token}"): point for token in door.get("access", [])})


def decoders_by_intake() -> dict[str, tuple[DecoderDocument, ...]]:
    """What messages of each intake mean, by those decoders that read. One that a newer release would refuse is left out."""
    found: dict[str, list[DecoderDocument]] = {}
    for intake, content in Decoder.objects.filter(retired_at=None).values_list("intake_id", "document"):
        try:
            document = DecoderDocument.model_validate(content)
        except ValidationError:
            log.warning("a decoder of intake %s is no longer valid", intake)
            continue
        if document.enabled:
            found.setdefault(intake, []).append(document)
    return {intake: tuple(sorted(known, key=lambda d: (d.order, d.name))) for intake, known in found.items()}
