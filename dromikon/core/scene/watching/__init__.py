"""The kinds of detector. Register one more with one line below."""

from typing import TYPE_CHECKING, Annotated, Union

from pydantic import Field

from dromikon.core.registry import Registry
from dromikon.core.scene.watching.base import Detector, Told, Watching
from dromikon.core.scene.watching.crossing import CrossingDetector
from dromikon.core.scene.watching.crowd import CrowdDetector
from dromikon.core.scene.watching.doorway import DoorwayDetector
from dromikon.core.scene.watching.moving import RunningDetector, WrongWayDetector
from dromikon.core.scene.watching.occupied import OccupiedDetector
from dromikon.core.scene.watching.presence import (
    EnteringDetector,
    InsideDetector,
    LeavingDetector,
    LingeringDetector,
    OutsideDetector,
    StandingDetector,
)
from dromikon.core.scene.watching.things import LeftBehindDetector, TakenAwayDetector

DETECTORS: Registry[type[Detector]] = Registry("detector")
DETECTORS.add("crossing", CrossingDetector)
DETECTORS.add("inside", InsideDetector)
DETECTORS.add("outside", OutsideDetector)
DETECTORS.add("entering", EnteringDetector)
DETECTORS.add("leaving", LeavingDetector)
DETECTORS.add("doorway", DoorwayDetector)
DETECTORS.add("lingering", LingeringDetector)
DETECTORS.add("standing", StandingDetector)
DETECTORS.add("occupied", OccupiedDetector)
DETECTORS.add("left_behind", LeftBehindDetector)
DETECTORS.add("taken_away", TakenAwayDetector)
DETECTORS.add("crowd", CrowdDetector)
DETECTORS.add("wrong_way", WrongWayDetector)
DETECTORS.add("running", RunningDetector)

if TYPE_CHECKING:
    AnyDetector = Detector
else:
    AnyDetector = Annotated[Union[tuple(DETECTORS)], Field(discriminator="detects")]

__all__ = ["DETECTORS", "AnyDetector", "Detector", "Told", "Watching"]
