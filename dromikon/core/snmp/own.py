"""Our own notifications, as DROMIKON-MIB describes them.

They stand below the enterprise number that is reserved for documentation (RFC 5612) until one is registered.
"""

ENTERPRISE = 32473
BASE = f"1.3.6.1.4.1.{ENTERPRISE}.54"
#: What is told of a run, and that a manager can be reached.
HAPPENED, TEST = f"{BASE}.0.1", f"{BASE}.0.2"
#: The objects that a notification tells, in the order of the MIB.
OBJECTS = ("site", "rule", "point", "area", "kind", "happened", "text", "severity", "run", "link")
#: Texts are at most so long, in bytes of UTF-8 (SnmpAdminString).
LONGEST = 255
SEVERITIES = ("information", "low", "medium", "high", "critical")


def object_id(name: str) -> str:
    """Where an object stands, as a scalar."""
    return f"{BASE}.1.{OBJECTS.index(name) + 1}.0"


def cut(value: str) -> str:
    """A text of at most `LONGEST` bytes, cut between characters."""
    return value.encode()[:LONGEST].decode("utf-8", "ignore")
