"""Cases and what is in them. Clips and stills are copied when they are added, so that they outlast what is past keeping."""

from django.db import models

from dromikon.sites.models import Site


class Case(models.Model):
    """What is gathered under one heading. A closed one is handed over as it is, and nothing comes in."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="cases")
    title = models.CharField(max_length=200)
    note = models.TextField(blank=True)
    opened_at = models.BigIntegerField()
    opened_name = models.CharField(max_length=150)
    closed_at = models.BigIntegerField(null=True)
    closed_name = models.CharField(max_length=150, blank=True)

    class Meta:
        ordering = ["-opened_at"]

    def __str__(self) -> str:
        return self.title


class Piece(models.Model):
    """One thing in a case, in its place. A clip is waiting until its camera's recorder has given it."""

    class State(models.TextChoices):
        WAITING = "waiting"
        READY = "ready"
        #: It cannot be had; `why` says so.
        FAILED = "failed"

    case = models.ForeignKey(Case, on_delete=models.CASCADE, related_name="pieces")
    place = models.PositiveIntegerField()
    sort = models.CharField(max_length=8)
    title = models.CharField(max_length=300)
    words = models.TextField(blank=True)
    where = models.CharField(max_length=200, blank=True)
    camera = models.CharField(max_length=40, blank=True)
    start = models.BigIntegerField(null=True)
    end = models.BigIntegerField(null=True)
    ref = models.CharField(max_length=64, blank=True, help_text="the event or alarm that it was made of")
    added_at = models.BigIntegerField()
    added_name = models.CharField(max_length=150)
    state = models.CharField(max_length=8, choices=State, default=State.READY)
    why = models.CharField(max_length=300, blank=True)
    tried_at = models.BigIntegerField(default=0)
    file = models.CharField(max_length=120, blank=True)
    sha256 = models.CharField(max_length=64, blank=True)
    size = models.BigIntegerField(default=0)
    blur = models.JSONField(null=True, help_text="who is hidden in it (core.cases.blurring)")
    #: As it came from the recorder, where `file` hides somebody.
    original = models.CharField(max_length=120, blank=True)
    original_sha256 = models.CharField(max_length=64, blank=True)

    class Meta:
        ordering = ["place", "id"]
        indexes = [models.Index(fields=["state"], condition=models.Q(state="waiting"), name="pieces_waiting")]

    def __str__(self) -> str:
        return self.title
