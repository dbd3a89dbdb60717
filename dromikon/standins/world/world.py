"""The world as a whole: who is where, what each detector reports, which camera is cut off.

A pure function of seed, instant and the kept journal, so any past moment can be told again.
"""

import json
import threading
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from datetime import date, timedelta
from itertools import pairwise
from pathlib import Path

from dromikon.standins.world.access import PHYSICAL, UNLOCKED, Command, door_reports
from dromikon.standins.world.calendar import instant, local_day
from dromikon.standins.world.callers import callers
from dromikon.standins.world.days import actors, numbered
from dromikon.standins.world.detectors import Detector, Region, read, written
from dromikon.standins.world.heat import Measuring, read_measuring
from dromikon.standins.world.instruments import told
from dromikon.standins.world.plant import signals
from dromikon.standins.world.plant.signals import Provoked, Signal
from dromikon.standins.world.provocations import PROVOCATIONS, cast
from dromikon.standins.world.reports import Items, Report
from dromikon.standins.world.scenes import CAMERAS, SCENES, Camera
from dromikon.standins.world.sky import DARK, ELECTRIC, Light, light, under_glass
from dromikon.standins.world.tracks import Actor
from dromikon.standins.world.watching import reports_of, resting

#: The day on which the yard camera was unplugged for an hour, by date ordinal modulo seven.
OUTAGE_WEEKDAY, OUTAGE_HOUR = 3, 6.2
END_OF_TIME = 1 << 60
#: A door that has said nothing for so long is shut.
LATELY = 3_600_000


