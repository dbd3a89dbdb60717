"""Destinations: what is outside and steps send to, with the passwords and tokens that it wants."""

from typing import Annotated, Any, Literal

from pydantic import Field, field_validator, model_validator

from dromikon.core.reading import typed_address
from dromikon.core.rules.controls import Choice, Flag, Number, Secret, When, Words
from dromikon.core.rules.parts import Part
from dromikon.core.words import N_, t
from dromikon.ids import id_or_new
from dromikon.people.access import Access
from dromikon.setup.naming import rules_that_name
from dromikon.setup.sort import SENT, Row, Saved, Sort, Verb, change, in_use, refuse
from dromikon.setup.trying import try_destination
from dromikon.sites.models import Destination

Kind = Literal["chat", "snmp", "login", "folder", "sftp"]
KINDS: dict[str, str] = {
    "chat": N_("a chat room"), "snmp": N_("a manager of SNMP"), "login": N_("a system with a log-in, for HTTP calls"),
    "folder": N_("a folder here, for clips"), "sftp": N_("a folder elsewhere, for clips (SFTP)"),
}  # fmt: skip
Scheme = Literal["basic", "digest", "bearer", "header"]
SCHEMES = {"basic": N_("name and password, basic"), "digest": N_("name and password, digest"), "bearer": N_("a bearer token"), "header": N_("a header of its own")}  # fmt: skip
CHAT, SNMP, LOGIN, SFTP = ("chat",), ("snmp",), ("login",), ("sftp",)
#: Fields that are sealed, by what they are called among a destination's secrets.
SECRETS = ("address", "community", "password", "privacy")


class DestinationDocument(Part):
    """Something outside that steps send to."""

    name: Annotated[str, Field(min_length=1, max_length=120), Words(N_("Name"))]
    sort: Annotated[Kind, Choice(N_("What it is"), words=KINDS)]
    address: Annotated[
        str, Field(max_length=500),
        Secret(N_("Incoming webhook"), hint=N_("its address, which is all that is needed to write there"), when=When("sort", CHAT)),
    ] = ""  # fmt: skip
    body: Annotated[
        str, Field(max_length=2000),
        Words(N_("Body"), lines=2, hint=N_("JSON that names {text}; empty: a plain one"), when=When("sort", CHAT)),
    ] = ""  # fmt: skip
    url: Annotated[
        str, Field(max_length=500),
        Words(N_("Address"), hint=N_("calls that begin so carry the log-in"), when=When("sort", LOGIN)),
    ] = ""  # fmt: skip
    scheme: Annotated[Scheme, Choice(N_("It wants"), words=SCHEMES, when=When("sort", LOGIN))] = "basic"
    header: Annotated[str, Field(max_length=80), Words(N_("Header"), when=When("scheme", ("header",)))] = ""
    host: Annotated[str, Field(max_length=253), Words(N_("Host"), when=When("sort", (*SNMP, *SFTP)))] = ""
    port: Annotated[
        int, Field(ge=0, le=65_535), Number(N_("Port"), hint=N_("0: the usual one"), when=When("sort", (*SNMP, *SFTP)))
    ] = 0
    version: Annotated[
        Literal["v2c", "v3"], Choice(N_("Version"), words={"v2c": "SNMP v2c", "v3": "SNMP v3"}, when=When("sort", SNMP))
    ] = "v2c"
    community: Annotated[str, Field(max_length=80), Secret(N_("Community"), when=When("version", ("v2c",)))] = ""
    user: Annotated[
        str,
        Field(max_length=80),
        Words(N_("User"), hint=N_("not for SNMP v2c"), when=When("sort", (*SNMP, *LOGIN, *SFTP))),
    ] = ""
    hashing: Annotated[
        Literal["sha1", "sha256", "sha512"], Choice(N_("Signed with"), when=When("version", ("v3",)))
    ] = "sha256"
    password: Annotated[
        str, Field(max_length=500), Secret(N_("Password or token"), when=When("sort", (*SNMP, *LOGIN, *SFTP)))
    ] = ""
    privacy: Annotated[
        str,
        Field(max_length=500),
        Secret(N_("Passphrase for privacy"), hint=N_("AES-128"), when=When("version", ("v3",))),
    ] = ""
    inform: Annotated[bool, Flag(N_("It confirms"), words=(N_("informs"), N_("traps")), when=When("sort", SNMP))] = True
    host_key: Annotated[
        str, Field(max_length=1000),
        Words(N_("Its key"), hint=N_("as ssh-keyscan tells it: ssh-ed25519 AAAA…"), when=When("sort", SFTP)),
    ] = ""  # fmt: skip
    folder: Annotated[str, Field(max_length=200), Words(N_("Folder"), when=When("sort", ("folder", "sftp")))] = ""

    days: Annotated[
        int,
        Field(ge=0, le=3650),
        Number(N_("Clips go after"), unit=N_("days"), hint=N_("0: never"), when=When("sort", ("folder",))),
    ] = 0

    @field_validator("address", "url")
    @classmethod
    def _web(cls, where: str) -> str:
        return typed_address(where, "An http or https address without a name or password in it.")

    @field_validator("folder")
    @classmethod
    def _folder(cls, folder: str) -> str:
        if any(part in ("..", "~") for part in folder.split("/")) or "\0" in folder:
            raise ValueError("A folder below the one that is set up for it, without ..")
        return folder.strip().rstrip("/")

    @model_validator(mode="after")
    def _whole(self) -> "DestinationDocument":
        wanted = {"login": ("url",), "snmp": ("host",), "sftp": ("host", "user", "host_key"), "folder": ("folder",)}
        for name in wanted.get(self.sort, ()):
            if not getattr(self, name):
                raise ValueError(t("{field} is needed.", field=name.replace("_", " ").capitalize()))
        if self.sort == "snmp" and self.version == "v3" and not self.user:
            raise ValueError("SNMP v3 wants a user.")
        if self.sort == "login" and self.scheme == "header" and not self.header:
            raise ValueError("Name the header.")
        return self


