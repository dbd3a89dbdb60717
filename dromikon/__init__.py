"""Dromikon: the central event-to-action rules of a video system."""

__version__ = "0.1.0"
