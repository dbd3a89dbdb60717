"""The journal (the evaluator's only input) and what came of it. Times are ms UTC. What the core has a value of is here
a row of: `EventRow` keeps an `Event`."""

from django.db import models


class Journal(models.Model):
    """One total order of everything the evaluator was given. `at` never decreases."""

    seq = models.BigIntegerField(primary_key=True)
    at = models.BigIntegerField()
    site = models.CharField(max_length=40)
    type = models.CharField(max_length=8, help_text="event, tick, act or facts")
    body = models.JSONField(null=True, help_text="null for events: their row has everything")

    class Meta:
        indexes = [
            # A rehearsal reads what is not an event in between; of a million rows that is few.
            models.Index(fields=["site", "seq"], condition=~models.Q(type="event"), name="journal_others")
        ]


class EventRow(models.Model):
    """Something that happened at a point; `seq` is its place in the journal."""

    seq = models.BigIntegerField(primary_key=True)
    site = models.CharField(max_length=40)
    kind = models.CharField(max_length=60)
    point = models.CharField(max_length=40)
    phase = models.CharField(max_length=8)
    at = models.BigIntegerField()
    occurred_at = models.BigIntegerField()
    received_at = models.BigIntegerField()
    device_at = models.BigIntegerField(null=True)
    fields = models.JSONField(default=dict)
    late = models.BooleanField(default=False)
    initial = models.BooleanField(default=False)
    chain = models.JSONField(default=list, help_text="the rules whose derived events led here")
    inbox = models.BigIntegerField(null=True, help_text="the raw message, for as long as the inbox keeps it")
    test = models.BooleanField(default=False, help_text="made up by a person, for one rule alone")

    class Meta:
        db_table = "daybook_event"
        indexes = [
            models.Index(fields=["site", "occurred_at"]),
            models.Index(fields=["site", "kind", "seq"]),
            models.Index(fields=["point", "seq"]),
        ]


class TallyRow(models.Model):
    """How often a kind came from a point on one day (UTC, by the number of days since 1970), and when last: kept longer than
    the events themselves, so that what has fallen silent can be told from what never spoke."""

    site = models.CharField(max_length=40)
    point = models.CharField(max_length=40)
    kind = models.CharField(max_length=60)
    day = models.PositiveIntegerField()
    count = models.PositiveIntegerField()
    last_at = models.BigIntegerField()

    class Meta:
        db_table = "daybook_tally"
        constraints = [models.UniqueConstraint(fields=["site", "point", "kind", "day"], name="one_tally_a_day")]


class CountRow(models.Model):
    """A counter in a quarter of an hour, which begins at `start` (ms UTC): how much it was counted up and down, the most that it
    stood at, and where it stood last."""

    site = models.CharField(max_length=40)
    counter = models.CharField(max_length=40)
    start = models.BigIntegerField()
    came = models.PositiveIntegerField(default=0)
    went = models.PositiveIntegerField(default=0)
    most = models.PositiveIntegerField(null=True)
    stands = models.PositiveIntegerField(null=True)

    class Meta:
        db_table = "daybook_count"
        constraints = [models.UniqueConstraint(fields=["site", "counter", "start"], name="one_count_a_quarter")]


class VerdictRow(models.Model):
    """What one rule made of one event."""

    event = models.BigIntegerField()
    site = models.CharField(max_length=40)
    rule = models.CharField(max_length=40)
    revision = models.PositiveIntegerField()
    at = models.BigIntegerField()
    outcome = models.CharField(max_length=16)
    seen = models.JSONField(default=list)
    due = models.BigIntegerField(null=True)
    run = models.CharField(max_length=64, null=True)

    class Meta:
        db_table = "daybook_verdict"
        indexes = [models.Index(fields=["event"]), models.Index(fields=["site", "rule", "at"])]


class RunRow(models.Model):
    """One firing of a rule."""

    ref = models.CharField(max_length=64, unique=True)
    site = models.CharField(max_length=40)
    rule = models.CharField(max_length=40)
    rule_name = models.CharField(max_length=120)
    revision = models.PositiveIntegerField()
    event = models.BigIntegerField()
    point = models.CharField(max_length=40)
    at = models.BigIntegerField()
    zero = models.BigIntegerField()
    late = models.BooleanField(default=False)
    test = models.BooleanField(default=False, help_text="set off by a person who tests")
    ended_at = models.BigIntegerField(null=True)

    class Meta:
        db_table = "daybook_run"
        indexes = [
            models.Index(fields=["site", "zero"]),
            models.Index(fields=["rule", "at"]),
            models.Index(fields=["event"]),
        ]


