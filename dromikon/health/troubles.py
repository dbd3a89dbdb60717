"""What is wrong with an installation, in words, with what to do: one function a trouble."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from itertools import groupby

from dromikon.core.devices.standing import CLOCK_WRONG
from dromikon.core.facts import Facts
from dromikon.core.instants import to_datetime
from dromikon.core.proofs import OUTCOMES
from dromikon.core.words import t
from dromikon.daybook.models import Resting
from dromikon.daybook.receivers import at_the_other_end, receiver
from dromikon.facts import names_of
from dromikon.health.measures import Health
from dromikon.installation.settings import setting
from dromikon.keeping.backups import BackupPlan
from dromikon.keeping.policy import Keeping
from dromikon.sites.models import Site
from dromikon.sources.models import Device

MINUTE, GIGABYTE = 60_000, 1_000_000_000
#: Ages beyond which what waits is a trouble, in ms.
PATIENCE = {"messages": 10_000, "acts": 10_000, "deliveries": 5 * MINUTE}
#: A transaction that waited longer for the writer is told of, in ms.
WAITED = 2_000


@dataclass(frozen=True, slots=True)
class Trouble:
    """What is wrong, and what to do. `bad`: it is now; otherwise it will be, or may be. `place`: the page on which it is
    done, as a view with what its address needs."""

    what: str
    do: str
    bad: bool = True
    place: tuple[str, ...] = ()


Finder = Callable[[Health], Iterator[Trouble]]


def troubles_of(health: Health) -> list[Trouble]:
    """Everything that is wrong, the worst first."""
    found = [trouble for find in FINDERS for trouble in find(health)]
    return sorted(found, key=lambda trouble: not trouble.bad)


def _engine(health: Health) -> Iterator[Trouble]:
    if not health.engine_runs:
        yield Trouble(
            t("The engine does not run: nothing is decided or sent."), t("Look into logs/engine.log; start it again.")
        )
    if not health.key_fits:
        yield Trouble(
            t("The key file is another one than this data was sealed with."),
            t("Put the right key file back: no device, recorder or webhook can be spoken to without it."),
        )


def _queues(health: Health) -> Iterator[Trouble]:
    for queue in health.queues:
        if queue.age > PATIENCE[queue.name]:
            words = t(
                "{n} {what} wait, the oldest for {s} s.",
                n=str(queue.length),
                what=t(queue.name),
                s=f"{queue.age // 1000}",
            )
            yield Trouble(words, t("More comes than is worked off, or the other side does not answer: see Deliveries."))


def _disk(health: Health) -> Iterator[Trouble]:
    wanted = setting(Keeping).room * GIGABYTE
    if health.disk_free < wanted:
        free = f"{health.disk_free / GIGABYTE:.1f}"
        yield Trouble(
            t("The disk has {free} GB left, less than is to be left free.", free=free),
            t("Make room, or keep less: the oldest pictures, readings and events go before their time until then."),
        )


def _backups(health: Health) -> Iterator[Trouble]:
    plan, done = setting(BackupPlan), health.jobs.get("backup")
    if not plan.on:
        yield Trouble(
            t("No backups are made."),
            t("Switch them on under Backups, or make them by other means."),
            bad=False,
            place=("installation.sort", "backups"),
        )
    elif done is not None and not done.well:
        yield Trouble(
            t("The last backup did not work: {why}", why=done.said), t("Mend that; it is tried again by itself.")
        )
    elif done is not None and done.good_at and health.at - done.good_at > 2 * plan.every_hours * 60 * MINUTE:
        yield Trouble(t("The last good backup is too old."), t("See whether the keeper runs."))


def _jobs(health: Health) -> Iterator[Trouble]:
    for name in ("forgetting", "audit-trail", "recordings", "silences"):
        done = health.jobs.get(name)
        if done is not None and not done.well:
            yield Trouble(f"{t(name)}: {done.said}", t("See logs/keeper.log; it is tried again by itself."))


def _devices(health: Health) -> Iterator[Trouble]:
    for device in health.devices:
        where = {"device": device.name, "site": device.site.name}
        if device.state == Device.State.LOST:
            yield Trouble(
                t("{device} ({site}) is lost: {why}", **where, why=device.message or device.reason),
                t("Its page says what to do; its session is tried again by itself."),
                place=("sources.device", device.site_id, device.id),
            )
        elif abs(device.clock_offset_ms) > CLOCK_WRONG:
            s = f"{device.clock_offset_ms / 1000:.0f}"
            yield Trouble(
                t("The clock of {device} ({site}) is off by {s} s.", **where, s=s),
                t("Set it, by NTP best."),
                bad=False,
                place=("sources.device", device.site_id, device.id),
            )


def _intakes(health: Health) -> Iterator[Trouble]:
    for name, of in groupby(
        health.refused, key=lambda c: (c.intake_id, c.intake.name, c.intake.site.name, c.intake.site_id)
    ):
        intake, called, site, site_id = name
        why = ", ".join(f"{c.count} × {t(OUTCOMES.get(c.outcome, c.outcome))}" for c in of)
        yield Trouble(
            t("{intake} ({site}) refused messages: {why}.", intake=called, site=site, why=why),
            t("Its page says how it is sent to; give the sender the secret, or find out who tries."),
            bad=False,
            place=("sources.intake", site_id, intake),
        )


def _unreached(health: Health) -> Iterator[Trouble]:
    for intake in health.unreached:
        yield Trouble(
            t(
                "{intake} ({site}) does not reach what it fetches from: {why}",
                intake=intake.name,
                site=intake.site.name,
                why=intake.state_message,
            ),
            t("See whether it runs, and its address; it is tried again by itself."),
            place=("sources.intake", intake.site_id, intake.id),
        )


def _lists(health: Health) -> Iterator[Trouble]:
    for known in health.lists:
        why = known.trouble or t("nothing good came for long")
        yield Trouble(
            t("The list {list} ({site}) is not kept current: {why}", list=known.name, site=known.site.name, why=why),
            t("See its source under Lists."),
            bad=False,
            place=("lists.list", known.site_id, known.id),
        )


def _names(sites: Iterable[str]) -> dict[str, Facts]:
    """What each of some sites calls its people and things."""
    wanted = set(sites)
    known = {site.id: names_of(site) for site in Site.objects.filter(id__in=wanted)}
    return {id: known.get(id) or Facts(site=id, name="") for id in wanted}


def _failed(health: Health) -> Iterator[Trouble]:
    names = _names(failed.site for failed in health.failed)
    for failed in health.failed:
        words = t(
            "{n} × {action} to {target} did not arrive in the last day: {why}",
            n=str(failed.count), action=failed.action,
            target=receiver(failed.target, names[failed.site]) if failed.target else "—", why=failed.answer or failed.status,
        )  # fmt: skip
        yield Trouble(words, t("See Deliveries."), bad=False)


def _writer(health: Health) -> Iterator[Trouble]:
    longest = health.waits[2]
    if longest > WAITED:
        yield Trouble(
            t("A page waited {s} s for the database's writer.", s=f"{longest / 1000:.1f}"),
            t("The disk may be too slow for what is written."),
            bad=False,
        )


def _resting(health: Health) -> Iterator[Trouble]:
    """Targets that do not answer, by the name they are sent to under."""
    resting = list(Resting.objects.order_by("since")[:20])
    names = _names(rest.site for rest in resting)
    for rest in resting:
        words = t(
            "{target} does not answer since {time} UTC: {why}",
            target=at_the_other_end(rest.lane, rest.target, names[rest.site]), time=f"{to_datetime(rest.since):%H:%M}", why=rest.answer,
        )  # fmt: skip
        yield Trouble(words, t("It is tried again by itself; Deliveries shows what waits."))


FINDERS: tuple[Finder, ...] = (
    _engine,
    _queues,
    _disk,
    _backups,
    _jobs,
    _devices,
    _writer,
    _intakes,
    _unreached,
    _lists,
    _failed,
    _resting,
)
