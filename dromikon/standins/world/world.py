"""The world as a whole: who is where, what each detector reports, which camera is cut off.

A pure function of seed, instant and the kept journal, so any past moment can be told again.
"""

import json
import random
import threading
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, timedelta
from pathlib import Path

from dromikon.standins.world.days import actors, instant, local_day
from dromikon.standins.world.plant import signals
from dromikon.standins.world.plant.signals import Provoked, Signal
from dromikon.standins.world.provocations import PROVOCATIONS, cast
from dromikon.standins.world.scenes import CAMERAS, Camera, LineDetector, StayDetector
from dromikon.standins.world.sky import light
from dromikon.standins.world.tracks import Actor

#: The day on which the yard camera was unplugged for an hour, by date ordinal modulo seven.
OUTAGE_WEEKDAY, OUTAGE_HOUR = 3, 6.2


@dataclass(frozen=True, slots=True)
class Report:
    """One thing a camera's analytics report: an ONVIF topic with its items, or the change of a property."""

    at: int
    topic: str
    source: tuple[tuple[str, str], ...]
    data: tuple[tuple[str, str], ...]
    property: bool = False


@dataclass(frozen=True, slots=True)
class Entry:
    """One line of the kept journal: a provocation, or a relay commanded."""

    number: int
    at: int
    name: str
    value: str = ""


