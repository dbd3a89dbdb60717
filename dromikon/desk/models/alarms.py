"""Alarms, what was done with them, and their evidence."""

from typing import Any

from django.db import models

from dromikon.core.alarms.states import AlarmState, Standing
from dromikon.sites.models import Site

PRIORITY_ORDER = {"critical": 0, "high": 1, "medium": 2, "low": 3}


class Alarm(models.Model):
    """Stays until somebody answers. States after IEC 62682."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="alarms")
    run = models.CharField(max_length=64)
    step = models.PositiveSmallIntegerField(default=0)
    rule = models.CharField(max_length=40)
    point = models.CharField(max_length=40)
    cameras = models.JSONField(default=list)
    priority = models.CharField(max_length=10)
    rank = models.PositiveSmallIntegerField(help_text="0 is the most urgent priority")
    title = models.CharField(max_length=300)
    instruction = models.TextField(blank=True)
    groups = models.JSONField(default=list)
    groups_text = models.TextField(default="", help_text="the groups as |a|b|, for queries")
    note_required = models.BooleanField(default=False)
    sound = models.CharField(max_length=10, default="chime")
    state = models.CharField(max_length=16, choices=[(s.value, s.value) for s in AlarmState])
    lasting = models.BooleanField(default=False, help_text="its condition has an end of its own, still to come")
    late = models.BooleanField(default=False)
    count = models.PositiveIntegerField(default=1, help_text="with the repeats that were joined to it")
    last_at = models.BigIntegerField(null=True, help_text="of the last repeat")
    zero = models.BigIntegerField(help_text="when it happened")
    raised_at = models.BigIntegerField()
    ended_at = models.BigIntegerField(null=True)
    acknowledged_at = models.BigIntegerField(null=True)
    acknowledged_by = models.ForeignKey("people.Person", on_delete=models.SET_NULL, null=True)
    acknowledged_name = models.CharField(max_length=150, blank=True)
    note = models.TextField(blank=True)
    tags = models.JSONField(default=list)
    outcome = models.CharField(max_length=8, blank=True, help_text="what it was, of core.alarms.states.OUTCOMES")
    outcome_required = models.BooleanField(default=False)
    tags_required = models.BooleanField(default=False)
    alone = models.BooleanField(default=False, help_text="it is not answered together with others")
    taken_by = models.ForeignKey("people.Person", on_delete=models.SET_NULL, null=True, related_name="+")
    taken_name = models.CharField(max_length=150, blank=True)
    shelved_until = models.BigIntegerField(null=True)
    shelved_name = models.CharField(max_length=150, blank=True)
    shelved_why = models.CharField(max_length=300, blank=True)
    words = models.TextField(blank=True, default="", help_text="what it is found by once it is answered")
    box = models.CharField(max_length=60, blank=True, help_text="whom it is about (core.boxes), in a picture of")
    box_camera = models.CharField(max_length=40, blank=True)
    quiet_in = models.JSONField(default=list, help_text="modes in which it is put before nobody")
    suppressed = models.BooleanField(default=False)
    unheard = models.BooleanField(default=False, help_text="it has passed while it was suppressed")
    ticked = models.JSONField(default=list, help_text="numbers of the steps of its instruction that are done")
    own_sound = models.CharField(max_length=40, blank=True, help_text="id of a sound of the site's own")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["run", "step"], name="one_alarm_per_step")]
        indexes = [
            models.Index(fields=["site", "state", "rank", "raised_at"]),
            models.Index(fields=["site", "zero"]),
            models.Index(fields=["shelved_until"], condition=models.Q(state="shelved"), name="on_a_shelf"),
            models.Index(fields=["site", "rule", "zero"], name="alarms_of_a_rule"),
        ]

    def __str__(self) -> str:
        return self.title

    def save(self, *args: Any, **kwargs: Any) -> None:
        self.groups_text = f"|{'|'.join(self.groups)}|"
        super().save(*args, **kwargs)

    @property
    def standing(self) -> Standing:
        """The facts that its state follows from."""
        return Standing(
            lasting=self.lasting, over=self.ended_at is not None, answered=self.acknowledged_at is not None,
            shelved_until=self.shelved_until, taken_by=str(self.taken_by_id or ""),
            suppressed=self.suppressed, unheard=self.unheard,
        )  # fmt: skip

    def stand(self, standing: Standing, now: int) -> None:
        """Take facts over that are not an answer's, and the state that follows."""
        self.lasting, self.shelved_until = standing.lasting, standing.shelved_until
        self.suppressed, self.unheard = standing.suppressed, standing.unheard
        self.taken_by_id = int(standing.taken_by) if standing.taken_by else None
        self.state = standing.state(now).value


class AlarmAct(models.Model):
    """Something that was done with an alarm; that it was raised, ended and answered stands in the alarm itself."""

    alarm = models.ForeignKey(Alarm, on_delete=models.CASCADE, related_name="acts")
    site = models.CharField(max_length=40)
    at = models.BigIntegerField()
    act = models.CharField(max_length=12)
    name = models.CharField(max_length=150, blank=True)
    why = models.CharField(max_length=300, blank=True)
    until = models.BigIntegerField(null=True)

    class Meta:
        ordering = ["at", "id"]

    def __str__(self) -> str:
        return f"{self.act} {self.alarm_id}"


class Evidence(models.Model):
    """A still copied from the recorder when its alarm is raised, with its SHA-256."""

    alarm = models.ForeignKey(Alarm, on_delete=models.CASCADE, related_name="evidence")
    camera = models.CharField(max_length=40)
    at = models.BigIntegerField()
    offset = models.IntegerField(help_text="ms from zero")
    file = models.CharField(max_length=200, blank=True)
    sha256 = models.CharField(max_length=64, blank=True)
    missing = models.CharField(max_length=200, blank=True, help_text="why there is no picture")

    class Meta:
        ordering = ["offset"]
        constraints = [models.UniqueConstraint(fields=["alarm", "camera", "offset"], name="one_still")]
