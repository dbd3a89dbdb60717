"""Dromikon: the central event-to-action rules of a video system."""

__version__ = "0.2.0"
