"""What cameras see: detectors and the picture as a whole."""

from dromikon.core.decoding import Decoded
from dromikon.core.decoding.onvif.topics import Items, channel_of, detector_of, object_fields, state, topic
from dromikon.core.events import Phase
from dromikon.core.reading import number

#: Absolute zero: radiometry tells kelvins.
KELVIN = 273.15


@topic("tns1:RuleEngine/LineDetector/Crossed", "scene.line_crossed")
def line_crossed(source: Items, data: Items) -> Decoded:
    return Decoded("scene.line_crossed", detector_of(source), Phase.PULSE, object_fields(data))


@topic("tns1:RuleEngine/LoiteringDetector/ObjectIsLoitering", "scene.loitering")
def loitering(source: Items, data: Items) -> Decoded:
    return Decoded("scene.loitering", detector_of(source), state(data, "State"), object_fields(data))


@topic("tns1:RuleEngine/FieldDetector/ObjectsInside", "scene.inside")
def objects_inside(source: Items, data: Items) -> Decoded:
    return Decoded("scene.inside", detector_of(source), state(data, "IsInside"), object_fields(data))


@topic("tns1:RuleEngine/CellMotionDetector/Motion", "scene.motion")
def cell_motion(source: Items, data: Items) -> Decoded:
    return Decoded("scene.motion", detector_of(source), state(data, "IsMotion"))


@topic("tns1:RuleEngine/MotionRegionDetector/Motion", "scene.motion")
def region_motion(source: Items, data: Items) -> Decoded:
    return Decoded("scene.motion", detector_of(source), state(data, "State"))


@topic("tns1:VideoSource/MotionAlarm", "scene.motion")
def motion(source: Items, data: Items) -> Decoded:
    return Decoded("scene.motion", channel_of(source), state(data, "State"))


@topic("tns1:VideoSource/GlobalSceneChange/ImagingService", "scene.tampered")
@topic("tns1:VideoSource/GlobalSceneChange/AnalyticsService", "scene.tampered")
def tampering(source: Items, data: Items) -> Decoded:
    return Decoded("scene.tampered", channel_of(source), state(data, "State"))


@topic("tns1:VideoSource/SignalLoss", "picture.lost")
def signal_loss(source: Items, data: Items) -> Decoded:
    return Decoded("picture.lost", channel_of(source), state(data, "State"))


@topic("tns1:RuleEngine/CountAggregation/Counter", "scene.count")
def counted(source: Items, data: Items) -> Decoded:
    return Decoded("scene.count", detector_of(source), Phase.READING, {"value": number(data["Count"])})


@topic("tns1:VideoAnalytics/Radiometry/BoxTemperatureReading", "scene.temperature")
def box_temperature(source: Items, data: Items) -> Decoded:
    """The hottest place of a measured box, and its lowest and mean temperature where they are told."""
    return _temperature(source, data, "MaxTemperature", lowest="MinTemperature", mean="AverageTemperature")


@topic("tns1:VideoAnalytics/Radiometry/SpotTemperatureReading", "scene.temperature")
def spot_temperature(source: Items, data: Items) -> Decoded:
    return _temperature(source, data, "SpotTemperature")


@topic("tns1:RuleEngine/Radiometry/TemperatureAlarm", "scene.hot")
def temperature_alarm(source: Items, data: Items) -> Decoded:
    return Decoded("scene.hot", detector_of(source), state(data, "State"))


def _temperature(source: Items, data: Items, item: str, **besides: str) -> Decoded:
    region = data.get("ItemID") or source["ItemID"]
    told = {"value": item, **{name: other for name, other in besides.items() if data.get(other)}}
    fields = {name: round(number(data[of]) - KELVIN, 1) for name, of in told.items()}
    return Decoded("scene.temperature", f"{channel_of(source)}/{region}", Phase.READING, fields)
