"""What the keeper did, and what it must leave alone."""

from django.db import models


class Done(models.Model):
    """How a job went the last time. Times are ms UTC."""

    job = models.CharField(primary_key=True, max_length=40)
    began_at = models.BigIntegerField()
    ended_at = models.BigIntegerField(null=True)
    well = models.BooleanField(default=True)
    said = models.TextField(blank=True)
    good_at = models.BigIntegerField(null=True, help_text="when it last ended well")

    def __str__(self) -> str:
        return self.job
