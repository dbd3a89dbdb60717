"""Pictures of one camera as they come, gathered to what is kept: all in which something is, and of the others as many as tell
that nothing was."""

from dromikon.core.scene.chunks import chunk_of
from dromikon.core.scene.sight import Sight

#: After something was seen, empty pictures are kept for so long, in ms; then one each so often.
AFTER, QUIET = 3_000, 20_000
#: What was gathered is given back so often, in ms, so that what was just seen can be looked through, too.
SOON = 10_000


class Gathering:
    """Takes pictures in order; gives them back in parts, each of one minute."""

    def __init__(self) -> None:
        self._minute: list[Sight] = []
        self._full_at = self._kept_at = 0

    def take(self, sight: Sight) -> list[Sight]:
        """What was gathered before, once that is long enough ago or this picture belongs to another minute; else nothing."""
        over: list[Sight] = []
        if self._minute and (_other_minute(sight, self._minute[0]) or sight.at - self._minute[0].at >= SOON):
            over, self._minute = self._minute, []
        if len(sight):
            self._full_at = sight.at
        if sight.at - self._full_at <= AFTER or sight.at - self._kept_at >= QUIET:
            self._minute.append(sight)
            self._kept_at = sight.at
        return over

    def rest(self) -> list[Sight]:
        """What is not given back yet."""
        over, self._minute = self._minute, []
        return over


def _other_minute(one: Sight, other: Sight) -> bool:
    return chunk_of(one.at) != chunk_of(other.at)
