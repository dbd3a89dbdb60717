"""Where records come from, one file each. One more is a file and a line here."""

from dromikon.records.sources.acts import Acts
from dromikon.records.sources.alarms import Alarms
from dromikon.records.sources.base import Source
from dromikon.records.sources.bookmarks import Bookmarks
from dromikon.records.sources.deliveries import Deliveries
from dromikon.records.sources.events import Events
from dromikon.records.sources.lines import Lines
from dromikon.records.sources.notes import Notes
from dromikon.records.sources.runs import Runs

SOURCES: tuple[Source, ...] = (Events(), Runs(), Alarms(), Deliveries(), Lines(), Bookmarks(), Notes(), Acts())
