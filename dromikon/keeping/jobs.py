"""The keeper's jobs: each says how often it is due, and does it. Adding one is a file and a line here."""

from collections.abc import Callable
from dataclasses import dataclass

from dromikon.keeping.backups import back_up, backup_every
from dromikon.keeping.cases import cases_every, fetch_pieces
from dromikon.keeping.clips import clips_every, forget_clips
from dromikon.keeping.forgetting import forget, forget_every
from dromikon.keeping.recordings import look_at_recordings, recordings_every
from dromikon.keeping.records import follow_records, records_every
from dromikon.keeping.silences import look_for_silences, silences_every
from dromikon.keeping.trail import anchor_every, keep_anchor

Millis = int


@dataclass(frozen=True, slots=True)
class Job:
    """`every`: ms between two, asked each time; nothing while it is switched off. `do`: answers what was done, in words;
    it raises when it could not. `again`: ms until it is tried again then. `apart`: it may take minutes, and others are done
    meanwhile."""

    name: str
    every: Callable[[], Millis | None]
    do: Callable[[], str]
    again: Millis = 15 * 60_000
    apart: bool = False


JOBS: tuple[Job, ...] = (
    Job("backup", backup_every, back_up),
    Job("forgetting", forget_every, forget),
    Job("audit-trail", anchor_every, keep_anchor),
    Job("recordings", recordings_every, look_at_recordings),
    Job("records", records_every, follow_records),
    Job("cases", cases_every, fetch_pieces, apart=True),
    Job("clips", clips_every, forget_clips),
    Job("silences", silences_every, look_for_silences),
)
