"""Traps and informs that we send (RFC 3416, 4.2.6 and 4.2.7), of version 2c and 3. Pure: values in, messages out."""

from collections.abc import Iterable, Sequence

from dromikon.core.reading import NotReadable
from dromikon.core.snmp import ber, usm
from dromikon.core.snmp.usm import AUTHENTICATED, INFORM, PRIVATE, REPORT, REPORTABLE, TRAP, Clock, Frame, User
from dromikon.core.words import t

UPTIME, NOTIFICATION = "1.3.6.1.2.1.1.3.0", "1.3.6.1.6.3.1.1.4.1.0"
TIME_TICKS = 0x43
#: A value of a variable: text, number, or the name of an object in dotted form.
Value = str | int


def text(name: str, value: str) -> bytes:
    """A variable that is a text (in UTF-8)."""
    return ber.write(ber.SEQUENCE, ber.write_oid(name) + ber.write(ber.OCTETS, value.encode()))


def number(name: str, value: int) -> bytes:
    """A variable that is a number of 32 bits."""
    return ber.write(ber.SEQUENCE, ber.write_oid(name) + ber.write_integer(value))


def pdu(kind: int, request: int, uptime_s: float, notification: str, variables: Iterable[bytes]) -> bytes:
    """A trap or inform: first for how long we run, then what it is, then what it tells."""
    ticks = ber.write_integer(int(uptime_s * 100) & 0xFFFFFFFF, TIME_TICKS)
    first = ber.write(ber.SEQUENCE, ber.write_oid(UPTIME) + ticks)
    what = ber.write(ber.SEQUENCE, ber.write_oid(NOTIFICATION) + ber.write_oid(notification))
    numbers = b"".join(ber.write_integer(n) for n in (request, 0, 0))
    return ber.write(kind, numbers + ber.write(ber.SEQUENCE, first + what + b"".join(variables)))


def of_version_2c(community: str, pdu: bytes) -> bytes:
    """The message with a community."""
    return ber.write(ber.SEQUENCE, ber.write_integer(1) + ber.write(ber.OCTETS, community.encode()) + pdu)


def of_version_3(user: User, clock: Clock, id: int, pdu: bytes, salt: bytes) -> bytes:
    """The message of a user. `clock`: ours for a trap, the manager's for an inform. `salt`: eight bytes never used before."""
    inform = pdu[0] == INFORM
    flags = AUTHENTICATED | (PRIVATE if user.cipher != "none" else 0) | (REPORTABLE if inform else 0)
    scoped = ber.write(ber.SEQUENCE, ber.write(ber.OCTETS, clock.engine) + ber.write(ber.OCTETS, b"") + pdu)
    return usm.written(id, flags, clock, user, scoped, salt)


def question(id: int) -> bytes:
    """What a manager answers with who it is and what its time is (RFC 3414, 4)."""
    nobody = ber.write(usm.GET, b"".join(ber.write_integer(n) for n in (id, 0, 0)) + ber.write(ber.SEQUENCE, b""))
    scoped = ber.write(ber.SEQUENCE, ber.write(ber.OCTETS, b"") * 2 + nobody)
    return usm.written(id, REPORTABLE, Clock(b"", 0, 0), User("", "", cipher="none"), scoped, b"")


def clock_of(answer: bytes) -> Clock:
    """Who a manager says that it is, in a report. Raises NotReadable."""
    found = usm.frame(answer).clock
    if not found.engine:
        raise NotReadable(t("it does not say who it is"))
    return found


def confirms_2c(answer: bytes, request: int) -> bool:
    """Whether a datagram is the answer to an inform of version 2c."""
    try:
        at, _ = ber.element(answer, 0, ber.SEQUENCE)
        _, at = ber.integer(answer, at)
        _, at = ber.octets(answer, at)
        begins, _ = ber.element(answer, at, usm.RESPONSE)
        return ber.integer(answer, begins)[0] == request
    except NotReadable:
        return False


def confirms_3(answer: bytes, user: User, request: int) -> Frame | bool:
    """True for the answer to an inform of version 3; the frame of a report, whose clock is to be believed; else False.
    Raises usm.Rejected for what is signed by somebody else."""
    try:
        message = usm.frame(answer)
        if not message.flags & AUTHENTICATED:
            return message if usm.inside(message.inside).sort == REPORT else False
        said = usm.opened(message, answer, user if message.flags & PRIVATE else User(
            user.name, user.secret, "", user.hashing, "none"
        ))  # fmt: skip
    except NotReadable:
        return False
    if said.sort == REPORT:
        return message
    return said.sort == usm.RESPONSE and said.request == request


def variables_of(body: bytes) -> list[bytes]:
    """The variables of a trap that came, as they came, without the two that say when and what; those of version 1 and what
    cannot be read: none. `body`: as it is kept, of any version."""
    try:
        return _variables(body)
    except NotReadable:
        return []


def _variables(body: bytes) -> list[bytes]:
    at, _ = ber.element(body, 0, ber.SEQUENCE)
    if body[at : at + 1] == bytes([ber.OCTETS]):
        at = usm.inside(body).place
    else:
        version, at = ber.integer(body, at)
        if version == 0:
            return []
        _, at = ber.octets(body, at)
    if body[at] not in (TRAP, INFORM):
        return []
    begins, _ = ber.element(body, at, body[at])
    for _ in range(3):
        _, begins = ber.integer(body, begins)
    place, ends = ber.element(body, begins, ber.SEQUENCE)
    found: list[bytes] = []
    while place < ends:
        _, after = ber.element(body, place, ber.SEQUENCE)
        found.append(body[place:after])
        place = after
    return found[2:]


def fitting(variables: Sequence[bytes], room: int) -> list[bytes]:
    """As many variables as there is room for, in bytes, from the first."""
    found: list[bytes] = []
    for variable in variables:
        room -= len(variable)
        if room < 0:
            break
        found.append(variable)
    return found


__all__ = [
    "INFORM",
    "TRAP",
    "clock_of",
    "confirms_2c",
    "confirms_3",
    "fitting",
    "number",
    "of_version_2c",
    "of_version_3",
    "pdu",
    "question",
    "text",
    "variables_of",
]
