"""Lists and their contents. A content is never changed: the journal names it by digest, so that a rehearsal compares
with a list as it was."""

from django.db import models

from dromikon.ids import new_id
from dromikon.sites.models import Service, Site

#: A list is stale when its last good fetch lies further back than this many intervals.
STALE_AFTER = 3


class Content(models.Model):
    """The entries of a list at some time."""

    digest = models.CharField(primary_key=True, max_length=64)
    entries = models.JSONField()

    def __str__(self) -> str:
        return self.digest[:12]


#: In which a list's entries may stand out: plum, teal, amber, rust.
COLOURS = ("own", "good", "wait", "alert")


class WatchList(models.Model):
    class Sort(models.TextChoices):
        PLATES = "plates"
        PEOPLE = "people"
        CARDS = "cards"
        VALUES = "values"

    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="lists")
    name = models.CharField(max_length=120)
    sort = models.CharField(max_length=10, choices=Sort, default=Sort.VALUES)
    content = models.ForeignKey(Content, on_delete=models.PROTECT, related_name="+")
    changed_at = models.BigIntegerField()
    colour = models.CharField(max_length=10, blank=True, help_text="one of COLOURS, in which its entries stand out")
    likeness = models.FloatField(
        default=85, help_text="from how similar on, in percent, a face is taken for one of its entries"
    )
    cameras = models.JSONField(
        default=list, help_text="ids of the points where its faces are looked for on the page of who passed; none: all"
    )
    renew = models.PositiveIntegerField(default=0, help_text="days after which a face is to be taken anew; 0: never")
    consent = models.BooleanField(default=False, help_text="a face is put on it only of somebody who agreed to that")
    source = models.CharField(max_length=500, blank=True, help_text="an http(s) address, or a file in the lists folder")
    columns = models.JSONField(default=dict, help_text="which of the source's columns is which of ours; none: ours")
    every = models.PositiveIntegerField(default=3600, help_text="seconds between two fetches")
    tried_at = models.BigIntegerField(null=True)
    good_at = models.BigIntegerField(null=True, help_text="the last good fetch")
    trouble = models.TextField(blank=True, help_text="why the last fetch failed")

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name

    def stale(self, now: int) -> bool:
        """Whether it is kept from a source that has not given anything good for long."""
        return bool(self.source) and now - (self.good_at or 0) > STALE_AFTER * self.every * 1000


class Recogniser(Service):
    """A service that finds faces in pictures and makes templates of them."""

    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="recognisers")


class Picture(models.Model):
    """What an entry looks like: the still of the sighting from which it was added, fetched like any snapshot, or the picture
    from which it was enrolled, kept as such; under `run`."""

    list = models.ForeignKey(WatchList, on_delete=models.CASCADE, related_name="pictures")
    value = models.CharField(max_length=200)
    camera = models.CharField(max_length=40)
    at = models.BigIntegerField()
    run = models.CharField(max_length=64, unique=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["list", "value"], name="one_picture_an_entry")]

    def __str__(self) -> str:
        return self.value
