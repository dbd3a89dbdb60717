"""Intakes: addresses at which messages arrive, and how their senders prove who they are."""

import base64
import secrets as random_secrets
from ipaddress import ip_network
from typing import Annotated, Literal, cast

from pydantic import Field, field_validator

from dromikon import config, secrets
from dromikon.clock import now_ms
from dromikon.core.modbus.registers import RegisterPart
from dromikon.core.proofs import BY_TRAP, FETCHED, PROOFS
from dromikon.core.proofs.signed import MARK, key_of
from dromikon.core.rules.controls import Choice, Flag, Inner, Number, Secret, When, WordList, Words
from dromikon.core.rules.parts import Part
from dromikon.core.snmp import usm
from dromikon.core.words import N_, t
from dromikon.ids import id_or_new
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.setup.fetched import fill_fetched
from dromikon.setup.sort import Row, Saved, Sort, Verb, change, in_use, refuse
from dromikon.sources.models import Intake

#: For so long after a rotation the secret before counts, too, in ms.
OVERLAP = 24 * 3_600_000
#: The shortest secret that somebody may choose.
SHORTEST = 8

HowProved = Literal[
    "bearer", "address", "basic", "digest", "standard", "signature", "community", "usm", "mqtt", "modbus"
]
BY_USER, BY_SIGNATURE, BY_SNMP_USER = ("basic", "digest", "usm", "mqtt"), ("signature",), ("usm",)
HASHINGS = {"sha1": "SHA-1", "sha224": "SHA-224", "sha256": "SHA-256", "sha384": "SHA-384", "sha512": "SHA-512"}
CIPHERS = {"aes128": "AES-128", "none": N_("not made private")}


class IntakeDocument(Part):
    """Where another system sends its messages. A secret is made and shown once, unless one is typed that the other system
    dictates."""

    name: Annotated[str, Field(min_length=1, max_length=120), Words(N_("Name"), hint=N_("the system that sends"))]
    enabled: Annotated[bool, Flag(N_("Takes messages"))] = True
    proof: Annotated[
        HowProved,
        Choice(N_("Known by"), words={name: PROOFS[name].label for name in PROOFS.names()}),
    ] = "bearer"
    user: Annotated[str, Field(max_length=80), Words(N_("User"), when=When("proof", BY_USER))] = ""
    header: Annotated[
        str,
        Field(max_length=80, pattern=r"^[A-Za-z0-9-]*$"),
        Words(N_("Header of the signature"), when=When("proof", BY_SIGNATURE)),
    ] = "X-Signature"
    prefix: Annotated[
        str,
        Field(max_length=40),
        Words(N_("Word before it"), hint=N_("such as sha256="), when=When("proof", BY_SIGNATURE)),
    ] = ""
    encoding: Annotated[Literal["hex", "base64"], Choice(N_("Written in"), when=When("proof", BY_SIGNATURE))] = "hex"
    address: Annotated[
        str,
        Field(max_length=300),
        Words(
            N_("Address"),
            hint=N_("such as mqtts://broker.example or modbus://192.0.2.7:502"),
            when=When("proof", FETCHED),
        ),
    ] = ""
    topics: Annotated[
        tuple[Annotated[str, Field(min_length=1, max_length=300)], ...],
        Field(max_length=50),
        WordList(N_("Topics"), hint=N_("+ stands for a level, # for all below"), when=When("proof", ("mqtt",))),
    ] = ()
    unit: Annotated[int, Field(ge=0, le=255), Number(N_("Unit"), when=When("proof", ("modbus",)))] = 1
    every: Annotated[
        float, Field(ge=0.1, le=3600), Number(N_("Asked every"), unit="s", when=When("proof", ("modbus",)))
    ] = 2.0
    registers: Annotated[
        tuple[RegisterPart, ...], Field(max_length=500), Inner(N_("What is read"), when=When("proof", ("modbus",)))
    ] = ()
    secret: Annotated[
        str, Field(max_length=200), Secret(N_("Secret"), hint=N_("empty: one is made, and shown once"))
    ] = ""
    hashing: Annotated[usm.Hashing, Choice(N_("Signed with"), words=HASHINGS, when=When("proof", BY_SNMP_USER))] = (
        "sha256"
    )
    cipher: Annotated[usm.Cipher_, Choice(N_("Private by"), words=CIPHERS, when=When("proof", BY_SNMP_USER))] = "aes128"
    private: Annotated[
        str, Field(max_length=200), Secret(N_("Passphrase for privacy"), when=When("proof", BY_SNMP_USER))
    ] = ""
    senders: Annotated[
        tuple[Annotated[str, Field(min_length=1, max_length=60)], ...],
        Field(max_length=50),
        WordList(N_("Only from"), hint=N_("addresses and networks; none: from anywhere")),
    ] = ()
    largest: Annotated[int, Field(ge=1, le=1000), Number(N_("Messages of at most"), unit="kB")] = 1000

    rate: Annotated[int, Field(ge=1, le=100_000), Number(N_("At most"), unit=N_("messages a second"))] = 500
    note: Annotated[
        str, Field(max_length=1000), Words(N_("Note"), hint=N_("who looks after the other system"), lines=2)
    ] = ""

    @field_validator("senders")
    @classmethod
    def _are_addresses(cls, value: tuple[str, ...]) -> tuple[str, ...]:
        for sender in value:
            try:
                ip_network(sender, strict=False)
            except ValueError as error:
                raise ValueError(f"{sender} is no address or network such as 192.0.2.10 or 192.0.2.0/24.") from error
        return value


