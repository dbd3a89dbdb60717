"""Customer > site > area, and recipient groups."""

import json

from django.db import models

from dromikon import secrets
from dromikon.ids import new_id


class Retirable(models.Model):
    """Something configured. What is taken away is retired: nothing offers it any more, and history keeps its name."""

    retired_at = models.BigIntegerField(null=True, editable=False, help_text="ms UTC; null while it is in use")

    class Meta:
        abstract = True


class Service(Retirable):
    """Something outside that is called by its address, with a bearer token."""

    name = models.CharField(max_length=120)
    address = models.URLField()
    token_sealed = models.TextField(blank=True)

    class Meta:
        abstract = True

    def __str__(self) -> str:
        return self.name

    @property
    def token(self) -> str:
        return secrets.unseal(self.token_sealed)


class Customer(Retirable):
    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    name = models.CharField(max_length=120)

    def __str__(self) -> str:
        return self.name


class Site(Retirable):
    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    customer = models.ForeignKey(Customer, on_delete=models.CASCADE, related_name="sites")
    name = models.CharField(max_length=120)
    zone = models.CharField(max_length=60, default="UTC", help_text="IANA name of the site's time zone")
    language = models.CharField(max_length=20, default="en-gb", help_text="of what its rules send")
    latitude = models.FloatField(default=51.5, help_text="degrees north, for sunrise and sunset")
    longitude = models.FloatField(default=0.0, help_text="degrees east")
    modes = models.JSONField(default=list, help_text="operating states; the first is the one it begins in")

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class Area(Retirable):
    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="areas")
    name = models.CharField(max_length=120)
    parent = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, blank=True)
    order = models.PositiveSmallIntegerField(default=0)

    class Meta:
        ordering = ["order", "name"]

    def __str__(self) -> str:
        return self.name


class Counter(Retirable):
    """A number that rules count up and down. Where it stands is the evaluator's."""

    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="counters")
    name = models.CharField(max_length=120)
    room = models.PositiveIntegerField(default=0, help_text="how many there is room for; 0: as many as come")

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class Destination(Retirable):
    """Something outside that steps send to: a chat room, a manager of SNMP, a folder for clips, a system with a log-in."""

    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="destinations")
    name = models.CharField(max_length=120)
    sort = models.CharField(max_length=10)
    settings = models.JSONField(default=dict)
    secrets_sealed = models.TextField(blank=True, help_text="its passwords and tokens by name, as sealed JSON")

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name

    @property
    def secrets(self) -> dict[str, str]:
        """Its passwords and tokens by name. Raises SealBroken."""
        found: dict[str, str] = json.loads(secrets.unseal(self.secrets_sealed) or "{}")
        return found

    def seal(self, known: dict[str, str]) -> None:
        """Keep passwords and tokens."""
        self.secrets_sealed = secrets.seal(json.dumps(known))


class Group(Retirable):
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
