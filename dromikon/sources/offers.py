"""What a device offers, as far as it has told: what could be a point, and what each point can send."""

from collections.abc import Iterator, Mapping
from types import MappingProxyType
from typing import TypedDict, cast

from dromikon.core.decoding.onvif import STANDARD_DETECTORS, TOPIC_KINDS
from dromikon.core.decoding.onvif.topics import OWN
from dromikon.core.devices.catalogue import DetectorSaid, DeviceCatalogue, detector_token, topics_of
from dromikon.core.kinds import KINDS, Kind
from dromikon.core.scene.watching import DETECTORS
from dromikon.sources.models import Decoder, Device, Point

#: Kinds that our own session tells of a device's points, whatever its topics.
OF_SESSIONS = ("device.lost", "device.clock_wrong", "device.changed")


class Offer(TypedDict):
    """Something a device has that could be a point. `waits`: seconds it watches before it reports."""

    kind: str
    token: str
    name: str
    waits: float


def catalogue_of(device: Device) -> DeviceCatalogue:
    """What a device has said of itself."""
    return cast(DeviceCatalogue, device.catalogue)


def offered_points(device: Device, known: set[str] | None = None) -> list[Offer]:
    """What a device said it has and nobody has named yet; `known` are the tokens of its points, where they are at hand."""
    if known is None:
        known = set(device.points.filter(retired_at=None).values_list("token", flat=True))
    return [o for o in _everything(device) if o["token"] not in known]


def _everything(device: Device) -> Iterator[Offer]:
    content = catalogue_of(device)
    for channel in content.get("channels", []):
        yield {"kind": "camera", "token": channel, "name": f"{device.name} {channel}", "waits": 0}
    for token, detector in detectors_by_token(content).items():
        yield {"kind": "detector", "token": token, "name": detector["name"], "waits": detector["waits"]}
    for door in content.get("doors", []):
        yield {"kind": "door", "token": f"door/{door['token']}", "name": door["name"], "waits": 0}
    for token in content.get("inputs", []):
        yield {"kind": "input", "token": f"input/{token}", "name": f"{device.name} {token}", "waits": 0}
    for token in content.get("relays", []):
        yield {"kind": "relay", "token": f"relay/{token}", "name": f"{device.name} {token}", "waits": 0}
    for topic in topics_of(content) or ():
        if topic not in TOPIC_KINDS:
            name = topic.rsplit("/", 1)[-1].rsplit(":", 1)[-1]
            yield {"kind": "topic", "token": f"{OWN}{topic}", "name": f"{device.name} {name}", "waits": 0}


#: Which part of the catalogue has points of a kind.
PARTS = {"camera": "channels", "detector": "detectors", "door": "doors", "input": "inputs", "relay": "relays"}


def is_gone(point: Point) -> bool:
    """Whether its device has told what it has, and this is not among it any more."""
    if point.device is None or PARTS.get(point.kind, "") not in point.device.catalogue:
        return False
    return all(offer["token"] != point.token for offer in _everything(point.device))


def detectors_by_token(catalogue: DeviceCatalogue) -> dict[str, DetectorSaid]:
    """A device's detectors by the token under which their events come."""
    return {detector_token(d): d for d in catalogue.get("detectors", []) if d.get("channel")}


def taught_kinds(site: str) -> dict[str, set[str]]:
    """By device of a site, the kinds that decoders of its own make of its messages."""
    found: dict[str, set[str]] = {}
    known = Decoder.objects.filter(site=site, device__isnull=False, retired_at=None)
    for device, document in known.values_list("device_id", "document"):
        found.setdefault(str(device), set()).add(document["kind"])
    return found


def kinds_of(point: Point, taught: Mapping[str, set[str]] = MappingProxyType({})) -> list[Kind]:
    """The kinds a point can send, as far as its device has told, and as its messages were `taught` (`taught_kinds`)."""
    if point.watch is not None:
        own = DETECTORS.get(str(point.watch.get("detects")))
        return [KINDS[own.tells]] if own is not None else []
    fitting = [k for k in KINDS if point.kind in k.point_kinds]
    if point.device is None:
        return [k for k in fitting if k.name not in OF_SESSIONS]
    catalogue = catalogue_of(point.device)
    topics = topics_of(catalogue)
    if topics is None:
        return [k for k in fitting if k.name not in OF_SESSIONS or point.kind == "camera"]
    told = _topics_of_point(point, catalogue, topics)
    sent = {kind for topic in told for kind in TOPIC_KINDS.get(topic, ("device.own",))}
    sent |= taught.get(point.device.id, set())
    if _stands_for_device(point, catalogue):
        sent.update(OF_SESSIONS)
    return [k for k in fitting if k.name in sent]


def _stands_for_device(point: Point, catalogue: DeviceCatalogue) -> bool:
    """Whether what happens to the device happens at this point, going by what the device has."""
    first = (kind for kind, part in PARTS.items() if kind != "detector" and catalogue.get(part))
    return point.kind == next(first, "camera")


def _topics_of_point(point: Point, catalogue: DeviceCatalogue, topics: list[str]) -> list[str]:
    """For a detector those of its type, where the device tells them; otherwise all."""
    detector = detectors_by_token(catalogue).get(point.token)
    if detector is None:
        # A detector that is no longer on the device sends nothing.
        return [] if point.kind == "detector" and "detectors" in catalogue else topics
    said = {t["name"]: t["topics"] for t in catalogue.get("detector_types", [])}
    return said.get(detector["type"]) or list(STANDARD_DETECTORS.get(detector["type"], topics))
