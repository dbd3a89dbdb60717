"""What is measured of an installation, from its tables, its folder and the machine."""

import os
import shutil
import sqlite3
import time
from contextlib import closing
from dataclasses import dataclass, field
from pathlib import Path

from django.db.models import Count, Min

from dromikon import config, start
from dromikon.clock import now_ms
from dromikon.core.proofs import ACCEPTED, FETCHED
from dromikon.core.words import N_
from dromikon.database.waits import WAITS
from dromikon.daybook.models import ActRow, EnginePosition, Step
from dromikon.keeping.classes import CLASSES
from dromikon.keeping.models import Done
from dromikon.lists.models import WatchList
from dromikon.sources.models import Device, Intake, IntakeCount

DAY = 86_400_000
#: What queues, and what takes room, is called.
NAMES = (
    N_("messages"), N_("acts"), N_("deliveries"), N_("database"), N_("inbox"), N_("evidence"), N_("snapshots"), N_("cases"),
    N_("backups"), N_("logs"), N_("backup"), N_("forgetting"), N_("audit-trail"), N_("recordings"), N_("silences"), N_("records"),
)  # fmt: skip
#: The parts whose memory is told.
PARTS = ("web", "intake", "engine", "keeper", "scene", "standins")
#: How long sizes are remembered, in seconds.
FRESH = 60.0
#: An engine that has not said for so long that it is alive does not run, in ms.
SILENT = 5_000


@dataclass(frozen=True, slots=True)
class Queue:
    """What waits: how much, and for how long the oldest has, in ms."""

    name: str
    length: int
    age: int


@dataclass(frozen=True, slots=True)
class Failed:
    """Deliveries that did not arrive in the last day, by what they were and where they went."""

    site: str
    action: str
    target: str
    status: str
    count: int
    answer: str


@dataclass(slots=True)
class Health:
    """Everything that is measured. Times are ms, sizes bytes."""

    at: int
    engine_beat: int
    delay: int
    key_fits: bool
    queues: list[Queue] = field(default_factory=list)
    jobs: dict[str, Done] = field(default_factory=dict)
    failed: list[Failed] = field(default_factory=list)
    devices: list[Device] = field(default_factory=list)
    refused: list[IntakeCount] = field(default_factory=list)
    lists: list[WatchList] = field(default_factory=list)
    #: Intakes that fetch and do not reach whoever they fetch from.
    unreached: list[Intake] = field(default_factory=list)
    sizes: dict[str, int] = field(default_factory=dict)
    memory: dict[str, int] = field(default_factory=dict)
    memory_free: int = 0
    disk_free: int = 0
    disk_total: int = 0
    #: How long the last transactions of this process waited for the writer, in ms: median, 99th and longest.
    waits: tuple[float, float, float] = (0.0, 0.0, 0.0)

    @property
    def engine_runs(self) -> bool:
        return self.at - self.engine_beat <= SILENT


def measure() -> Health:
    """Measure now. Raises DatabaseError."""
    now, position = now_ms(), EnginePosition.objects.filter(id=1).first()
    usage = shutil.disk_usage(config.data())
    found = Health(
        at=now,
        engine_beat=position.beat if position else 0,
        delay=position.delay_ms if position else 0,
        key_fits=start.key_fits(),
        disk_free=usage.free,
        disk_total=usage.total,
        waits=WAITS.figures(),
    )
    found.queues = [_inbox(position.inbox if position else 0, now), *_tables(position.act if position else 0, now)]
    found.jobs = {done.job: done for done in Done.objects.all()}
    found.failed = _failed(now)
    found.devices = list(Device.objects.filter(retired_at=None, enabled=True).select_related("site"))
    found.refused = list(
        IntakeCount.objects.filter(intake__retired_at=None, last_at__gt=now - DAY)
        .exclude(outcome=ACCEPTED)
        .select_related("intake__site")
        .order_by("intake__name", "outcome")
    )
    away = Intake.objects.filter(retired_at=None, enabled=True, proof__in=FETCHED, state="lost")
    found.unreached = list(away.select_related("site"))
    found.lists = [w for w in WatchList.objects.exclude(source="").select_related("site") if w.trouble or w.stale(now)]
    found.sizes = _sizes()
    found.memory, found.memory_free = _memory(), _free_memory()
    return found


