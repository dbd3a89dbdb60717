"""Where events come from and actions go to."""

from urllib.parse import urlsplit

from django.db import models

from dromikon import secrets
from dromikon.ids import new_id
from dromikon.sites.models import Area, Retirable, Service, Site

#: No search takes longer, in ms.
LONGEST_SEARCH = 10 * 60_000


class Recorder(Service):
    """Where recordings of cameras are fetched."""

    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="recorders")


class Device(Retirable):
    """A device with a session of its own. State and what it says of itself are kept by the engine."""

    class State(models.TextChoices):
        UNKNOWN = "unknown"
        ONLINE = "online"
        LOST = "lost"

    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="devices")
    area = models.ForeignKey(Area, on_delete=models.SET_NULL, null=True, related_name="devices")
    name = models.CharField(max_length=120)
    address = models.URLField(help_text="the device service, for example http://192.0.2.10/onvif/device_service")
    user = models.CharField(max_length=80, blank=True)
    password_sealed = models.TextField(blank=True)
    enabled = models.BooleanField(default=True)
    minimum_gap = models.FloatField(default=0.2, help_text="seconds between two commands")
    state = models.CharField(max_length=10, choices=State, default=State.UNKNOWN)
    reason = models.CharField(max_length=30, blank=True)
    message = models.TextField(blank=True)
    state_since = models.BigIntegerField(null=True)
    clock_offset_ms = models.IntegerField(default=0)
    endpoint = models.CharField(max_length=200, blank=True, help_text="its endpoint reference, when it was discovered")
    information = models.JSONField(default=dict)
    catalogue = models.JSONField(default=dict)
    catalogue_at = models.BigIntegerField(null=True, help_text="when it last said what it has")
    asked_at = models.BigIntegerField(null=True, help_text="when somebody last wanted it to be asked again")
    watched_until = models.BigIntegerField(null=True, help_text="until then its session writes down what is said")
    certificate = models.TextField(
        blank=True, help_text="the only one that is trusted, as PEM, when nobody vouches for it"
    )

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name

    @property
    def password(self) -> str:
        return secrets.unseal(self.password_sealed)

    @property
    def web_address(self) -> str:
        """Where a browser finds the device's own page."""
        parts = urlsplit(self.address)
        return f"{parts.scheme}://{parts.netloc}/"


class SessionLog(models.Model):
    """What was asked and answered lately in a device's session, while somebody watches (`wire.onvif.exchanges`)."""

    device = models.OneToOneField(Device, on_delete=models.CASCADE, related_name="session_log")
    at = models.BigIntegerField()
    exchanges = models.JSONField(default=list)

    def __str__(self) -> str:
        return f"{len(self.exchanges)} exchanges"


