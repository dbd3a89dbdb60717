"""Bookmarks on recordings."""

from django.db import models

from dromikon.sites.models import Site


class Bookmark(models.Model):
    """A marked stretch of one camera's recording. `words` is what text search looks at."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="bookmarks")
    camera = models.CharField(max_length=40)
    start = models.BigIntegerField()
    end = models.BigIntegerField()
    zero = models.BigIntegerField()
    title = models.CharField(max_length=300)
    note = models.TextField(blank=True)
    tags = models.JSONField(default=list)
    words = models.TextField(default="")
    run = models.CharField(max_length=64, blank=True)
    step = models.PositiveSmallIntegerField(default=0)
    by = models.ForeignKey("people.Person", on_delete=models.SET_NULL, null=True)
    made_at = models.BigIntegerField()

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["run", "step", "camera"], condition=~models.Q(run=""), name="one_bookmark_per_step"
            )
        ]
        indexes = [models.Index(fields=["site", "zero"]), models.Index(fields=["camera", "zero"])]

    def __str__(self) -> str:
        return self.title

    def gather_words(self) -> None:
        """Bring `words` up to date with title, note and tags."""
        self.words = " ".join([self.title, self.note, *(f"#{t}" for t in self.tags)]).casefold()


class Snapshot(models.Model):
    """A still that a rule had kept, with its SHA-256."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="snapshots")
    camera = models.CharField(max_length=40)
    at = models.BigIntegerField()
    title = models.CharField(max_length=300)
    run = models.CharField(max_length=64)
    file = models.CharField(max_length=200)
    sha256 = models.CharField(max_length=64)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["run", "camera", "at"], name="one_snapshot")]
        indexes = [models.Index(fields=["site", "at"])]
