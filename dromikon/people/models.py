"""Persons, their membership of sites, tokens, and the audit trail."""

from django.contrib.auth.models import AbstractUser
from django.db import models

from dromikon.people.roles import Role
from dromikon.sites.models import Site


class Person(AbstractUser):
    """Somebody who logs in."""

    theme = models.CharField(
        max_length=8, default="auto", choices=[("auto", "auto"), ("day", "day"), ("night", "night")]
    )

    number = models.CharField(max_length=20, blank=True, help_text="for text messages, as +44 and so on (E.164)")
    push = models.CharField(
        max_length=200, blank=True, help_text="what the gateway for push messages knows them by: a token or topic"
    )
    chat = models.CharField(max_length=200, blank=True, help_text="what the gateway for chat messages knows them by")
    must_change = models.BooleanField(default=False, help_text="their password was made by somebody else")

    @property
    def shown_name(self) -> str:
        return self.get_full_name() or self.username


class Visit(models.Model):
    """One log-in that still counts: from where and since when."""

    session = models.CharField(primary_key=True, max_length=40)
    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="visits")
    address = models.GenericIPAddressField(null=True)
    agent = models.CharField(max_length=200, blank=True)
    since = models.BigIntegerField()

    class Meta:
        ordering = ["-since"]

    def __str__(self) -> str:
        return f"{self.person_id} from {self.address}"


class Membership(models.Model):
    """A person's role at a site."""

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="memberships")
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=20, choices=[(r.value, r.value) for r in Role])
    duty = models.CharField(
        max_length=40, blank=True, help_text="id of the Hours in which they are on duty; empty: always"
    )
    quiet = models.CharField(
        max_length=40, blank=True, help_text="id of the Hours in which they are not to be disturbed"
    )

    class Meta:
        constraints = [models.UniqueConstraint(fields=["person", "site"], name="one_role_per_site")]

    def __str__(self) -> str:
        return f"{self.person_id} is {self.role} at {self.site_id}"


class Mute(models.Model):
    """A rule that somebody wants to hear nothing of, as far as the rule allows."""

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="mutes")
    rule = models.CharField(max_length=40)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["person", "rule"], name="one_mute")]

    def __str__(self) -> str:
        return f"{self.person_id} mutes {self.rule}"


class ApiToken(models.Model):
    """A bearer token; only its digest is kept, and its beginning to tell it from others."""

    class Scope(models.TextChoices):
        #: May only ask.
        READ = "read"
        #: May do all that its person may.
        ACT = "act"

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="tokens")
    name = models.CharField(max_length=80)
    scope = models.CharField(max_length=8, choices=Scope, default=Scope.ACT)
    beginning = models.CharField(max_length=12, blank=True)
    digest = models.CharField(max_length=64, unique=True)
    created_at = models.BigIntegerField()
    expires_at = models.BigIntegerField(null=True)
    last_used_at = models.BigIntegerField(null=True)

    class Meta:
        ordering = ["-created_at"]

    def __str__(self) -> str:
        return self.name


class AuditEntry(models.Model):
    """Who did what to what, and why. Each entry carries a digest over its content and the one before it."""

    at = models.BigIntegerField()
    site = models.ForeignKey(Site, on_delete=models.CASCADE, null=True, related_name="audit")
    person = models.ForeignKey(Person, on_delete=models.SET_NULL, null=True)
    name = models.CharField(max_length=150, help_text="the person's name at the time")
    verb = models.CharField(max_length=60)
    subject = models.CharField(max_length=200)
    detail = models.JSONField(default=dict)
    content_digest = models.CharField(max_length=64)
    digest = models.CharField(max_length=64)
    erased = models.BooleanField(default=False, help_text="a person's name was taken out; its digest is the one before")

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["site", "subject"]), models.Index(fields=["person"])]

    def __str__(self) -> str:
        return f"{self.name} {self.verb} {self.subject}"


class Anchor(models.Model):
    """The end of the audit trail as it was once found unbroken: what comes before need not be walked again, and may go."""

    entry = models.BigIntegerField(unique=True)
    digest = models.CharField(max_length=64)
    at = models.BigIntegerField()

    class Meta:
        ordering = ["entry"]

    def __str__(self) -> str:
        return f"{self.entry} {self.digest[:12]}"