class CatalogueChange(models.Model):
    """Something that is new, gone or changed on a device since it said so last (`core.devices.drift.Change`), until somebody
    has noted it."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="+")
    device = models.ForeignKey(Device, on_delete=models.CASCADE, related_name="changes")
    at = models.BigIntegerField()
    part = models.CharField(max_length=20)
    how = models.CharField(max_length=8)
    name = models.CharField(max_length=200)
    said = models.TextField(blank=True)
    noted_at = models.BigIntegerField(null=True)

    class Meta:
        ordering = ["-at", "id"]
        indexes = [models.Index(fields=["site", "at"]), models.Index(fields=["device", "noted_at"])]

    def __str__(self) -> str:
        return f"{self.how}: {self.name}"


class Point(Retirable):
    """One thing in a device that events come from or actions go to."""

    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="points")
    area = models.ForeignKey(Area, on_delete=models.SET_NULL, null=True, related_name="points")
    device = models.ForeignKey(Device, on_delete=models.CASCADE, null=True, related_name="points")
    channel = models.ForeignKey("self", on_delete=models.CASCADE, null=True, related_name="detectors")
    kind = models.CharField(max_length=20)
    name = models.CharField(max_length=120)
    token = models.CharField(max_length=200, blank=True, help_text="the device's own address of it")
    tags = models.JSONField(default=list)
    waits = models.FloatField(default=0, help_text="seconds a detector watches before it reports")
    electrical = models.JSONField(null=True, help_text="an output's contact rating and load, in V and A")
    recorder = models.ForeignKey(Recorder, on_delete=models.SET_NULL, null=True)
    recorder_channel = models.CharField(max_length=80, blank=True)
    recorded = models.CharField(max_length=10, blank=True, help_text="continuous, events or none; empty while unknown")
    recorded_since = models.BigIntegerField(null=True, help_text="the oldest recording")
    recorded_at = models.BigIntegerField(null=True, help_text="when its recorder was asked")
    siren = models.JSONField(null=True, help_text="a siren's outputs and signals (core.facts.Siren)")
    told = models.JSONField(default=dict, help_text="what its device says of it (core.facts.Told)")
    unit = models.CharField(
        max_length=12, blank=True, help_text="in which a sensor's readings are kept; empty: as they come"
    )
    deadband = models.FloatField(default=0, help_text="a reading that differs by less tells nothing new")
    at_least_every = models.FloatField(default=0, help_text="seconds after which it is told all the same; 0: never")
    stale_after = models.FloatField(default=0, help_text="seconds without a reading after which it is stale; 0: never")
    watch = models.JSONField(null=True, help_text="what a detector of our own watches (core.scene.watching)")
    seeing = models.JSONField(null=True, help_text="how a camera's objects are followed (core.scene.seeing)")
    mounting = models.JSONField(null=True, help_text="how a camera hangs (core.optics)")
    usually_on = models.BooleanField(default=False, help_text="an input that is on while nothing is the matter")
    button = models.JSONField(null=True, help_text="how a desk button is pressed (core.buttons)")
    x = models.FloatField(null=True, help_text="metres from the left of the site plan; null while it is not placed")
    y = models.FloatField(null=True, help_text="metres from the top of it")
    looks = models.FloatField(null=True, help_text="a camera's direction on it, in degrees clockwise from upwards")
    view = models.FloatField(null=True, help_text="how wide a camera sees, in degrees")
    reach = models.FloatField(null=True, help_text="how far a camera sees, in metres")

    class Meta:
        ordering = ["area__order", "name"]
        constraints = [
            models.UniqueConstraint(
                fields=["device", "token"], condition=models.Q(retired_at=None), name="one_point_per_token"
            )
        ]

    def __str__(self) -> str:
        return self.name


class DrawnOn(models.Model):
    """How a camera stood when a detector of our own was drawn, and how things had moved in its picture since, as shares of it, when it
    was looked at last. `strange`: how often in a row nothing was found again."""

    point = models.OneToOneField(Point, on_delete=models.CASCADE, related_name="drawn_on", primary_key=True)
    picture = models.BinaryField(help_text="a small JPEG")
    checked_at = models.BigIntegerField()
    right = models.FloatField(default=0)
    down = models.FloatField(default=0)
    strange = models.PositiveSmallIntegerField(default=0)

    def __str__(self) -> str:
        return f"how {self.point_id} was drawn"


class Sightline(models.Model):
    """This camera looks at this point."""

    point = models.ForeignKey(Point, on_delete=models.CASCADE, related_name="sightlines")
    camera = models.ForeignKey(Point, on_delete=models.CASCADE, related_name="looks_at")
    order = models.PositiveSmallIntegerField(default=0)
    preset = models.CharField(max_length=80, blank=True, help_text="token of the position in which the camera does")

    class Meta:
        ordering = ["order", "id"]
        constraints = [models.UniqueConstraint(fields=["point", "camera"], name="one_sightline")]

    def __str__(self) -> str:
        return f"{self.camera_id} looks at {self.point_id}"


class SitePlan(models.Model):
    """The drawing on which a site's points stand."""

    site = models.OneToOneField(Site, on_delete=models.CASCADE, related_name="plan")
    name = models.CharField(max_length=120, blank=True)
    media = models.CharField(max_length=20, help_text="image/svg+xml or image/png")
    content = models.BinaryField()
    digest = models.CharField(max_length=64)
    wide = models.FloatField(help_text="metres from left to right")
    tall = models.FloatField(help_text="metres from top to bottom, by the drawing's own proportions")
    at = models.BigIntegerField()

    def __str__(self) -> str:
        return self.name


