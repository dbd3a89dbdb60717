"""What the keeper did, and what it must leave alone."""

from django.db import models

from dromikon.sites.models import Site


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


class Hold(models.Model):
    """A period of a site of which nothing is forgotten, and why. Times are ms UTC."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="holds")
    start = models.BigIntegerField()
    end = models.BigIntegerField()
    until = models.BigIntegerField(null=True, help_text="when the hold ends by itself")
    reason = models.CharField(max_length=300)
    by = models.CharField(max_length=150, help_text="the person's name at the time")
    made_at = models.BigIntegerField()
    lifted_at = models.BigIntegerField(null=True)

    def __str__(self) -> str:
        return self.reason
