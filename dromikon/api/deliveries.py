"""API: what left, with what outcome; and what does not answer."""

from typing import Any

from django.http import Http404, HttpRequest
from ninja import Router, Schema

from dromikon.api.base import Error, Site, at_site
from dromikon.authoring.again import send_again
from dromikon.core.instants import iso
from dromikon.daybook.deliveries import SHOWN, deliveries_of, may_be_sent_again, resting_of
from dromikon.daybook.models import Step
from dromikon.daybook.receivers import SHARED

router = Router(tags=["deliveries"])


class DeliveryOut(Schema):
    """`took_ms`: from its last sending to its answer. `again`: whether it may be sent once more by hand."""

    id: str
    run: str
    action: str
    target: str
    release: bool
    status: str
    due: str
    done: str | None
    attempts: int
    took_ms: int | None
    answer: str
    again: bool


class RestingOut(Schema):
    """A target that does not answer and is left alone until one call tries it."""

    target: str
    action: str
    since: str
    tries_at: str
    failures: int
    waiting: int
    answer: str


@router.get("", response={200: list[DeliveryOut], 403: Error}, summary="What left, the newest first")
def deliveries(request: HttpRequest, site: Site = None, shown: str = "", text: str = "") -> list[dict[str, Any]]:
    found = at_site(request, site)
    return [
        {**_told(row["step"]), "took_ms": row["took"]}
        for row in deliveries_of(found.site.id, shown if shown in SHOWN else "", text)
    ]


@router.get("/resting", response={200: list[RestingOut], 403: Error}, summary="Targets that do not answer")
def resting(request: HttpRequest, site: Site = None) -> list[dict[str, Any]]:
    return [
        {
            "target": r["rest"].lane if r["rest"].lane in SHARED else r["rest"].target, "action": r["rest"].action, "since": iso(r["rest"].since),
            "tries_at": iso(r["rest"].tries_at), "failures": r["rest"].failures, "waiting": r["waiting"],
            "answer": r["answer"],
        }
        for r in resting_of(at_site(request, site).site.id)
    ]  # fmt: skip


@router.post(
    "/{delivery_id}/again",
    response={202: DeliveryOut, 403: Error, 404: Error, 422: Error},
    summary="Send one once more",
)
def again(request: HttpRequest, delivery_id: int, site: Site = None) -> Any:
    try:
        return 202, {**_told(send_again(at_site(request, site), delivery_id)), "took_ms": None}
    except Step.DoesNotExist as error:
        raise Http404("There is no such delivery here.") from error


def _told(step: Step) -> dict[str, Any]:
    return {
        "id": str(step.pk), "run": step.run, "action": step.action, "target": step.target, "release": step.release,
        "status": step.status, "due": iso(step.due), "done": iso(step.done_at) if step.done_at else None,
        "attempts": step.attempts, "answer": step.answer, "again": may_be_sent_again(step),
    }  # fmt: skip
