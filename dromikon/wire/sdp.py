"""What a stream is made of, as its device describes it (SDP, RFC 8866)."""

from dataclasses import dataclass

#: Encodings that have a number of their own among the types of payload (RFC 3551, table 4), and need not be named.
STATIC = {"0": "pcmu/8000", "8": "pcma/8000"}
DIRECTIONS = ("sendonly", "recvonly", "sendrecv", "inactive")


@dataclass(frozen=True, slots=True)
class Medium:
    """One medium. `sort`: audio, video or application. `encodings`: name and clock in lower case ("pcmu/8000") by type of
    payload. `direction`: as whoever receives the description is to have it ("" where nothing is said). `control`: where it
    is asked for ("" for the address of the whole)."""

    sort: str
    encodings: dict[int, str]
    direction: str
    control: str

    def carries(self, encoding: str) -> bool:
        """Whether it has an encoding, by its name and, where one is given, its clock."""
        return any(told == encoding or told.partition("/")[0] == encoding for told in self.encodings.values())


def media_of(description: str) -> list[Medium]:
    """The media of a session's description, in order; what cannot be read is left out."""
    parts = description.replace("\r\n", "\n").split("\nm=")[1:]
    return [_medium(part.splitlines()) for part in parts if part]


def _medium(lines: list[str]) -> Medium:
    sort, _, rest = lines[0].partition(" ")
    told = [line[2:].partition(":") for line in lines if line.startswith("a=")]
    named = dict(value.split(" ", 1) for name, _, value in told if name == "rtpmap" and " " in value)
    types = [kind for kind in rest.split()[2:] if kind.isdigit()]
    encodings = {int(kind): _encoding(named.get(kind, STATIC.get(kind, ""))) for kind in types}
    direction = next((name for name, _, _ in told if name in DIRECTIONS), "")
    control = next((value.strip() for name, _, value in told if name == "control"), "")
    return Medium(sort, encodings, direction, control)


def _encoding(told: str) -> str:
    """Name and clock, without the number of channels where it is one."""
    parts = told.strip().lower().split("/")
    return "/".join(parts[:2] if parts[2:] == ["1"] else parts)
