"""The stand-in door station: a camera beside a bell, whose calls are a topic of its own."""

from dromikon.standins.onvif.camera import StandInCamera
from dromikon.standins.onvif.topics import Topic
from dromikon.standins.world.calls import CALL, call_reports, resting
from dromikon.standins.world.reports import Report
from dromikon.standins.world.world import LATELY

#: Which camera is part of the station at which point.
STATIONS = {"bell": "wicket"}


class StandInStation(StandInCamera):
    """One door station."""

    def topics(self) -> list[Topic]:
        called = Topic(CALL, True, (("Station", "tt:ReferenceToken"),), (("State", "xs:string"),))
        return [*super().topics(), called]

    def reports(self, start: int, end: int) -> list[Report]:
        told = [*super().reports(start, end), *self._calls(start, end)]
        return sorted(told, key=lambda r: r.at)

    def properties(self, at: int) -> list[Report]:
        point = STATIONS[self.place.id]
        return [*super().properties(at), resting(point, self._calls(at - LATELY, at + 1), at)]

    def _calls(self, start: int, end: int) -> list[Report]:
        return call_reports(self.world.signals(start, end), STATIONS[self.place.id])