#: A secret goes with where it is sent: elsewhere it must be typed again.
WHERE = ("sort", "url", "host", "port")


def save_destination(
    access: Access, id: str | None, document: DestinationDocument, new_id: str | None = None
) -> Destination:
    """Add a destination, or change one. Secrets that are not typed stay, unless it is somewhere else. Raises Refused."""
    kept = in_use(Destination, access, id, "destination") if id else Destination(site=access.site, id=id_or_new(new_id))
    settings = document.model_dump(mode="json", exclude={"name", *SECRETS}, exclude_defaults=True)
    same = id is not None and all(kept.settings.get(w) == settings.get(w) for w in WHERE)
    known = kept.secrets if id is not None and same else {}
    typed = {name: getattr(document, name) for name in SECRETS if getattr(document, name)}
    known |= typed
    _check_secrets(document, known)
    kept.name, kept.sort, kept.settings = document.name.strip(), document.sort, settings
    kept.seal(known)
    with change(access, "changed destination" if id else "added destination", f"destination:{kept.id}", kept.name):
        kept.save(force_insert=not id)
    return kept


def _check_secrets(document: DestinationDocument, known: dict[str, str]) -> None:
    wanted = {"chat": "address", "login": "password", "sftp": "password"}.get(document.sort)
    if document.sort == "snmp":
        wanted = "community" if document.version == "v2c" else "password"
    if wanted and not known.get(wanted):
        raise refuse(wanted, "This is needed; it is kept sealed and never shown again.")
    if document.sort == "snmp" and document.version == "v3":
        for name in ("password", "privacy"):
            if known.get(name) and len(known[name]) < 8:
                raise refuse(name, "A passphrase has eight characters at least (RFC 3414).")


def retire_destination(access: Access, id: str) -> None:
    """Take a destination away: steps that name it fail, and a check says so."""
    found = in_use(Destination, access, id, "destination")
    with change(access, "retired destination", f"destination:{found.id}", found.name) as at:
        found.retired_at = at
        found.secrets_sealed = ""
        found.save(update_fields=["retired_at", "secrets_sealed"])


def _test(access: Access, id: str) -> Saved:
    try_destination(access, id)
    return Saved(id, said=SENT)


class Destinations(Sort[DestinationDocument]):
    name = "destinations"
    label = N_("Destinations")
    one = N_("Add a destination")
    about = N_(
        "What is outside and steps send to: a chat room, a manager of SNMP, a system with a log-in, a folder for clips."
    )
    icon = "world-upload"
    columns = (N_("what it is"), N_("where"))
    document = DestinationDocument
    verbs = (Verb("test", N_("Send a test"), _test),)

    def rows(self, who: Access) -> list[Row]:
        return [_row(d) for d in Destination.objects.filter(site=who.site, retired_at=None)]

    def save(self, who: Access, id: str | None, document: DestinationDocument) -> Saved:
        return Saved(save_destination(who, id, document).id)

    def retire(self, who: Access, id: str) -> None:
        retire_destination(who, id)

    def used_by(self, who: Access, id: str) -> list[str]:
        return rules_that_name(who.site, id)


def _row(found: Destination) -> Row:
    settings: dict[str, Any] = {**found.settings, "sort": found.sort}
    document = DestinationDocument.model_validate({"name": found.name, **settings})
    where = document.url or document.host or document.folder
    return Row(found.id, found.name, document, (t(KINDS[found.sort]), where), verbs=("test",))