def save_intake(
    access: Access, id: str | None, document: IntakeDocument, new_id: str | None = None
) -> tuple[Intake, str]:
    """Add an intake, or change one. Answers with a secret that was made, which is not to be had again. Raises Refused."""
    intake = in_use(Intake, access, id, "intake") if id else Intake(site=access.site, id=id_or_new(new_id))
    before = intake.proof
    _check(document, intake)
    intake.name, intake.enabled, intake.proof = document.name.strip(), document.enabled, document.proof
    intake.user, intake.header = document.user.strip(), document.header.strip() or "X-Signature"
    intake.prefix, intake.encoding = document.prefix, document.encoding
    intake.senders, intake.largest = list(document.senders), document.largest * 1000
    intake.hashing, intake.cipher = document.hashing, document.cipher
    intake.rate = document.rate
    if document.private:
        intake.private_sealed = secrets.seal(document.private)
    intake.note = document.note.strip()
    fill_fetched(intake, document)
    ours = document.proof not in FETCHED and not (id and before == intake.proof)
    made = new_secret(intake.proof) if ours and not document.secret else ""
    if document.secret or made:
        _keep(intake, document.secret or made)
    _check_alone(intake)
    with change(access, "changed intake" if id else "added intake", f"intake:{intake.id}", intake.name):
        intake.save(force_insert=not id)
    return intake, made


def _check(document: IntakeDocument, intake: Intake) -> None:
    if document.proof in BY_USER and document.proof != "mqtt" and not document.user.strip():
        raise refuse("user", "Name the user.")
    if document.secret and document.proof not in FETCHED and len(document.secret) < SHORTEST:
        raise refuse("secret", f"A secret has {SHORTEST} letters at least.")
    if document.private and len(document.private) < SHORTEST:
        raise refuse("private", f"A passphrase has {SHORTEST} letters at least.")
    if document.proof == "usm" and document.cipher != "none" and not (document.private or intake.private_sealed):
        raise refuse("private", "Type the passphrase for privacy, as its sender has it.")
    if document.proof == "standard" and document.secret and not document.secret.startswith(MARK):
        raise refuse("secret", f"A secret of this scheme begins with {MARK}.")
    if document.proof == "standard" and document.secret and key_of(document.secret) == document.secret.encode():
        raise refuse("secret", f"Behind {MARK} comes base64.")


def _check_alone(intake: Intake) -> None:
    """A trap says its community or its user alone, which therefore belongs to one intake of the installation."""
    others = Intake.objects.filter(proof=intake.proof, retired_at=None).exclude(pk=intake.pk)
    if intake.proof == "community" and others.filter(token_digest=intake.token_digest).exists():
        raise refuse("secret", "Another intake takes this community already; choose another.")
    if intake.proof == "usm" and others.filter(user=intake.user).exists():
        raise refuse("user", "Another intake takes this user's traps already; choose another name.")


def _keep(intake: Intake, secret: str) -> None:
    """Keep a secret in place of all others."""
    compared = PROOFS[intake.proof].compared
    intake.token_digest = secrets.digest_of_token(secret) if compared else ""
    intake.secret_sealed = "" if compared else secrets.seal(secret)
    intake.before_digest, intake.before_sealed, intake.before_until = "", "", None


def new_secret(proof: str) -> str:
    """A secret of our making, in the form that the way wants."""
    if proof == "standard":
        return MARK + base64.b64encode(random_secrets.token_bytes(24)).decode()
    return f"dri_{random_secrets.token_urlsafe(30)}"


