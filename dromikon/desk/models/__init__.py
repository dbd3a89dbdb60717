"""What stands on desks and displays."""

from dromikon.desk.models.alarms import PRIORITY_ORDER, Alarm, AlarmAct, Evidence
from dromikon.desk.models.calls import Call
from dromikon.desk.models.shift import Handover, ShiftNote
from dromikon.desk.models.showing import Arrangement, Display, Notice, OwnDesk, Showing, Sound

__all__ = [
    "PRIORITY_ORDER", "Alarm", "AlarmAct", "Arrangement", "Call", "Display", "Evidence", "Handover", "Notice", "OwnDesk", "ShiftNote", "Showing",
    "Sound",
]  # fmt: skip
