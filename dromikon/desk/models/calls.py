"""Calls at door stations: somebody stands there and waits."""

from django.db import models

from dromikon.core.calls import CallState, Standing
from dromikon.sites.models import Site


class Call(models.Model):
    """One call, from its ringing to its end. How it stands follows from these facts (`core.calls`)."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="calls")
    station = models.CharField(max_length=40)
    event = models.BigIntegerField(help_text="its ringing, in the journal")
    rung_at = models.BigIntegerField()
    last_rung_at = models.BigIntegerField()
    rings = models.PositiveSmallIntegerField(default=1)
    answered_at = models.BigIntegerField(null=True)
    answered_by = models.ForeignKey("people.Person", on_delete=models.SET_NULL, null=True, related_name="+")
    answered_name = models.CharField(max_length=150, blank=True, help_text="empty: at the place itself")
    hung_up_at = models.BigIntegerField(null=True, help_text="somebody has ended it, and its event is on its way")
    ended_at = models.BigIntegerField(null=True)
    state = models.CharField(max_length=10, choices=[(s.value, s.value) for s in CallState])

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["event"], name="one_call_a_ringing"),
            models.UniqueConstraint(fields=["station"], condition=models.Q(ended_at=None), name="one_call_at_a_time"),
        ]
        indexes = [
            models.Index(fields=["site", "rung_at"]),
            models.Index(fields=["state"], condition=models.Q(ended_at=None), name="calls_going_on"),
        ]

    def __str__(self) -> str:
        return f"{self.state} at {self.station}"

    @property
    def standing(self) -> Standing:
        """The facts that its state follows from."""
        return Standing(self.last_rung_at, self.answered_at, self.ended_at)

    def stand(self, standing: Standing) -> None:
        """Take facts over, and the state that follows."""
        self.last_rung_at, self.answered_at, self.ended_at = standing.rung_at, standing.answered_at, standing.ended_at
        self.state = standing.state.value