def rotate_secret(access: Access, id: str) -> str:
    """A new secret, shown this once. The one before counts for another day."""
    intake = in_use(Intake, access, id, "intake")
    made = new_secret(intake.proof)
    before = intake.token_digest, intake.secret_sealed
    with change(access, "rotated intake token", f"intake:{intake.id}", intake.name) as at:
        _keep(intake, made)
        (intake.before_digest, intake.before_sealed), intake.before_until = before, at + OVERLAP
        intake.save()
    return made


def end_overlap(access: Access, id: str) -> None:
    """The secret before counts no more, at once."""
    intake = in_use(Intake, access, id, "intake")
    with change(access, "ended old intake token", f"intake:{intake.id}", intake.name):
        intake.before_digest, intake.before_sealed, intake.before_until = "", "", None
        intake.save(update_fields=["before_digest", "before_sealed", "before_until"])


def retire_intake(access: Access, id: str) -> None:
    """Take an intake away: what is sent to it is refused."""
    intake = in_use(Intake, access, id, "intake")
    with change(access, "retired intake", f"intake:{intake.id}", intake.name) as at:
        intake.retired_at, intake.enabled = at, False
        intake.before_digest, intake.before_sealed, intake.secret_sealed, intake.private_sealed = "", "", "", ""
        intake.save(
            update_fields=["retired_at", "enabled", "before_digest", "before_sealed", "secret_sealed", "private_sealed"]
        )


def _rotate(who: Access, id: str) -> Saved:
    return Saved(id, rotate_secret(who, id))


def _end_overlap(who: Access, id: str) -> Saved:
    end_overlap(who, id)
    return Saved(id)


class Intakes(Sort[IntakeDocument]):
    name = "intakes"
    label = N_("Intakes")
    one = N_("Add an intake")
    about = N_(
        "An intake is an address at which another system sends its messages, and a way for it to prove who it is."
    )
    icon = "webhook"
    columns = (N_("address"), N_("known by"), N_("state"))
    document = IntakeDocument
    may = May.EDIT_SOURCES
    verbs = (
        Verb("rotate", N_("New secret"), _rotate, N_("The secret in use counts for another day. Make a new one?")),
        Verb(
            "end-overlap", N_("End the old secret"), _end_overlap, N_("Whoever still sends with it is refused. End it?")
        ),
    )

    def rows(self, who: Access) -> list[Row]:
        return [_row(i) for i in Intake.objects.filter(site=who.site, retired_at=None).order_by("name")]

    def save(self, who: Access, id: str | None, document: IntakeDocument) -> Saved:
        intake, shown = save_intake(who, id, document)
        return Saved(intake.id, shown)

    def retire(self, who: Access, id: str) -> None:
        retire_intake(who, id)


def _row(intake: Intake) -> Row:
    overlaps = bool(intake.before_until and intake.before_until > now_ms())
    state = N_("takes messages") if intake.enabled else N_("switched off")
    if intake.enabled and intake.proof in FETCHED and intake.state == "lost":
        state = N_("does not reach it")
    if overlaps:
        state = N_("two secrets count")
    document = IntakeDocument(
        name=intake.name, enabled=intake.enabled, proof=intake.proof, user=intake.user, header=intake.header,
        prefix=intake.prefix, encoding=intake.encoding, senders=tuple(intake.senders), largest=max(1, intake.largest // 1000),
        note=intake.note, rate=intake.rate, address=intake.address,
        topics=tuple(intake.fetched.get("topics", ())), unit=intake.fetched.get("unit", 1), every=intake.fetched.get("every", 2.0),
        registers=tuple(RegisterPart.model_validate(r) for r in intake.fetched.get("registers", ())),
        hashing=cast(usm.Hashing, intake.hashing), cipher=cast(usm.Cipher_, intake.cipher),
    )  # fmt: skip
    about = (address_of(intake), t(PROOFS[intake.proof].label), t(state))
    return Row(intake.id, intake.name, document, about, verbs=("rotate", "end-overlap") if overlaps else ("rotate",))


def address_of(intake: Intake) -> str:
    """Where it is sent to: at the intake's server, or the port for traps."""
    if intake.proof in FETCHED:
        return intake.address
    if intake.proof not in BY_TRAP:
        return f"http://{config.host()}:{config.intake_port()}/in/{intake.id}"
    return f"{config.host()}:{config.snmp_port()} (UDP)" if config.snmp_port() else t("DROMIKON_SNMP_PORT is not set")
