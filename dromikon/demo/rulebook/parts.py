"""What the demo's rules are written with."""

from typing import Any

from dromikon import config


def ref(id: str, name: str) -> dict[str, str]:
    return {"id": id, "name": name}


def field(name: str, op: str, value: Any) -> dict[str, Any]:
    return {"test": "field", "field": name, "op": op, "value": value}


def every(*conditions: dict[str, Any]) -> dict[str, Any]:
    return {"test": "all", "of": list(conditions)}


def points(*named: tuple[str, str]) -> dict[str, Any]:
    return {"points": [ref(*p) for p in named]}


OPERATORS, DUTY = ref("operators", "Operators"), ref("duty", "Duty managers")
NURSERY_OPERATORS, NURSERY_DUTY = (
    ref("nursery-operators", "Nursery operators"),
    ref("nursery-duty", "Nursery duty managers"),
)
JETTY_LINE, VAULT_DOOR = ("jetty-line", "Jetty line"), ("vault-door", "Vault door")


def among(field: str, id: str, name: str, listed: bool = True) -> dict[str, Any]:
    """In a list of plates or not, one misread character being tolerated."""
    return {"test": "list", "field": field, "among": ref(id, name), "listed": listed, "how": "tolerant", "errors": 1}


def alarm(priority: str, title: str, instruction: str, **more: Any) -> dict[str, Any]:
    groups = [OPERATORS, DUTY]
    return {"do": "alarm", "priority": priority, "title": title, "instruction": instruction, "groups": groups, **more}


def bookmark(title: str, before: float, beyond: float, *tags: str) -> dict[str, Any]:
    return {"do": "bookmark", "title": title, "before": before, "beyond": beyond, "tags": list(tags)}


#: The stand-in that keeps what webhooks deliver.
SINK = f"http://127.0.0.1:{config.standins_port()}/sink"

#: What steps send to.
GROUND_STAFF, NETWORK = ref("ground-staff", "Ground staff"), ref("lodge-watch", "Network watch")
ARCHIVE, CLIPS = ref("trust-archive", "Trust archive"), ref("lodge-clips", "Clips in the lodge")


def deter(siren: str, name: str, **more: Any) -> dict[str, Any]:
    """A siren's deterring signal."""
    return {"do": "signal", "target": {"point": ref(siren, name)}, "signal": "deter", **more}


def still(kind: str, id: str, name: str) -> dict[str, Any]:
    """A point is still in a state."""
    return {"test": "state", "kind": kind, "point": ref(id, name)}


#: id, site, document.
Rule = tuple[str, str, dict[str, Any]]
