"""What operators write down during a shift, and what they hand over at its end."""

from django.db import models

from dromikon.sites.models import Site


class ShiftNote(models.Model):
    """A note in the operators' log."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="+")
    at = models.BigIntegerField()
    person = models.ForeignKey("people.Person", on_delete=models.SET_NULL, null=True, related_name="+")
    name = models.CharField(max_length=150)
    text = models.TextField()

    class Meta:
        indexes = [models.Index(fields=["site", "at"])]

    def __str__(self) -> str:
        return self.text[:60]


class Handover(models.Model):
    """The end of a shift: what happened in it and what stands open, as it was then. The next one says that they have read it."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="+")
    start = models.BigIntegerField(help_text="the end of the shift before")
    at = models.BigIntegerField()
    person = models.ForeignKey("people.Person", on_delete=models.SET_NULL, null=True, related_name="+")
    name = models.CharField(max_length=150)
    note = models.TextField(blank=True)
    body = models.JSONField(help_text="core.shift.Shift")
    taken_at = models.BigIntegerField(null=True)
    taken_name = models.CharField(max_length=150, blank=True)

    class Meta:
        indexes = [models.Index(fields=["site", "at"])]

    def __str__(self) -> str:
        return f"{self.name} at {self.at}"