class Step(models.Model):
    """One step of a run for one target. Outside steps are the outbox: rows that deliverers work off."""

    class Status(models.TextChoices):
        DUE = "due"
        SENDING = "sending"
        DONE = "done"
        FAILED = "failed"
        #: Sent once, and no answer came. Never sent again.
        UNCONFIRMED = "unconfirmed"
        #: Too late to be of use, never sent.
        EXPIRED = "expired"
        #: Not sent: the rule was changed, or the event was learned late.
        DROPPED = "dropped"

    run = models.CharField(max_length=64)
    site = models.CharField(max_length=40)
    step = models.PositiveSmallIntegerField()
    part = models.PositiveSmallIntegerField(default=0)
    action = models.CharField(max_length=20)
    target = models.CharField(max_length=120, blank=True)
    release = models.BooleanField(default=False)
    delivery = models.CharField(max_length=12)
    lane = models.CharField(max_length=120, blank=True)
    payload = models.JSONField(default=dict)
    status = models.CharField(max_length=12, choices=Status, default=Status.DUE)
    due = models.BigIntegerField()
    expires = models.BigIntegerField(null=True)
    next_try = models.BigIntegerField(null=True)
    attempts = models.PositiveSmallIntegerField(default=0)
    done_at = models.BigIntegerField(null=True)
    answer = models.TextField(default="")
    seen = models.JSONField(default=list, help_text="what its own conditions and hours saw when it was due")
    sent_at = models.BigIntegerField(null=True, help_text="when it was last begun to be sent")

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["run", "step", "part", "target", "release"], name="one_step_per_target")
        ]
        indexes = [
            models.Index(
                fields=["status", "next_try"], condition=models.Q(status__in=["due", "sending"]), name="outbox"
            ),
            models.Index(fields=["site", "due"], name="deliveries"),
            models.Index(fields=["site", "done_at"], condition=models.Q(status="expired"), name="expired_steps"),
            models.Index(fields=["target", "action"], name="of_target"),
            models.Index(fields=["lane", "due"], condition=models.Q(status="due"), name="lanes"),
        ]


class Resting(models.Model):
    """A target that does not answer and is left alone for a while: one call tries at `tries_at`."""

    lane = models.CharField(primary_key=True, max_length=120)
    site = models.CharField(max_length=40)
    target = models.CharField(max_length=120, blank=True)
    action = models.CharField(max_length=20)
    since = models.BigIntegerField()
    tries_at = models.BigIntegerField()
    failures = models.PositiveIntegerField()
    answer = models.TextField(default="")

    class Meta:
        indexes = [models.Index(fields=["site", "since"])]


class Requeued(models.Model):
    """A step that somebody wants to be sent again; the deliverers take it up and forget it here."""

    step = models.BigIntegerField(primary_key=True)

    def __str__(self) -> str:
        return str(self.step)


class LineRow(models.Model):
    """A line in the daybook, written by a step or by a hold-off that sums up what it kept back."""

    site = models.CharField(max_length=40)
    at = models.BigIntegerField()
    point = models.CharField(max_length=40, blank=True)
    text = models.CharField(max_length=1000)
    run = models.CharField(max_length=64, blank=True)

    class Meta:
        db_table = "daybook_line"
        indexes = [models.Index(fields=["site", "at"])]


class CheckpointRow(models.Model):
    """All evaluator rows of a site at a place in the journal, so that a rehearsal need not begin at the beginning."""

    site = models.CharField(max_length=40)
    seq = models.BigIntegerField()
    at = models.BigIntegerField()
    format = models.PositiveSmallIntegerField()
    rows = models.JSONField()

    class Meta:
        db_table = "daybook_checkpoint"
        indexes = [models.Index(fields=["site", "at"])]


class Feed(models.Model):
    """What pages are told. `groups` limits a message to their members; null is for everybody at the site."""

    site = models.CharField(max_length=40)
    topic = models.CharField(max_length=20)
    subject = models.CharField(max_length=64)
    groups = models.JSONField(null=True)
    data = models.JSONField(default=dict)
    at = models.BigIntegerField()


class Deadline(models.Model):
    """An event that happens by itself at a moment, unless something else does before: what ends, what becomes stale."""

    site = models.CharField(max_length=40)
    kind = models.CharField(max_length=60)
    point = models.CharField(max_length=40)
    phase = models.CharField(max_length=8)
    due = models.BigIntegerField()

    class Meta:
        db_table = "daybook_deadline"
        constraints = [models.UniqueConstraint(fields=["site", "kind", "point", "phase"], name="one_deadline")]


class EvaluatorRow(models.Model):
    """A row of evaluator state."""

    site = models.CharField(max_length=40)
    rule = models.CharField(max_length=40, blank=True)
    key = models.CharField(max_length=300)
    format = models.PositiveSmallIntegerField()
    row = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["site", "rule", "key"], name="one_evaluator_row")]


class EnginePosition(models.Model):
    """How far the engine has come: in the inbox, in operators' acts, and in the journal."""

    id = models.PositiveSmallIntegerField(primary_key=True, default=1)
    inbox = models.BigIntegerField(default=0)
    act = models.BigIntegerField(default=0)
    seq = models.BigIntegerField(default=0)
    at = models.BigIntegerField(default=0)
    delay_ms = models.IntegerField(default=0, help_text="from receipt to decision, of the last message")
    beat = models.BigIntegerField(default=0, help_text="when the engine last said that it is alive")


class ActRow(models.Model):
    """An operator's act or a change of facts, written with the change it makes; becomes journal input."""

    site = models.CharField(max_length=40)
    at = models.BigIntegerField()
    type = models.CharField(max_length=16, help_text="acknowledged, pressed, mode, counter or facts")
    body = models.JSONField(default=dict)

    class Meta:
        db_table = "daybook_act"