class Intake(Retirable):
    """An address at which messages arrive. How its senders prove who they are is one of `core.proofs`: a secret that is only
    compared is kept as its digest, one with which sums are made is kept sealed. For a while after a rotation, the one before
    counts too."""

    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="intakes")
    name = models.CharField(max_length=120)
    proof = models.CharField(max_length=20, default="bearer")
    user = models.CharField(max_length=80, blank=True)
    header = models.CharField(max_length=80, default="X-Signature", help_text="of a signature")
    prefix = models.CharField(max_length=40, blank=True, help_text="before the signature in its header")
    encoding = models.CharField(max_length=10, default="hex", help_text="of the signature: hex or base64")
    token_digest = models.CharField(max_length=64, blank=True)
    before_digest = models.CharField(max_length=64, blank=True, help_text="the token before, while a rotation overlaps")
    secret_sealed = models.TextField(blank=True)
    before_sealed = models.TextField(blank=True)
    before_until = models.BigIntegerField(null=True)
    hashing = models.CharField(max_length=10, default="sha256", help_text="of an SNMP user's messages")
    cipher = models.CharField(max_length=10, default="aes128", help_text="of an SNMP user's messages, or none")
    address = models.CharField(max_length=300, blank=True, help_text="of whoever we fetch from")
    fetched = models.JSONField(default=dict, help_text="what is fetched: topics of a broker, registers of a device")
    state = models.CharField(max_length=10, default="unknown", help_text="of what fetches: online, lost or unknown")
    state_since = models.BigIntegerField(null=True)
    state_message = models.CharField(max_length=300, blank=True)
    private_sealed = models.TextField(blank=True, help_text="an SNMP user's passphrase for privacy")
    senders = models.JSONField(default=list, help_text="addresses and networks that may send; none: any")
    largest = models.PositiveIntegerField(default=1_000_000, help_text="bytes of a message")
    rate = models.PositiveIntegerField(default=500, help_text="messages a second that are taken in the long run")
    note = models.TextField(blank=True, help_text="for whoever looks after it")
    enabled = models.BooleanField(default=True)

    @property
    def secret(self) -> str:
        """The one in use, where sums are made with it or it is shown to others. Raises SealBroken."""
        return secrets.unseal(self.secret_sealed)

    def __str__(self) -> str:
        return self.name


class Stranger(models.Model):
    """Somebody who sends what belongs to no intake: from where, why it is not taken, and how often. The newest are kept."""

    address = models.CharField(max_length=60)
    why = models.CharField(max_length=60)
    count = models.PositiveBigIntegerField()
    first_at = models.BigIntegerField()
    last_at = models.BigIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["address", "why"], name="one_stranger")]

    def __str__(self) -> str:
        return f"{self.address}: {self.why}"


class IntakeCount(models.Model):
    """How often what became of messages to an intake on a day: accepted, or why refused."""

    intake = models.ForeignKey(Intake, on_delete=models.CASCADE, related_name="counts")
    day = models.PositiveIntegerField(help_text="since the epoch")
    outcome = models.CharField(max_length=20)
    count = models.PositiveBigIntegerField()
    last_at = models.BigIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["intake", "day", "outcome"], name="one_count_a_day_and_outcome")]

    def __str__(self) -> str:
        return f"{self.outcome}: {self.count}"


class Decoder(Retirable):
    """What messages of an intake or of a device mean (`core.decoders.document`)."""

    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="decoders")
    intake = models.ForeignKey(Intake, null=True, on_delete=models.CASCADE, related_name="decoders")
    device = models.ForeignKey(Device, null=True, on_delete=models.CASCADE, related_name="decoders")
    name = models.CharField(max_length=120)
    document = models.JSONField()

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class Mib(Retirable):
    """A MIB module that somebody loaded: what it defines gives names to what traps tell by numbers."""

    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="mibs")
    name = models.CharField(max_length=120)
    text = models.TextField()
    changed_at = models.BigIntegerField()
    definitions = models.JSONField(help_text="name, parent, numbers and meanings of each")

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class Unclaimed(models.Model):
    """A message that no decoder recognised, or that names a point we do not know. Kept for a while."""

    inbox = models.BigIntegerField(primary_key=True)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="unclaimed")
    source = models.CharField(max_length=160, help_text="name of the device or intake")
    at = models.BigIntegerField()
    reason = models.TextField()
    raw = models.TextField()
    likeness = models.CharField(max_length=16, blank=True, help_text="the same for messages that are alike")

    class Meta:
        ordering = ["-inbox"]
        indexes = [models.Index(fields=["site", "source", "likeness"])]

    def __str__(self) -> str:
        return self.reason


class Search(models.Model):
    """Many addresses asked with one set of credentials, and what came of each (`sources.searching.Outcome`)."""

    id = models.CharField(primary_key=True, max_length=40, default=new_id)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="searches")
    by = models.CharField(max_length=150)
    began_at = models.BigIntegerField()
    ended_at = models.BigIntegerField(null=True)
    network = models.BooleanField(default=False, help_text="the network itself was asked, too")
    user = models.CharField(max_length=80, blank=True)
    password_sealed = models.TextField(blank=True)
    outcomes = models.JSONField(default=list)

    class Meta:
        ordering = ["-began_at"]

    def __str__(self) -> str:
        return f"{len(self.outcomes)} addresses"

    @property
    def password(self) -> str:
        return secrets.unseal(self.password_sealed)

    def over(self, now: int) -> bool:
        """Whether nothing more comes of it: it has ended, or the process in which it went on has."""
        return self.ended_at is not None or now - self.began_at > LONGEST_SEARCH
