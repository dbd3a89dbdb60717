"""Bringing the demo back to where it was, so that tests share one and know nothing of each other."""

from dataclasses import dataclass
from typing import Any

from tools.demo_process import Demo

SITES = ("quillmere-gardens", "quillmere-nursery")


@dataclass(frozen=True)
class Settled:
    """How the sites stood: their rules by id, and their mode."""

    rules: dict[str, dict[str, Any]]
    modes: dict[str, str]

    @classmethod
    def of(cls, demo: Demo) -> "Settled":
        rules = {f"{site} {rule['id']}": rule for site in SITES for rule in demo.get(f"/api/v1/rules?site={site}")}
        return cls(rules, {site: demo.get(f"/api/v1/situation?site={site}")["mode"] for site in SITES})

    def restore(self, demo: Demo) -> None:
        """Answer what waits, take out what was made, and bring back what was changed or deleted."""
        answer_what_waits(demo)
        now = Settled.of(demo)
        for key in now.rules.keys() - self.rules.keys():
            demo.call("DELETE", _at(key))
        for key in self.rules.keys() - now.rules.keys():
            now.rules[key] = demo.call("POST", _at(key, "/restore"))
        for key, before in self.rules.items():
            after = now.rules[key]
            if after["draft"]:
                after = demo.call("DELETE", _at(key, "/draft"))
            if after["document"] != before["document"]:
                demo.call("PUT", _at(key), {"document": before["document"], "revision": after["revision"]})
            if after["enabled"] != before["enabled"]:
                demo.call("POST", _at(key, "/enable"), {"enabled": before["enabled"]})
        for site, mode in self.modes.items():
            if mode and now.modes[site] != mode:
                demo.call("PUT", f"/api/v1/situation/mode?site={site}", {"mode": mode})


def _at(key: str, verb: str = "") -> str:
    site, rule = key.split(" ")
    return f"/api/v1/rules/{rule}{verb}?site={site}"


def answer_what_waits(demo: Demo) -> None:
    """Somebody deals with every alarm that nobody has answered."""
    for site in SITES:
        for state in ("unacknowledged", "returned"):
            for alarm in demo.get(f"/api/v1/alarms?site={site}&state={state}"):
                demo.post(f"/api/v1/alarms/{alarm['id']}/acknowledge?site={site}", {"note": "Seen to."})
