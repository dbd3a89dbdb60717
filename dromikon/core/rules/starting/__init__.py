"""Starting rules: documents for common jobs, with open places to be bound to a site's own things."""

from dromikon.core.rules.starting.base import NotBound, Place, Starting, bind, suggested
from dromikon.core.rules.starting.rules import STARTING

__all__ = ["STARTING", "NotBound", "Place", "Starting", "bind", "suggested"]
