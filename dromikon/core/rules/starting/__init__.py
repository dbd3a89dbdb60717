"""Starting rules: documents for common jobs, with open places to be bound to a site's own things."""

from dromikon.core.rules.starting.base import NotBound, Open, Place, Starting, Wider, bind, open_places, suggested
from dromikon.core.rules.starting.rules import STARTING

__all__ = ["STARTING", "NotBound", "Open", "Place", "Starting", "Wider", "bind", "open_places", "suggested"]
