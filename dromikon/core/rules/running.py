"""Runs with steps still to come: one time axis of anchors, offsets, holds and stops.

A run is a row: its event, the state whose end it waits for, the steps pending, and the outputs held.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, cast

from dromikon.core.events import Event
from dromikon.core.facts import Facts
from dromikon.core.instants import Instant
from dromikon.core.rules.actions import Delivery, Firing, Order
from dromikon.core.rules.compile import CompiledRule
from dromikon.core.rules.condition import Seen
from dromikon.core.rules.outcome import Dropped, Outcome, StepOrder, Unreached
from dromikon.core.rules.rows import Going, HeldOutput, Pending
from dromikon.core.rules.state import State
from dromikon.core.stored import event_from_json, event_to_json

#: How long a run waits for an acknowledgement before it is forgotten.
ACKNOWLEDGE_WINDOW = 7 * 86_400_000
#: The place of a pending stop among pending steps.
STOP = -1
#: Parts of a step for each of its repeats.
PARTS = 16
ENDED, ANSWERED, UNANSWERED = "the state had ended", "somebody had answered", "nobody had answered"
OVER = "the state was over already"
UNFULFILLED = "what it asks for was not so"
LATE, CHANGED, AGAIN = "learned too late to be sent", "the rule was changed or switched off", "the cause came again"


@dataclass
class Runs:
    """The runs of all rules. `facts` are those of now; steps speak of them."""

    state: State
    facts: Facts
    #: Told before a step asks: the run's event, and the moment that conditions are asked for.
    look: Callable[[Event, Instant], None]
    #: False in a rehearsal: rows are kept where decisions depend on them, but nothing is ordered.
    orders: bool = True

    def needs_row(self, rule: CompiledRule) -> bool:
        """Whether what becomes of a run can matter to later decisions, so that a rehearsal must follow it too."""
        return self.orders or rule.document.again in ("extend", "ignore") or any(rule.steps)

    def begin(self, rule: CompiledRule, ref: str, event: Event, listed: str, at: Instant, outcome: Outcome) -> None:
        """A run has begun: give out what is due at once, and keep the rest."""
        document = rule.document
        state = f"{event.kind}@{event.point}" if document.cause.ends else None
        row: Going = {"event": event_to_json(event), "state": state, "pending": [], "held": [], "listed": listed}
        self._schedule(rule, row, "start", at)
        if state is None:
            self._schedule(rule, row, "end", at)
        elif not event.test:
            waiting = (self.state.get(rule.id, f"ends|{state}") or {"runs": []})["runs"]
            self.state.put(rule.id, f"ends|{state}", {"runs": [*waiting, ref]})
        stops = document.stop is not None and document.stop.on_acknowledged
        if stops or any(step.anchor == "acknowledged" for step in document.response):
            row["forget"] = at + ACKNOWLEDGE_WINDOW
        if document.again != "new" and not event.test:
            known = (self.state.get(rule.id, f"again|{event.point}") or {"runs": []})["runs"]
            self.state.put(rule.id, f"again|{event.point}", {"runs": [*known, ref]})
        self._go_on(rule, ref, row, at, outcome)

    def meets(self, rule: CompiledRule, point: str) -> list[str]:
        """The runs that a repeat of the cause at a point meets: those with steps pending or outputs held, the oldest
        first. One that only waits for an answer, or for none, is not met."""
        known = self.state.get(rule.id, f"again|{point}")
        return [ref for ref in known["runs"] if self._goes_on(rule, ref)] if known else []

    def _goes_on(self, rule: CompiledRule, ref: str) -> bool:
        row = self._going(rule.id, ref)
        return row is not None and (bool(row["held"]) or any(p["anchor"] != "unanswered" for p in row["pending"]))

    def extend(self, rule: CompiledRule, ref: str, at: Instant, outcome: Outcome) -> None:
        """Hold what is held for its whole time again, from now."""
        row = self._going(rule.id, ref)
        if row is None:
            return
        held = []
        for one in row["held"]:
            hold = rule.document.response[one["step"]].hold
            timed = one["until"] is not None and isinstance(hold, float | int)
            held.append(_until(one, at + round(float(hold) * 1000)) if timed and hold is not None else one)
        self._keep(rule, ref, {**row, "held": held})

    def abandon(self, rule: str, ref: str, at: Instant, why: str, outcome: Outcome) -> None:
        """Release what a run holds, drop what is pending, and forget it."""
        row = self._going(rule, ref)
        if row is None:
            return
        self.state.drop(rule, f"run|{ref}")
        self._met_no_more(rule, ref, row)
        for held in row["held"]:
            self._release(rule, ref, held, at, outcome)
        outcome.dropped += [_dropped(ref, p, why) for p in row["pending"] if p["step"] != STOP]

    def ended(self, rule: CompiledRule, state: str, at: Instant, outcome: Outcome) -> None:
        """The state of a point has ended: runs that it began get their end."""
        waiting = self.state.drop(rule.id, f"ends|{state}")
        for ref in waiting["runs"] if waiting else ():
            self.over(rule, ref, at, outcome)

    def over(self, rule: CompiledRule, ref: str, at: Instant, outcome: Outcome) -> None:
        """What a run lasts with is over."""
        row = self._going(rule.id, ref)
        if row is None:
            return
        outcome.ended.append(ref)
        over = [_until(h, at) if h["until"] is None else h for h in row["held"]]
        row = {**row, "state": None, "held": over}
        if rule.document.stop is not None and rule.document.stop.on_end:
            row = self._stop(ref, row, at, ENDED, outcome)
        self._schedule(rule, row, "end", at)
        self._go_on(rule, ref, row, at, outcome)

    def answered(self, rule: CompiledRule, ref: str, at: Instant, outcome: Outcome) -> None:
        """Somebody has acknowledged the run's alarm."""
        row = self._going(rule.id, ref)
        if row is None or row.get("answered"):
            return
        pending = [p for p in row["pending"] if p["anchor"] != "unanswered"]
        row = {**row, "pending": pending, "forget": None, "answered": True}
        if rule.document.stop is not None and rule.document.stop.on_acknowledged:
            row = self._stop(ref, row, at, ANSWERED, outcome)
        self._schedule(rule, row, "acknowledged", at)
        self._go_on(rule, ref, row, at, outcome)

    def due(self, rule: CompiledRule, ref: str, at: Instant, outcome: Outcome) -> None:
        """The moment of something pending or held has come."""
        row = self._going(rule.id, ref)
        if row is not None:
            self._go_on(rule, ref, row, at, outcome)

    def lasts(self, rule: str, ref: str) -> bool:
        """Whether a run began with a state whose end is still to come."""
        row = self._going(rule, ref)
        return row is not None and row["state"] is not None

    def _going(self, rule: str, ref: str) -> Going | None:
        return cast(Going | None, self.state.get(rule, f"run|{ref}"))

    # -- one row -----------------------------------------------------------------------------------------------------

    def _schedule(self, rule: CompiledRule, row: Going, anchor: str, at: Instant) -> None:
        row["pending"] = row["pending"] + [
            {
                "step": i,
                "do": step.do,
                # What is called off by an answer waits for none as far as the run is concerned.
                "anchor": "unanswered" if step.until_answered and time else anchor,
                "due": at + round((step.after + later) * 1000),
                "part": time,
            }
            for i, step in enumerate(rule.document.response)
            if step.anchor == anchor
            for time, later in enumerate(step.planned())
        ]

    def _go_on(self, rule: CompiledRule, ref: str, row: Going, at: Instant, outcome: Outcome) -> None:
        """Give out what is due of a run, then keep its row for as long as something may still come."""
        due = sorted((p for p in row["pending"] if p["due"] <= at), key=lambda p: (p["due"], p["step"], p["part"]))
        row = {**row, "pending": [p for p in row["pending"] if p["due"] > at], "held": list(row["held"])}
        for pending in due:
            if pending["step"] == STOP:
                row = self._stop(ref, row, at, UNANSWERED, outcome)
            else:
                self._order(rule, ref, row, pending, outcome)
        for held in list(row["held"]):
            until = held["until"]
            if until is not None and until <= at:
                row["held"].remove(held)
                self._release(rule.id, ref, held, until, outcome)
        forget = row.get("forget")
        if forget is not None and forget <= at:
            row["forget"] = None
        self._keep(rule, ref, row)

    def _stop(self, ref: str, row: Going, at: Instant, why: str, outcome: Outcome) -> Going:
        """Cancel what was to follow the start, and let go of what is held."""
        gone = [p for p in row["pending"] if p["anchor"] == "start"]
        outcome.dropped += [_dropped(ref, p, why) for p in gone]
        held = [_until(h, at) for h in row["held"]]
        return {**row, "pending": [p for p in row["pending"] if p["anchor"] != "start"], "held": held}

    def _keep(self, rule: CompiledRule, ref: str, row: Going) -> None:
        moments = [p["due"] for p in row["pending"]]
        moments += [h["until"] for h in row["held"] if h["until"] is not None]
        forget = row.get("forget")
        if forget is not None:
            moments.append(forget)
        if moments or row["held"] or row["state"] is not None:
            self.state.put(rule.id, f"run|{ref}", {**row, "due": min(moments, default=None)})
            return
        self.state.drop(rule.id, f"run|{ref}")
        self._met_no_more(rule.id, ref, row)

    def _met_no_more(self, rule: str, ref: str, row: Going) -> None:
        again = f"again|{row['event']['point']}"
        known = self.state.get(rule, again)
        if known is None:
            return
        left = [one for one in known["runs"] if one != ref]
        if left:
            self.state.put(rule, again, {"runs": left})
        else:
            self.state.drop(rule, again)

    def _asks(self, rule: CompiledRule, row: Going, at: Instant) -> None:
        """An alarm has been raised: from now on its answer is waited for."""
        if row.get("asked") or row.get("answered"):
            return
        row["asked"] = True
        self._schedule(rule, row, "unanswered", at)
        stop = rule.document.stop
        if stop is not None and stop.unanswered is not None:
            due = at + round(stop.unanswered * 1000)
            row["pending"].append({"step": STOP, "do": "stop", "anchor": "unanswered", "due": due, "part": 0})

    def _order(self, rule: CompiledRule, ref: str, row: Going, pending: Pending, outcome: Outcome) -> None:
        step, event = rule.document.response[pending["step"]], event_from_json(row["event"])
        if event.late and step.carried is Delivery.ONCE_ONLY:
            outcome.dropped.append(_dropped(ref, pending, LATE))
            return
        if step.hold == "state" and row["state"] is None:
            outcome.dropped.append(_dropped(ref, pending, OVER))
            return
        seen: list[Seen] = []
        asked = rule.steps[pending["step"]]
        if asked is not None:
            self.look(event, pending["due"])
            if not asked(event, pending["due"], seen):
                outcome.dropped.append(_dropped(ref, pending, UNFULFILLED, tuple(seen), rule.id))
                return
        if step.asks:
            self._asks(rule, row, pending["due"])
        document = rule.document
        firing = Firing(
            document.name, event, self.facts, rule.id, row.get("listed", ""), ref, pending["due"], document.mutable
        )
        orders = step.orders_of(firing, pending["part"])
        if not orders:
            outcome.dropped.append(_dropped(ref, pending, step.nobody))
            if step.way and self.orders:
                outcome.unreached.append(Unreached(ref, rule.id, pending["do"], event, pending["due"]))
        for order in orders:
            part = pending["part"] * PARTS + order.part
            if self.orders:
                outcome.orders.append(
                    StepOrder(
                        ref, rule.id, pending["step"], step.do, step.carried, order.target, order.payload,
                        max(pending["due"], order.not_before), part=part, seen=tuple(seen),
                        lives=round(step.lives * 1000) if step.lives is not None else None,
                    )
                )  # fmt: skip
            if step.hold is not None:
                row["held"].append(
                    _held(pending, step.do, order, part, step.hold if order.hold is None else order.hold)
                )

    def _release(self, rule: str, ref: str, held: HeldOutput, due: Instant, outcome: Outcome) -> None:
        if self.orders:
            outcome.orders.append(
                StepOrder(
                    ref, rule, held["step"], held["do"], Delivery.RELEASE, held["target"], held.get("let_go", {"state": "off"}), due,
                    release=True, part=held.get("part", 0),
                )
            )  # fmt: skip


def _until(held: HeldOutput, at: Instant) -> HeldOutput:
    return {**held, "until": at}


def _held(pending: Pending, do: str, order: Order, part: int, hold: Any) -> HeldOutput:
    """An output held: for some seconds, or until the state ends."""
    until = None if hold == "state" else pending["due"] + round(float(hold) * 1000)
    return {
        "step": pending["step"], "do": do, "target": order.target, "part": part, "until": until,
        "let_go": dict(order.let_go),
    }  # fmt: skip


def _dropped(ref: str, pending: Pending, why: str, seen: tuple[Seen, ...] = (), rule: str = "") -> Dropped:
    return Dropped(ref, pending["step"], pending["part"] * PARTS, pending["do"], pending["due"], why, seen, rule)
