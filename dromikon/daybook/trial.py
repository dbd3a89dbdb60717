"""Tests in the outbox: sent like steps of rules, by whoever asked for it."""

from dromikon.core.instants import Instant
from dromikon.core.rules.actions.base import Delivery, Order
from dromikon.daybook.models import Step

#: How the run of a test begins.
TEST = "test-"
#: A test that did not get through in this time is given up, in ms.
GIVEN_UP = 60_000


def put_trial(site: str, run: str, do: str, order: Order, carried: Delivery, at: Instant, step: int = 0) -> None:
    """Put one order into the outbox as a test. Its lane stands beside those of rules, so that neither holds up the other."""
    Step.objects.create(
        run=run, site=site, step=step, part=order.part, action=do, target=order.target,
        lane=f"test {order.target} {do}"[:120], delivery=carried.value, payload=dict(order.payload),
        status=Step.Status.DUE, due=at, next_try=at, expires=at + GIVEN_UP,
    )  # fmt: skip
