"""Who holds an output, a door, a camera: it is let go of only when nobody does any more."""

from collections.abc import Iterable, Iterator

from django.db.models import Exists, OuterRef, Q

from dromikon.core.rules.running import PARTS
from dromikon.daybook.models import Step
from dromikon.daybook.trial import TEST

_MAY_HAVE_COME = (Step.Status.DONE, Step.Status.UNCONFIRMED, Step.Status.SENDING, Step.Status.DUE)
#: What leaves something as it is until it is told otherwise, by the field of its order that says so.
_LEFT = Q(payload__state="on") | Q(payload__verb__in=("unlock", "block", "hold_open"))


def holders(target: str, actions: Iterable[str]) -> Iterator[Step]:
    """The steps that hold something and were not let go of, or may yet be carried out and hold it then."""
    same = Step.objects.filter(run=OuterRef("run"), step=OuterRef("step"), part=OuterRef("part"), target=target)
    found = Step.objects.filter(
        ~Exists(same.filter(release=True, status=Step.Status.DONE)),
        target=target, action__in=actions, release=False, status__in=_MAY_HAVE_COME,
    )  # fmt: skip
    return (step for step in found.order_by("id").iterator() if step.payload.get("held", True))


def left_on(target: str, action: str) -> Step | None:
    """The step that has left something on until further notice, if the last one did."""
    told = Step.objects.filter(target=target, action=action, status__in=(Step.Status.DONE, Step.Status.UNCONFIRMED))
    last = told.exclude(payload__held=True).order_by("-done_at", "-id").first()
    return last if last is not None and not last.release and told.filter(_LEFT, pk=last.pk).exists() else None


def release_is_needless(step: Step) -> str:
    """Why an output need not be released: it was never switched on, another run still holds it, or it was switched for
    good during a test. Else empty."""
    on = Step.objects.filter(run=step.run, step=step.step, part=step.part, target=step.target, release=False).first()
    if on is not None and on.status not in _MAY_HAVE_COME:
        return "It was never switched on."
    for other in holders(step.target, (step.action,)):
        own = (other.run, other.step, other.part) == (step.run, step.step, step.part)
        # What is another output has its own holders.
        if not own and other.part % PARTS == step.part % PARTS:
            return f"Run {other.run} still holds it."
    if on is not None and step.run.startswith(TEST):
        since = left_on(step.target, step.action)
        if since is not None and since.pk > on.pk:
            return f"Run {since.run} has left it on since."
    return ""
