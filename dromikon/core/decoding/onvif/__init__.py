"""Decoders of ONVIF topics (ONVIF Analytics, Door Control, Access Control and Core specifications), one file an area. One more
topic is one function with `@topic`."""

from dromikon.core.decoding.onvif import doors, inputs, recognition, scene
from dromikon.core.decoding.onvif.topics import STANDARD_DETECTORS, TOPIC_KINDS, TOPICS, decode

__all__ = ["STANDARD_DETECTORS", "TOPICS", "TOPIC_KINDS", "decode", "doors", "inputs", "recognition", "scene"]
