"""Effect: a row for the alarm, and the stills that will be its evidence."""

from typing import cast

from dromikon.core.rules.actions.alarm import AlarmOrder
from dromikon.core.rules.actions.base import Delivery
from dromikon.core.rules.outcome import StepOrder
from dromikon.daybook.models import Step
from dromikon.desk.models import PRIORITY_ORDER, Alarm, Evidence
from dromikon.engine.book import Book
from dromikon.engine.effects.base import InsideEffect
from dromikon.engine.effects.evidence import evidence_lane

#: Moments of the evidence strip around zero, in ms.
EVIDENCE_AT = (-10_000, -6_000, -3_000, 0, 3_000, 6_000)
#: A still is due this long after its moment, so that the recorder has it.
RECORDED_AFTER = 700
#: Stills are worth fetching for as long as recordings are kept.
EVIDENCE_EXPIRY = 8 * 86_400_000
CAMERAS = 3


class AlarmEffect(InsideEffect):
    def apply(self, site: str, order: StepOrder, book: Book, at: int) -> None:
        run, payload = book.run(order.run), cast(AlarmOrder, order.payload)
        subject = payload.get("subject")
        alarm = Alarm(
            site_id=site,
            run=order.run,
            step=order.step,
            rule=order.rule,
            point=order.target,
            cameras=payload["cameras"],
            priority=payload["priority"],
            rank=PRIORITY_ORDER[payload["priority"]],
            title=payload["title"],
            instruction=payload["instruction"],
            groups=payload["groups"],
            note_required=payload["note_required"],
            outcome_required=payload.get("outcome_required", False),
            tags_required=payload.get("tags_required", False),
            alone=payload.get("alone", False),
            sound=payload["sound"],
            own_sound=payload.get("own_sound", ""),
            quiet_in=payload.get("quiet_in", []),
            suppressed=payload.get("suppressed", False),
            box=subject["box"] if subject else "",
            box_camera=subject["camera"] if subject else "",
            lasting=payload.get("lasting", False) and run.ended_at is None,
            late=run.late,
            zero=run.zero,
            raised_at=at,
        )
        alarm.state = alarm.standing.state(at).value
        stills = [
            Evidence(alarm=alarm, camera=camera, at=run.zero + offset, offset=offset)
            for camera in payload["cameras"][:CAMERAS]
            for offset in EVIDENCE_AT
        ]
        book.alarms.append((alarm, stills))
        book.note_step(site, order, Step.Status.DONE, done_at=at)
        for i, still in enumerate(stills):
            due = still.at + RECORDED_AFTER
            fetch = StepOrder(
                order.run, order.rule, order.step, "evidence", Delivery.REPEATABLE, still.camera,
                {"at": still.at, "offset": still.offset}, due,
            )  # fmt: skip
            book.note_step(
                site,
                fetch,
                Step.Status.DUE,
                lane=evidence_lane(still.camera, due, book.now),
                part=i + 1,
                expires=due + EVIDENCE_EXPIRY,
            )
