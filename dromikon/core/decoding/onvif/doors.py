"""Doors (Profile C: tns1:Door) and access control (Profiles A, C and D: tns1:AccessControl). An access point belongs to a
door; which one, the device's list of them says."""

from collections.abc import Callable

from dromikon.core.decoding import Decoded
from dromikon.core.decoding.onvif.topics import Items, topic
from dromikon.core.events import Phase, Scalar
from dromikon.core.words import t

#: Tokens of access points have this before them.
ACCESS = "access/"


def _door(source: Items) -> str:
    return f"door/{source['DoorToken']}"


def _told(source: Items, data: Items, words: dict[str, tuple[str, Phase]]) -> Decoded:
    """What the word of a state stands for. Raises KeyError, ValueError for a word that the standard does not have."""
    word = data["State"].strip()
    if word not in words:
        raise ValueError(t("State is {value}, which the standard does not have", value=repr(word)))
    kind, phase = words[word]
    return Decoded(kind, _door(source), phase)


@topic("tns1:Door/State/DoorPhysicalState", "door.open")
def physical_state(source: Items, data: Items) -> Decoded:
    ends = ("door.open", Phase.END)
    return _told(source, data, {"Open": ("door.open", Phase.BEGIN), "Closed": ends, "Unknown": ends, "Fault": ends})


@topic("tns1:Door/State/LockPhysicalState", "door.locked")
def lock_state(source: Items, data: Items) -> Decoded:
    ends = ("door.locked", Phase.END)
    return _told(
        source, data, {"Locked": ("door.locked", Phase.BEGIN), "Unlocked": ends, "Unknown": ends, "Fault": ends}
    )


@topic("tns1:Door/State/DoorAlarm", "door.forced", "door.held_open")
def door_alarm(source: Items, data: Items) -> Decoded:
    words = {
        "DoorForcedOpen": ("door.forced", Phase.PULSE),
        "DoorOpenTooLong": ("door.held_open", Phase.BEGIN),
        "Normal": ("door.held_open", Phase.END),
    }
    return _told(source, data, words)


@topic("tns1:Door/State/DoorTamper", "door.tampered")
def door_tamper(source: Items, data: Items) -> Decoded:
    ends = ("door.tampered", Phase.END)
    words = {"TamperDetected": ("door.tampered", Phase.BEGIN), "NotInTamper": ends, "Unknown": ends}
    return _told(source, data, words)


def _access(kind: str) -> Callable[[Items, Items], Decoded]:
    def decode(source: Items, data: Items) -> Decoded:
        token = f"{ACCESS}{source['AccessPointToken']}"
        return Decoded(kind, token, Phase.PULSE, _credential(data))

    return decode


def _credential(data: Items) -> dict[str, Scalar]:
    """Card and person where they are told, and why somebody was turned away."""
    names = {"card": ("Card", "CredentialToken"), "person": ("CredentialHolderName",), "reason": ("Reason",)}
    found: dict[str, Scalar] = {}
    for field, items in names.items():
        value = next((data[item] for item in items if data.get(item)), None)
        if value is not None:
            found[field] = value
    return found


for path in ("AccessGranted/Anonymous", "AccessGranted/Credential"):
    topic(f"tns1:AccessControl/{path}", "access.granted")(_access("access.granted"))
for path in ("Denied/Anonymous", "Denied/Credential", "Denied/CredentialNotFound", "Denied/CredentialNotFound/Card"):
    topic(f"tns1:AccessControl/{path}", "access.denied")(_access("access.denied"))
topic("tns1:AccessControl/Duress", "access.duress")(_access("access.duress"))
