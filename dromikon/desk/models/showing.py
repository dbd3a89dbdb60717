"""What is put before people besides alarms: notices, cameras on desks and displays, and how each wants their desk."""

from django.db import models

from dromikon.ids import new_id
from dromikon.sites.models import Retirable, Site


class Notice(models.Model):
    """Something shown that passes by itself."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="notices")
    run = models.CharField(max_length=64)
    step = models.PositiveSmallIntegerField()
    part = models.PositiveSmallIntegerField(default=0)
    groups = models.JSONField(default=list)
    text = models.CharField(max_length=600)
    camera = models.CharField(max_length=40, blank=True)
    sound = models.CharField(max_length=10, default="none")
    spoken = models.BooleanField(default=False, help_text="desks read it out")
    since = models.BigIntegerField()
    until = models.BigIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["run", "step", "part"], name="one_notice")]
        indexes = [models.Index(fields=["site", "until"])]


class Showing(models.Model):
    """A camera that a rule put up, on desks or on a display; it passes by itself. How it meets others there is
    `core.showing`."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="showings")
    run = models.CharField(max_length=64)
    step = models.PositiveSmallIntegerField()
    camera = models.CharField(max_length=40)
    groups = models.JSONField(default=list)
    display = models.CharField(max_length=40, blank=True, help_text="id; empty: on the desks of its groups")
    rank = models.PositiveSmallIntegerField(default=3, help_text="0 is the most urgent priority")
    at_least = models.IntegerField(default=0, help_text="ms that it is shown before its like may displace it")
    title = models.CharField(max_length=300)
    since = models.BigIntegerField()
    until = models.BigIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["run", "step", "camera", "display"], name="one_showing")]
        indexes = [models.Index(fields=["site", "until"])]


class Display(Retirable):
    """A screen without anybody at it: a wall or spot monitor in any browser, found by its name."""

    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="displays")
    name = models.CharField(max_length=120)
    slug = models.SlugField(max_length=60, help_text="in its address")
    cells = models.PositiveSmallIntegerField(default=4, help_text="pictures at a time, 1 to 16")
    usual = models.JSONField(default=list, help_text="cameras that it shows while nothing is put up")
    shows = models.JSONField(default=list, help_text="cameras that may come up there; none: any")

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(
                fields=["site", "slug"], condition=models.Q(retired_at=None), name="one_display_per_address"
            )
        ]

    def __str__(self) -> str:
        return self.name


class Arrangement(models.Model):
    """Cameras that somebody likes to watch together, by a name of theirs."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="+")
    person = models.ForeignKey("people.Person", on_delete=models.CASCADE, related_name="+")
    name = models.CharField(max_length=60)
    cells = models.PositiveSmallIntegerField(default=4)
    cameras = models.JSONField(default=list)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["site", "person", "name"], name="one_arrangement_per_name")]

    def __str__(self) -> str:
        return self.name


class OwnDesk(models.Model):
    """How somebody left their desk at a site: what they watch, whether rules may put cameras up there, and how alarms
    sound to them."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="+")
    person = models.ForeignKey("people.Person", on_delete=models.CASCADE, related_name="+")
    cells = models.PositiveSmallIntegerField(default=6)
    cameras = models.JSONField(null=True, help_text="null: the site's own, in order")
    arrangement = models.CharField(
        max_length=60, blank=True, help_text="whose name this has, while it is as it was named"
    )
    switching = models.BooleanField(default=True, help_text="rules put cameras up")
    sounds = models.JSONField(default=dict, help_text="a sound by priority, where it is not the rule's")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["site", "person"], name="one_desk_of_ones_own")]

    def __str__(self) -> str:
        return f"{self.person_id} at {self.site_id}"


class Sound(Retirable):
    """A sound of the site's own."""

    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="sounds")
    name = models.CharField(max_length=120)
    media = models.CharField(max_length=40)
    content = models.BinaryField()

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name
