"""Tests in the outbox: sent like steps of rules, by whoever asked for it."""

from dromikon.core.instants import Instant
from dromikon.core.rules.actions.base import Delivery, Order
from dromikon.daybook.models import Step

#: How the run of a test begins, and that of what a person asked for: no rule is told of its trouble.
TEST, ASKED = "test-", "asked-"
#: A test that did not get through in this time is given up, in ms; a command is not to surprise anybody.
GIVEN_UP, NOT_LATER = 60_000, 5_000


def put_trial(
    site: str, run: str, do: str, order: Order, carried: Delivery, at: Instant, step: int = 0, within: int = GIVEN_UP
) -> None:
    """Put one order into the outbox as a test, or as asked for by a person, given up after `within` ms. Its lane stands beside those of rules, so that neither holds up the other."""
    Step.objects.create(
        run=run, site=site, step=step, part=order.part, action=do, target=order.target,
        lane=f"test {order.target} {do}"[:120], delivery=carried.value, payload=dict(order.payload),
        status=Step.Status.DUE, due=at, next_try=at, expires=at + within,
    )  # fmt: skip


def put_command(
    site: str, run: str, do: str, order: Order, lane: str, at: Instant, lasts: int | None,
    carried: Delivery = Delivery.ONCE_ONLY,
) -> None:  # fmt: skip
    """Put a command to a device into the outbox for whoever asked for it, in the lane of its other commands; with what undoes
    it, where it `lasts` so many ms. Call inside a transaction: neither is there without the other."""
    common = {
        "run": run, "site": site, "step": 0, "part": order.part, "action": do, "target": order.target, "lane": lane,
        "status": Step.Status.DUE,
    }  # fmt: skip
    Step.objects.create(
        delivery=carried.value,
        payload=dict(order.payload),
        due=at,
        next_try=at,
        expires=at + (NOT_LATER if carried is Delivery.ONCE_ONLY else GIVEN_UP),
        **common,
    )
    if lasts is not None:
        Step.objects.create(
            delivery=Delivery.RELEASE.value, payload=dict(order.let_go), due=at + lasts, next_try=at + lasts, release=True,
            **common,
        )  # fmt: skip
