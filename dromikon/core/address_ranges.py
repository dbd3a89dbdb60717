"""Addresses as people list them: one, several, a range, a network."""

import re
from collections.abc import Iterator
from ipaddress import AddressValueError, IPv4Address, IPv4Network, NetmaskValueError

from dromikon.core.reading import NotReadable, address
from dromikon.core.words import t

#: More are not one question.
MOST = 1_024
#: Where a device service is when nobody says otherwise.
PATH = "/onvif/device_service"
_RANGE = re.compile(r"(\d+\.\d+\.\d+\.)(\d+)-(?:(\d+\.\d+\.\d+\.)?(\d+))(:\d+)?")
_HOST = re.compile(r"[A-Za-z0-9]([A-Za-z0-9.-]{0,250}[A-Za-z0-9])?(:\d{1,5})?")


def device_addresses(text: str) -> list[str]:
    """The addresses of device services that a text lists: ``http://host/path``, ``192.0.2.10``, ``192.0.2.10:8080``,
    ``192.0.2.10-40``, ``192.0.2.0/26``, a name; separated by commas, spaces or lines. Raises NotReadable."""
    found: dict[str, None] = {}
    for piece in re.split(r"[\s,;]+", text.strip()):
        for one in _expanded(piece) if piece else ():
            found[one] = None
            if len(found) > MOST:
                raise NotReadable(t("these are more than {most} addresses", most=str(MOST)))
    return list(found)


def _expanded(piece: str) -> Iterator[str]:
    if piece.startswith(("http://", "https://")):
        yield address(piece).geturl()
        return
    span = _RANGE.fullmatch(piece)
    if span:
        yield from _range(piece, *span.groups())
    elif "/" in piece:
        yield from _network(piece)
    elif _HOST.fullmatch(piece):
        yield f"http://{piece}{PATH}"
    else:
        raise NotReadable(t("{piece} is no address, range or network", piece=piece[:60]))


def _range(piece: str, start: str, first: str, other: str | None, last: str, port: str | None) -> Iterator[str]:
    try:
        low, high = int(IPv4Address(start + first)), int(IPv4Address((other or start) + last))
    except AddressValueError as error:
        raise NotReadable(t("{piece} is no address, range or network", piece=piece[:60])) from error
    if not 0 <= high - low < MOST:
        raise NotReadable(t("{piece} does not go from a lower address to a higher one nearby", piece=piece))
    for number in range(low, high + 1):
        yield f"http://{IPv4Address(number)}{port or ''}{PATH}"


def _network(piece: str) -> Iterator[str]:
    try:
        network = IPv4Network(piece, strict=False)
    except (AddressValueError, NetmaskValueError, ValueError) as error:
        raise NotReadable(t("{piece} is no address, range or network", piece=piece[:60])) from error
    if network.num_addresses > MOST:
        raise NotReadable(t("{piece} has more than {most} addresses", piece=piece, most=str(MOST)))
    for host in network.hosts():
        yield f"http://{host}{PATH}"