@dataclass(frozen=True, slots=True)
class Entry:
    """One line of the kept journal: a provocation, a relay commanded, or a detector set."""

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
        self._told: dict[tuple[str, date, int], tuple[Report, ...]] = {}
        self._callers: dict[tuple[str, date, int], tuple[Actor, ...]] = {}
        self._lates: dict[tuple[int, int], list[Signal]] = {}
        #: How each camera's detectors were set, since when.
        self._set: dict[str, list[tuple[int, tuple[Detector, ...]]]] = {
            c.id: [(0, c.detectors)] for c in CAMERAS.values()
        }
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

    def detectors(self, camera: str, at: int) -> tuple[Detector, ...]:
        """A camera's detectors as they were set at an instant."""
        return [detectors for since, detectors in self._set[camera] if since <= at][-1]

    def set_detector(self, camera: str, detector: Detector, at: int) -> Entry:
        """Set a detector, new or known by its name."""
        return self._append(at, f"detector/{camera}/{detector.name}", written(detector))

    def delete_detector(self, camera: str, name: str, at: int) -> Entry:
        return self._append(at, f"detector/{camera}/{name}")

    def command_door(self, door: str, verb: str, at: int) -> Entry:
        return self._append(at, f"door/{door}", verb)

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
        if entry.name.startswith("detector/"):
            _, camera, name = entry.name.split("/", 2)
            known = {d.name: d for d in self._set[camera][-1][1] if d.name != name or entry.value}
            if entry.value:
                known[name] = read(entry.value)
            self._set[camera].append((entry.at, tuple(known.values())))

    # -- who is where --------------------------------------------------------------------------------------------------

    def present(self, scene: str, at: int) -> Iterator[Actor]:
        """Everybody in a scene at an instant."""
        day = local_day(at)
        for d in (day - timedelta(days=1), day):
            yield from (a for a in self.everybody(scene, d) if a.start <= at < a.end)
        yield from (a for a in self._provoked.get(scene, ()) if a.start <= at < a.end)

    def everybody(self, scene: str, day: date) -> Iterator[Actor]:
        """Who comes to a scene on a day by themselves, in two rows, each in order of time."""
        yield from actors(self.seed, scene, day)
        yield from self._called(scene, day)

    def _called(self, scene: str, day: date) -> tuple[Actor, ...]:
        """Whoever the garden's other systems tell of on a day."""
        key = scene, day, len(self.entries)
        if key not in self._callers:
            if len(self._callers) > 64:
                self._callers.clear()
            told = self.signals(instant(day, 0), instant(day + timedelta(days=1), 0))
            self._callers[key] = numbered(callers(scene, told), scene, day)
        return self._callers[key]

    def preset(self, camera: str, at: int) -> str:
        """The token of the preset that a movable camera stands at; it begins at its first."""
        token = CAMERAS[camera].presets[0].token
        for entry in self.entries:
            if entry.name == f"preset/{camera}" and entry.at <= at:
                token = entry.value
        return token

    def view(self, camera: str, at: int) -> str:
        """Which view a camera has at an instant."""
        return f"{camera}-{self.preset(camera, at)}" if CAMERAS[camera].presets else camera

    def goto_preset(self, camera: str, token: str, at: int) -> Entry:
        return self._append(at, f"preset/{camera}", token)

    def lights(self, scene: str, at: int) -> tuple[Light, ...]:
        """The lights that a scene may be in at an instant."""
        if SCENES[scene].roof == "room":
            return DARK, ELECTRIC
        return (self.light(scene, at),)

    def light(self, scene: str, at: int) -> Light:
        """The light of a scene: outside, under glass, or in a room, which is lit while somebody is in it."""
        roof = SCENES[scene].roof
        if roof == "manned" or (roof == "room" and any(self.present(scene, at))):
            return ELECTRIC
        if roof == "room":
            return DARK
        outside = light(at, self.seed)
        return under_glass(outside) if roof == "glass" else outside

    def input_on(self, point: str, at: int) -> bool:
        """Whether an input that the gateway tells of is on."""
        told = [s for s in self._lately(at) if s.point == point and s.kind == "input.active"]
        return bool(told) and told[-1].phase == "begin"

    def measured(self, point: str, at: int) -> float | None:
        """What an instrument told last, within the hour."""
        told = [s.fields["value"] for s in self._lately(at) if s.point == point and s.phase == "reading"]
        return float(told[-1]) if told and isinstance(told[-1], (int, float)) else None

    def _lately(self, at: int) -> list[Signal]:
        """What the garden's other systems told in the hour up to a second; asked for each picture."""
        key = at // 1000, len(self.entries)
        if key not in self._lates:
            if len(self._lates) > 16:
                self._lates.clear()
            self._lates[key] = self.signals(at // 1000 * 1000 - LATELY, at // 1000 * 1000 + 1)
        return self._lates[key]

    def door_open(self, door: str, at: int) -> bool:
        """Whether a door of the controller stands open."""
        told = [r for r in self.door_reports(at - LATELY, at + 1) if r.topic == PHYSICAL and r.source[0][1] == door]
        return bool(told) and told[-1].data[0][1] == "Open"

    def relay(self, camera: str, relay: str, at: int) -> bool:
        """Whether a relay was on at an instant."""
        ends = dict(CAMERAS[camera].ends).get(relay)
        name, on = f"relay/{camera}/{relay}", False
        for entry in self.entries:
            if entry.name == name and entry.at <= at:
                on = entry.value == "on" and (ends is None or at < entry.at + ends * 1000)
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
                found += [r for r in self._reports_of(place, [actor]) if start <= r.at < end]
        regions = [d for d in self.detectors(camera, end) if isinstance(d, Region)]
        if regions:
            found += told(regions, [self._as_read(camera, s) for s in self.signals(start, end)])
        return sorted(found, key=lambda r: r.at)

    def _as_read(self, camera: str, signal: Signal) -> Signal:
        """A temperature as the camera makes it of what comes from there."""
        if signal.kind != "scene.temperature" or not CAMERAS[camera].thermal:
            return signal
        value = self.measuring(camera, signal.at).reads(float(signal.fields["value"] or 0))
        return replace(signal, fields={**signal.fields, "value": round(value, 1)})

    def measuring(self, camera: str, at: int) -> Measuring:
        """How a thermal camera measured and showed heat at an instant."""
        told = [e.value for e in self.entries if e.name == f"thermal/{camera}" and e.at <= at]
        return read_measuring(told[-1]) if told else Measuring()

    def set_measuring(self, camera: str, measuring: Measuring, at: int) -> Entry:
        return self._append(at, f"thermal/{camera}", measuring.written())

    def signals(self, start: int, end: int) -> list[Signal]:
        """Everything the garden's other systems tell in [start, end), in order."""
        provoked = tuple(Provoked(e.name, e.at) for e in self.entries if e.name in PROVOCATIONS)
        return signals(self.seed, provoked, start, end)

    def door_reports(self, start: int, end: int) -> list[Report]:
        """What the door controller tells in [start, end), in order."""
        commands = [
            Command(e.at, e.name.removeprefix("door/"), e.value) for e in self.entries if e.name.startswith("door/")
        ]
        # Somebody who was let in shortly before is still locked out after.
        return door_reports(self.signals(start - UNLOCKED, end), commands, start, end)

    def next_report(self, camera: str, after: int, horizon: int) -> int | None:
        """When the camera next reports something, within `horizon` ms."""
        found = self.reports(camera, after, after + horizon)
        return found[0].at if found else None

    def properties(self, camera: str, at: int) -> list[Report]:
        """The present state of every property, as told at a synchronization point."""
        place = CAMERAS[camera]
        state: dict[tuple[str, Items], Report] = {}
        for report in resting(place, self.detectors(camera, at), at):
            state[report.topic, report.source] = report
        for report in self.reports(camera, at - 3_600_000, at + 1):
            if report.property:
                state[report.topic, report.source] = report
        return list(state.values())

    def _day_reports(self, place: Camera, day: date) -> tuple[Report, ...]:
        key = place.id, day, len(self._set[place.id])
        if key not in self._told:
            found = self._reports_of(place, actors(self.seed, place.scene, day))
            self._told[key] = tuple(sorted(found, key=lambda r: r.at))
        return self._told[key]

    def _reports_of(self, place: Camera, people: Iterable[Actor]) -> list[Report]:
        """What people set off, each moment with the detectors as they were set then."""
        settings, known = self._set[place.id], list(people)
        found: list[Report] = []
        for (since, detectors), (until, _) in pairwise([*settings, (END_OF_TIME, ())]):
            for actor in known:
                if actor.start < until and actor.end >= since:
                    found += [r for r in reports_of(place, detectors, actor, self.seed) if since <= r.at < until]
        return found
