"""Rules and their revisions. Every save is a revision; runs and traces point at theirs."""

from typing import Any

from django.db import models

from dromikon.ids import new_id
from dromikon.sites.models import Site


class Rule(models.Model):
    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="rules")
    name = models.CharField(max_length=120)
    enabled = models.BooleanField(default=False)
    deleted = models.BooleanField(default=False)
    revision = models.PositiveIntegerField(default=1, help_text="the one that counts: that runs when the rule is on")
    draft = models.PositiveIntegerField(null=True, help_text="a later revision, kept until it is put live or dropped")
    changed_at = models.BigIntegerField()

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name

    @property
    def document(self) -> dict[str, Any]:
        """As it counts."""
        return self.document_of(self.revision)

    @property
    def latest(self) -> int:
        """The revision that somebody works on."""
        return self.draft or self.revision

    def document_of(self, number: int) -> dict[str, Any]:
        content: dict[str, Any] = self.revisions.get(number=number).document
        return content


class Receiver(models.Model):
    """An address that webhooks go to, with the secret that its messages are signed with. While a rotation overlaps, they
    are signed with the secret before, too."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="receivers")
    address = models.CharField(max_length=500)
    secret_sealed = models.TextField()
    made_at = models.BigIntegerField()
    shown = models.BooleanField(default=False)
    before_sealed = models.TextField(blank=True)
    before_until = models.BigIntegerField(null=True)

    class Meta:
        ordering = ["address"]
        constraints = [models.UniqueConstraint(fields=["site", "address"], name="one_receiver_per_address")]

    def __str__(self) -> str:
        return self.address


class Case(models.Model):
    """Events made up, kept with a rule, at which it must fire or must not (`dromikon.core.rules.trying.Case`)."""

    rule = models.ForeignKey(Rule, on_delete=models.CASCADE, related_name="cases")
    name = models.CharField(max_length=200)
    content = models.JSONField()
    fires = models.BooleanField()
    by = models.ForeignKey("people.Person", on_delete=models.SET_NULL, null=True)
    at = models.BigIntegerField()

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return self.name


class Example(models.Model):
    """An event that later revisions of a rule are measured by: whether the rule should have fired at it."""

    rule = models.ForeignKey(Rule, on_delete=models.CASCADE, related_name="examples")
    event = models.BigIntegerField()
    point = models.CharField(max_length=40, blank=True)
    zero = models.BigIntegerField()
    fires = models.BooleanField()
    by = models.ForeignKey("people.Person", on_delete=models.SET_NULL, null=True)
    at = models.BigIntegerField()

    class Meta:
        ordering = ["-zero"]
        constraints = [models.UniqueConstraint(fields=["rule", "event"], name="one_example_per_event")]

    def __str__(self) -> str:
        return f"{self.rule_id} {'fires' if self.fires else 'does not fire'} at {self.event}"


class Declined(models.Model):
    """A starting rule that nobody wants for a device."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="declined")
    device = models.CharField(max_length=40)
    starting = models.CharField(max_length=60)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["device", "starting"], name="declined_once")]

    def __str__(self) -> str:
        return f"{self.starting} is not for {self.device}"


class Revision(models.Model):
    rule = models.ForeignKey(Rule, on_delete=models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    document = models.JSONField()
    by = models.ForeignKey("people.Person", on_delete=models.SET_NULL, null=True)
    at = models.BigIntegerField()

    class Meta:
        ordering = ["-number"]
        constraints = [models.UniqueConstraint(fields=["rule", "number"], name="one_revision")]

    def __str__(self) -> str:
        return f"{self.rule_id} r{self.number}"