class World:
    """Reads and appends the kept journal; all else is computed."""

    def __init__(self, seed: int = 54, journal: Path | None = None) -> None:
        self.seed = seed
        self._journal = journal
        self._lock = threading.Lock()
        self.entries: list[Entry] = []
        self._provoked: dict[str, list[Actor]] = {}
        self._told: dict[tuple[str, date], tuple[Report, ...]] = {}
        if journal and journal.exists():
            for line in journal.read_text().splitlines():
                self._take(Entry(**json.loads(line)))

    # -- the kept journal ----------------------------------------------------------------------------------------------

    def provoke(self, name: str, at: int) -> Entry:
        """Cause something at an instant. Raises KeyError for a name that does not exist."""
        PROVOCATIONS[name]
        return self._append(at, name)

    def command_relay(self, camera: str, relay: str, active: bool, at: int) -> Entry:
        return self._append(at, f"relay/{camera}/{relay}", "on" if active else "off")

    def _append(self, at: int, name: str, value: str = "") -> Entry:
        with self._lock:
            entry = Entry(len(self.entries), at, name, value)
            if self._journal:
                self._journal.parent.mkdir(parents=True, exist_ok=True)
                with self._journal.open("a") as file:
                    file.write(json.dumps({"number": entry.number, "at": at, "name": name, "value": value}) + "\n")
            self._take(entry)
            return entry

    def _take(self, entry: Entry) -> None:
        self.entries.append(entry)
        provocation = PROVOCATIONS.get(entry.name)
        if provocation:
            self._provoked.setdefault(provocation.scene, []).extend(cast(entry.name, entry.number, entry.at))

    # -- who is where --------------------------------------------------------------------------------------------------

    def present(self, scene: str, at: int) -> Iterator[Actor]:
        """Everybody in a scene at an instant."""
        day = local_day(at)
        for d in (day - timedelta(days=1), day):
            yield from (a for a in actors(self.seed, scene, d) if a.start <= at < a.end)
        yield from (a for a in self._provoked.get(scene, ()) if a.start <= at < a.end)

    def relay(self, camera: str, relay: str, at: int) -> bool:
        """Whether a relay was on at an instant."""
        name, on = f"relay/{camera}/{relay}", False
        for entry in self.entries:
            if entry.name == name and entry.at <= at:
                on = entry.value == "on"
        return on

    def outages(self, camera: str, start: int, end: int) -> list[tuple[int, int]]:
        """Stretches in which a camera was cut off."""
        found = []
        if camera == "yard":
            day = local_day(start) - timedelta(days=1)
            while instant(day, 0) < end:
                if day.toordinal() % 7 == OUTAGE_WEEKDAY:
                    found.append((instant(day, OUTAGE_HOUR), instant(day, OUTAGE_HOUR + 1)))
                day += timedelta(days=1)
        for entry in self.entries:
            provocation = PROVOCATIONS.get(entry.name)
            if provocation and provocation.cuts == camera:
                found.append((entry.at, entry.at + provocation.seconds * 1000))
        return sorted((s, e) for s, e in found if s < end and e > start)

    def cut_off(self, camera: str, at: int) -> bool:
        return bool(self.outages(camera, at, at + 1))

    # -- what detectors report -----------------------------------------------------------------------------------------

    def reports(self, camera: str, start: int, end: int) -> list[Report]:
        """Everything a camera reports in [start, end), in order."""
        place = CAMERAS[camera]
        day, found = local_day(start) - timedelta(days=1), []
        while day <= local_day(end):
            found += [r for r in self._day_reports(place, day) if start <= r.at < end]
            day += timedelta(days=1)
        for actor in self._provoked.get(place.scene, ()):
            if actor.start < end and actor.end >= start - 3_600_000:
                found += [r for r in self._reports_of(place, actor) if start <= r.at < end]
        return sorted(found, key=lambda r: r.at)

    def signals(self, start: int, end: int) -> list[Signal]:
        """Everything the garden's other systems tell in [start, end), in order."""
        provoked = tuple(Provoked(e.name, e.at) for e in self.entries if e.name in PROVOCATIONS)
        return signals(self.seed, provoked, start, end)

    def next_report(self, camera: str, after: int, horizon: int) -> int | None:
        """When the camera next reports something, within `horizon` ms."""
        found = self.reports(camera, after, after + horizon)
        return found[0].at if found else None

    def properties(self, camera: str, at: int) -> list[Report]:
        """The present state of every property, as told at a synchronization point."""
        place = CAMERAS[camera]
        state: dict[tuple[str, tuple[tuple[str, str], ...]], Report] = {}
        for report in self._resting(place, at):
            state[report.topic, report.source] = report
        for report in self.reports(camera, at - 3_600_000, at + 1):
            if report.property:
                state[report.topic, report.source] = report
        return list(state.values())

    def _day_reports(self, place: Camera, day: date) -> tuple[Report, ...]:
        key = place.id, day
        if key not in self._told:
            people = actors(self.seed, place.scene, day)
            everything = [r for actor in people for r in self._reports_of(place, actor)]
            self._told[key] = tuple(sorted(everything, key=lambda r: r.at))
        return self._told[key]

    def _reports_of(self, place: Camera, actor: Actor) -> Iterator[Report]:
        for detector in place.detectors:
            source = (
                ("VideoSourceConfigurationToken", "vsc0"),
                ("VideoAnalyticsConfigurationToken", "analytics"),
                ("Rule", detector.name),
            )
            if isinstance(detector, LineDetector):
                for at, rightwards in actor.crossings(detector.a, detector.b):
                    seen = self._seen(place, actor, at)
                    if seen is not None:
                        data = (("ObjectId", str(actor.id)), *seen, ("Direction", "Right" if rightwards else "Left"))
                        yield Report(at, "tns1:RuleEngine/LineDetector/Crossed", source, data)
            elif actor.cls == "human":
                yield from self._stays(place, detector, actor, source)
        if "gate-contact" in place.inputs and actor.cls == "vehicle":
            yield from _gate_contact(actor)

    def _stays(
        self, place: Camera, detector: StayDetector, actor: Actor, source: tuple[tuple[str, str], ...]
    ) -> Iterator[Report]:
        topic = "tns1:RuleEngine/LoiteringDetector/ObjectIsLoitering"
        for begun, left in actor.stays(detector.zone):
            told = begun + detector.threshold * 1000
            seen = self._seen(place, actor, told) if told < left else None
            if seen is not None:
                known = (("ObjectId", str(actor.id)), *seen)
                yield Report(told, topic, source, (*known, ("State", "true")), property=True)
                yield Report(left, topic, source, (*known, ("State", "false")), property=True)

    def _resting(self, place: Camera, at: int) -> Iterator[Report]:
        for detector in place.detectors:
            if isinstance(detector, StayDetector):
                source = (
                    ("VideoSourceConfigurationToken", "vsc0"),
                    ("VideoAnalyticsConfigurationToken", "analytics"),
                    ("Rule", detector.name),
                )
                yield Report(
                    at,
                    "tns1:RuleEngine/LoiteringDetector/ObjectIsLoitering",
                    source,
                    (("State", "false"),),
                    property=True,
                )
        for name in place.inputs:
            yield Report(
                at,
                "tns1:Device/Trigger/DigitalInput",
                (("InputToken", name),),
                (("LogicalState", "false"),),
                property=True,
            )

    def _seen(self, place: Camera, actor: Actor, at: int) -> tuple[tuple[str, str], ...] | None:
        """Class, likelihood and height in the picture, from where the thing really is; None outside the picture."""
        here = actor.at(at)
        foot = place.lens.project(here.x, here.y, here.z, 960, 540) if here else None
        if foot is None or not (0 <= foot[0] < 960 and 0 <= foot[1] < 600):
            return None
        tall = {"human": 1.72, "vehicle": 2.3, "animal": 0.7}.get(actor.cls, 1.0)
        height = place.lens.focal(960) * tall / foot[2] / 540
        rnd = random.Random(f"{actor.id}/{at}")
        # Small and badly lit things are less certain; a goose is now and then taken for something else.
        certain = (
            0.97
            - 0.28 * max(0.0, 0.16 - height) / 0.16
            - (0.10 if light(at, self.seed).night else 0)
            - rnd.random() * 0.16
        )
        named = {"human": "Human", "vehicle": "Vehicle", "animal": "Animal"}[actor.cls]
        if actor.cls == "animal" and rnd.random() < 0.18:
            named, certain = "Human", certain * 0.62
        return ("ClassTypes", named), ("Likelihood", f"{max(0.2, certain):.3f}"), ("Height", f"{height:.3f}")


def _gate_contact(actor: Actor) -> Iterator[Report]:
    """The yard gate's contact: on while a vehicle is within eight metres of the gate."""
    zone = ((-6.0, 17.0), (6.0, 17.0), (6.0, 34.0), (-6.0, 34.0))
    source = (("InputToken", "gate-contact"),)
    for begun, left in actor.stays(zone):
        yield Report(begun, "tns1:Device/Trigger/DigitalInput", source, (("LogicalState", "true"),), property=True)
        yield Report(left, "tns1:Device/Trigger/DigitalInput", source, (("LogicalState", "false"),), property=True)
