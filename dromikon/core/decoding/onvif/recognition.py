"""Plates and faces, as far as the standard names them."""

from dromikon.core.decoding import Decoded
from dromikon.core.decoding.onvif.topics import Items, confidence, detector_of, place_of, topic
from dromikon.core.events import Phase, Scalar
from dromikon.core.reading import number


@topic("tns1:RuleEngine/Recognition/LicensePlate", "plate.read")
def plate(source: Items, data: Items) -> Decoded:
    """The number stands in an element of its own (tt:LicensePlateInfo), or in an item of that name."""
    name = next((n for n in data if n.rsplit("/", 1)[-1] == "PlateNumber"), "PlateNumber")
    fields: dict[str, Scalar] = {"plate": "".join(data[name].split()).upper(), **confidence(data)}
    if f"{name}@Likelihood" in data:
        fields["confidence"] = round(number(data[f"{name}@Likelihood"]) * 100, 1)
    if "Direction" in data:
        fields["direction"] = {"right": "in", "left": "out"}.get(data["Direction"].lower(), data["Direction"].lower())
    return Decoded("plate.read", detector_of(source), Phase.PULSE, {**fields, **place_of(data)})


@topic("tns1:RuleEngine/Recognition/Face", "face.seen")
def face(source: Items, data: Items) -> Decoded:
    known: dict[str, Scalar] = {"person": data["FaceName"]} if data.get("FaceName") else {}
    return Decoded("face.seen", detector_of(source), Phase.PULSE, {**known, **confidence(data), **place_of(data)})