def _inbox(position: int, now: int) -> Queue:
    try:
        with closing(sqlite3.connect(f"file:{config.inbox_path()}?mode=ro", uri=True, timeout=2)) as inbox:
            count, oldest = inbox.execute(
                "SELECT COUNT(*), MIN(received_at) FROM message WHERE id > ?", [position]
            ).fetchone()
    except sqlite3.Error:
        return Queue("messages", 0, 0)
    return Queue("messages", count, max(0, now - oldest) if count else 0)


def _tables(acts: int, now: int) -> list[Queue]:
    waiting = ActRow.objects.filter(id__gt=acts).aggregate(n=Count("id"), oldest=Min("at"))
    due = Step.objects.filter(status__in=(Step.Status.DUE, Step.Status.SENDING), due__lte=now)
    sends = due.aggregate(n=Count("id"), oldest=Min("due"))
    return [
        Queue(name, asked["n"], max(0, now - asked["oldest"]) if asked["n"] else 0)
        for name, asked in (("acts", waiting), ("deliveries", sends))
    ]


def _failed(now: int) -> list[Failed]:
    bad = (Step.Status.FAILED, Step.Status.UNCONFIRMED, Step.Status.EXPIRED)
    steps = Step.objects.filter(status__in=bad, done_at__gt=now - DAY).order_by("-done_at")[:2_000]
    groups: dict[tuple[str, str, str, str], list[Step]] = {}
    for step in steps:
        groups.setdefault((step.site, step.action, step.target, step.status), []).append(step)
    found = [Failed(*key, len(them), them[0].answer) for key, them in groups.items()]
    return sorted(found, key=lambda f: -f.count)[:12]


def _sizes() -> dict[str, int]:
    """Sizes of what grows; a look at every file, so that an answer is remembered for a minute."""
    global _sized
    if not _sized[1] or time.monotonic() - _sized[0] > FRESH:
        _sized = time.monotonic(), _look_at_sizes()
    return dict(_sized[1])


_sized: tuple[float, dict[str, int]] = (0.0, {})


def _look_at_sizes() -> dict[str, int]:
    data = config.data()
    found = {"database": _size(data, "dromikon.sqlite3*"), "inbox": _size(data, "inbox.sqlite3*")}
    for folder in ("evidence", "snapshots", "cases", "backups", "logs"):
        found[folder] = _size(data / folder, "**/*")
    return found


def _size(folder: Path, pattern: str) -> int:
    total = 0
    for path in folder.glob(pattern):
        try:
            total += path.stat().st_size if path.is_file() else 0
        except FileNotFoundError:
            continue
    return total


def _memory() -> dict[str, int]:
    """What each part holds, by the supervisor that began this one; this part alone where there is none."""
    page, found = os.sysconf("SC_PAGE_SIZE"), {}
    for process in Path("/proc").glob("[0-9]*"):
        try:
            parent = int((process / "stat").read_text().rsplit(")", 1)[1].split()[1])
            words = (process / "cmdline").read_bytes().split(b"\0")
            resident = int((process / "statm").read_text().split()[1]) * page
        except (OSError, IndexError, ValueError):
            continue
        ours = int(process.name) == os.getpid() or (parent == os.getppid() and os.getppid() > 1)
        name = words[-2].decode("utf-8", "replace") if len(words) > 1 else ""
        if ours and name in PARTS:
            found[name] = resident
    return found


def _free_memory() -> int:
    try:
        lines = dict(line.split(":") for line in Path("/proc/meminfo").read_text().splitlines())
        return int(lines["MemAvailable"].split()[0]) * 1024
    except (OSError, KeyError, ValueError):
        return 0


def amounts() -> list[tuple[str, str, int, int | None]]:
    """Of each class that is kept: its name, its label, how many there are, and of when the oldest is."""
    return [(kept.name, kept.label, *kept.amount()) for kept in CLASSES if kept.name != "personal"]
