"""A device's time, as it tells it (ONVIF GetSystemDateAndTime)."""

import re
from datetime import UTC, datetime, timedelta

from lxml import etree

from dromikon.wire.onvif.namespaces import TT
from dromikon.wire.onvif.soap import DeviceError

#: The offset of a POSIX time zone: west of Greenwich is positive ("CET-1CEST,M3.5.0,M10.5.0/3").
_ZONE = re.compile(r"^(?:<[^>]+>|[A-Za-z]+)([+-]?)(\d{1,2})(?::(\d{2}))?")


def told_time(answer: etree._Element) -> datetime:
    """The time that a device tells, in UTC; one that tells local time only is reckoned back by its time zone. Raises
    DeviceError("malformed")."""
    utc, local = answer.find(f".//{{{TT}}}UTCDateTime"), answer.find(f".//{{{TT}}}LocalDateTime")
    if utc is not None:
        return _read(utc)
    zone = _ZONE.match((answer.findtext(f".//{{{TT}}}TZ") or "").strip())
    if local is None or zone is None:
        raise DeviceError("malformed", "The device does not tell its time in UTC, nor its time zone.")
    sign, hours, minutes = zone.groups()
    west = timedelta(hours=int(hours), minutes=int(minutes or 0)) * (-1 if sign == "-" else 1)
    summer = (answer.findtext(f".//{{{TT}}}DaylightSavings") or "").strip() in ("true", "1")
    return _read(local) + west - timedelta(hours=1 if summer else 0)


def _read(element: etree._Element) -> datetime:
    try:
        year, month, day, hour, minute, second = (
            int(element.findtext(f".//{{{TT}}}{name}") or 0)
            for name in ("Year", "Month", "Day", "Hour", "Minute", "Second")
        )
        return datetime(year, month, day, hour, minute, second, tzinfo=UTC)
    except ValueError as error:
        raise DeviceError("malformed", "The device tells a time that does not exist.") from error
