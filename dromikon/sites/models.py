"""Customer > site > area, and recipient groups."""

from django.db import models

from dromikon.ids import new_id


class Customer(models.Model):
    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    name = models.CharField(max_length=120)

    def __str__(self) -> str:
        return self.name


class Site(models.Model):
    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    customer = models.ForeignKey(Customer, on_delete=models.CASCADE, related_name="sites")
    name = models.CharField(max_length=120)
    zone = models.CharField(max_length=60, default="UTC", help_text="IANA name of the site's time zone")
    latitude = models.FloatField(default=51.5, help_text="degrees north, for sunrise and sunset")
    longitude = models.FloatField(default=0.0, help_text="degrees east")
    modes = models.JSONField(default=list, help_text="operating states; the first is the one it begins in")

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class Area(models.Model):
    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="areas")
    name = models.CharField(max_length=120)
    parent = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, blank=True)
    order = models.PositiveSmallIntegerField(default=0)

    class Meta:
        ordering = ["order", "name"]

    def __str__(self) -> str:
        return self.name


class Counter(models.Model):
    """A number that rules count up and down. Where it stands is the evaluator's."""

    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="counters")
    name = models.CharField(max_length=120)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class Group(models.Model):
    """Recipients: everybody at the site in one of the roles, and the persons named."""

    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="groups")
    name = models.CharField(max_length=120)
    roles = models.JSONField(default=list)
    persons = models.ManyToManyField("people.Person", blank=True, related_name="recipient_groups")

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name
