"""People: who may log in, at which sites, in which role.

A site's administrator says who belongs to the site and in which role; who a person is, and their password, only while the
person belongs to no site of somebody else. The installation's administrators may do everything.
"""

from collections.abc import Mapping
from typing import Annotated, Any

from django.db import transaction
from django.db.models import QuerySet
from django.http import Http404
from pydantic import Field, field_validator

from dromikon.clock import now_ms
from dromikon.core.erasure import ERASED
from dromikon.core.rules.controls import Choice, Flag, Inner, Pick, Words
from dromikon.core.rules.parts import Part, Ref
from dromikon.core.words import N_, t
from dromikon.daybook.services import record_act
from dromikon.keeping.erasing import erase_person
from dromikon.people.access import Access, Everywhere
from dromikon.people.audit import record
from dromikon.people.models import Membership, Person
from dromikon.people.roles import ROLE_WORDS, May, Role
from dromikon.people.services import email_of, log_out_everywhere, new_password, number_of, set_password, tell_sites
from dromikon.setup.sort import SENT, Row, Saved, Sort, Verb, refuse
from dromikon.setup.trying import try_person
from dromikon.sites.models import Site

ROLES = {r.value: ROLE_WORDS[r] for r in Role}


USERNAME = r"^[A-Za-z0-9][A-Za-z0-9._@+-]{0,149}$"


class PersonDocument(Part):
    """Who somebody is, and how they are reached."""

    username: Annotated[str, Field(pattern=USERNAME), Words(N_("Logs in as"))]
    first_name: Annotated[str, Field(max_length=150), Words(N_("First name"))] = ""
    last_name: Annotated[str, Field(max_length=150), Words(N_("Last name"))] = ""
    number: Annotated[
        str, Field(max_length=30), Words(N_("Telephone"), hint=N_("for text messages, such as +447700900123"))
    ] = ""
    email: Annotated[str, Field(max_length=254), Words(N_("E-mail"))] = ""
    push: Annotated[
        str, Field(max_length=200), Words(N_("Push"), hint=N_("what the gateway for push messages knows them by"))
    ] = ""
    chat: Annotated[
        str, Field(max_length=200), Words(N_("Chat"), hint=N_("what the gateway for chat messages knows them by"))
    ] = ""

    @field_validator("number")
    @classmethod
    def _number(cls, number: str) -> str:
        return number_of(number)

    @field_validator("email")
    @classmethod
    def _email(cls, email: str) -> str:
        return email_of(email)


class MemberDocument(PersonDocument):
    """Somebody at this site."""

    role: Annotated[Role, Choice(N_("Here they are"), words=ROLES)] = Role.OPERATOR
    duty: Annotated[Ref | None, Pick(N_("On duty in"), of="hours", hint=N_("none: always"))] = None
    quiet: Annotated[
        Ref | None, Pick(N_("Not to be disturbed in"), of="hours", hint=N_("but by what is urgent; none: never"))
    ] = None


class RolePart(Part):
    """A role at a site."""

    site: Annotated[Ref, Pick(N_("At"), of="site")]
    role: Annotated[Role, Choice(N_("As"), words=ROLES)] = Role.OPERATOR


class AnyoneDocument(PersonDocument):
    """Somebody who may log in, with all their sites."""

    roles: Annotated[tuple[RolePart, ...], Field(max_length=200), Inner(N_("Sites"))] = ()
    administers: Annotated[bool, Flag(N_("Sets up the whole installation"))] = False


def save_member(access: Access, id: str | None, document: MemberDocument) -> tuple[Person, str]:
    """Somebody of the site: a new person with a password that is answered, shown this once; somebody known elsewhere, who
    belongs to this site too from now on; or a change. Raises Refused, PermissionDenied."""
    access.need(May.SET_UP_PEOPLE)
    known = _member(access, id) if id else _known_by(document.username)
    if id and known == access.person and document.role != Role.ADMINISTRATOR and not access.person.is_superuser:
        raise refuse("role", "You cannot take your own role away. Somebody else can.")
    shown, at = "", now_ms()
    with transaction.atomic():
        if known is None:
            known, shown = _make(access.person, document)
        elif not known.is_active:
            shown = _bring_back(access.person, known)
        if shown or (id and may_change(access, known)):
            _fill(known, document)
            known.save()
        held = {
            "role": document.role,
            "duty": _hours_of(access, document.duty, "duty"),
            "quiet": _hours_of(access, document.quiet, "quiet"),
        }
        Membership.objects.update_or_create(person=known, site=access.site, defaults=held)
        record(
            access.site, access.person, "changed member" if id else "added member", f"person:{known.pk}", at,
            name=known.shown_name, role=document.role.value,
        )  # fmt: skip
        tell_sites(known, at)
    return known, shown


def _hours_of(access: Access, ref: Ref | None, path: str) -> str:
    """The id of Hours of the site, or empty for none. Raises Refused."""
    if ref is not None and not access.site.hours.filter(id=ref.id).exists():
        raise refuse(path, "There are no such hours any more.")
    return ref.id if ref is not None else ""


def remove_member(access: Access, id: str) -> None:
    """Somebody does not belong to the site any more. Who belongs to none cannot log in any more."""
    access.need(May.SET_UP_PEOPLE)
    person, at = _member(access, id), now_ms()
    if person.pk == access.person.pk:
        raise refuse("id", "You cannot take yourself away. Somebody else can.")
    with transaction.atomic():
        person.memberships.filter(site=access.site).delete()
        if not person.memberships.exists() and not person.is_superuser:
            person.is_active = False
            person.save(update_fields=["is_active"])
        log_out_everywhere(access.person, person, say=False)
        record(access.site, access.person, "removed member", f"person:{person.pk}", at, name=person.shown_name)
        record_act(access.site.id, "facts", at)


def may_change(access: Access, person: Person) -> bool:
    """Whether a site's administrator may say who somebody is: nobody of another administrator's."""
    if access.person.is_superuser or access.person.pk == person.pk:
        return True
    mine = Membership.objects.filter(person=access.person, role=Role.ADMINISTRATOR).values("site")
    return not person.is_superuser and not person.memberships.exclude(site__in=mine).exists()


def save_person(who: Everywhere, id: str | None, document: AnyoneDocument) -> tuple[Person, str]:
    """A person with all their sites. Answers a new one's password, shown this once. Raises Refused, PermissionDenied."""
    who.need()
    shown, at = "", now_ms()
    roles = {part.site.id: part.role for part in document.roles}
    sites = Site.objects.filter(id__in=roles, retired_at=None)
    if len(sites) < len(document.roles):
        raise refuse("roles", "A site stands there twice, or is not there any more.")
    with transaction.atomic():
        person = _anyone(id, also_retired=True) if id else None
        if person is None:
            person, shown = _make(who.person, document)
        elif not person.is_active:
            shown = _bring_back(who.person, person)
        if person.is_superuser and not document.administers:
            _check_not_last(person)
        _fill(person, document)
        person.is_superuser = document.administers
        person.save()
        before = set(person.memberships.values_list("site_id", flat=True))
        person.memberships.exclude(site__in=sites).delete()
        for site in sites:
            Membership.objects.update_or_create(person=person, site=site, defaults={"role": roles[site.id]})
        record(
            None,
            who.person,
            "changed person" if id else "added person",
            f"person:{person.pk}",
            at,
            name=person.username,
        )
        for site_id in before | set(roles):
            record_act(site_id, "facts", at)
    return person, shown


def retire_person(who: Everywhere, id: str) -> None:
    """Somebody cannot log in any more, at once; what they did keeps their name."""
    who.need()
    person, at = _anyone(id), now_ms()
    _check_not_last(person)
    with transaction.atomic():
        person.is_active = person.is_superuser = False
        person.save(update_fields=["is_active", "is_superuser"])
        log_out_everywhere(who.person, person, say=False)
        person.tokens.all().delete()
        record(None, who.person, "retired person", f"person:{id}", at, name=person.username)
        tell_sites(person, at)
        person.memberships.all().delete()


def _make(by: Person | None, document: PersonDocument) -> tuple[Person, str]:
    if Person.objects.filter(username__iexact=document.username).exists():
        raise refuse("username", "Somebody logs in by that name already.")
    person, made = Person(username=document.username), new_password()
    _fill(person, document)
    person.set_unusable_password()
    person.save()
    set_password(by, person, made, must_change=True)
    return person, made


def _bring_back(by: Person | None, person: Person) -> str:
    """Somebody who was retired may log in again, with a password that is answered."""
    person.is_active = True
    person.save(update_fields=["is_active"])
    return _give_password(by, person).shown


def _fill(person: Person, document: PersonDocument) -> None:
    if Person.objects.filter(username__iexact=document.username).exclude(pk=person.pk).exists():
        raise refuse("username", "Somebody logs in by that name already.")
    person.username, person.number, person.email = document.username, document.number, document.email
    person.push, person.chat = document.push.strip(), document.chat.strip()
    person.first_name, person.last_name = document.first_name.strip(), document.last_name.strip()


def _check_not_last(person: Person) -> None:
    others = Person.objects.filter(is_superuser=True, is_active=True).exclude(pk=person.pk)
    if person.is_superuser and not others.exists():
        raise refuse("administers", "Nobody else sets up the installation. Make another administrator first.")


def _member(access: Access, id: str) -> Person:
    found = Person.objects.filter(pk=_number(id), memberships__site=access.site).first()
    if found is None:
        raise refuse("id", "That person does not belong to this site any more.")
    return found


def _known_by(username: str) -> Person | None:
    """Who logs in, or once did, by a name; nobody who was erased."""
    return _not_erased().filter(username__iexact=username).first()


def _not_erased() -> QuerySet[Person]:
    return Person.objects.exclude(username__startswith=f"{ERASED}-")


def _anyone(id: str, also_retired: bool = False) -> Person:
    found = _not_erased().filter(pk=_number(id)).first()
    if found is None or not (found.is_active or also_retired):
        raise refuse("id", "That person is not there any more.")
    return found


def _number(id: str) -> int:
    if not id.isdigit() or len(id) > 15:
        raise Http404("There is nobody of that number.")
    return int(id)


def _password_of_member(who: Access, id: str) -> Saved:
    who.need(May.SET_UP_PEOPLE)
    person = _member(who, id)
    if not may_change(who, person):
        raise refuse(
            "id", f"{person.shown_name} belongs to other sites, too: an administrator of the installation can."
        )
    return _give_password(who.person, person)


def _give_password(by: Person | None, person: Person) -> Saved:
    made = new_password()
    set_password(by, person, made, must_change=True)
    return Saved(str(person.pk), made)


def _test_member(who: Access, id: str) -> Saved:
    try_person(who, str(_member(who, id).pk))
    return Saved(id, said=SENT)


def _log_out_member(who: Access, id: str) -> Saved:
    who.need(May.SET_UP_PEOPLE)
    log_out_everywhere(who.person, _member(who, id))
    return Saved(id)


def _password_of_anyone(who: Everywhere, id: str) -> Saved:
    who.need()
    return _give_password(who.person, _anyone(id))


def _log_out_anyone(who: Everywhere, id: str) -> Saved:
    who.need()
    log_out_everywhere(who.person, _anyone(id))
    return Saved(id)


def _erase_anyone(who: Everywhere, id: str) -> Saved:
    who.need()
    person = _anyone(id, also_retired=True)
    _check_not_last(person)
    erase_person(who, person)
    return Saved(id)


_ASKS_ERASE = N_("Name, telephone and mail go everywhere, for good; what they did stays, without a name. Erase?")
_ASKS = N_("They are logged out everywhere, and choose their own at the next log-in. Make a new password?")


class Members(Sort[MemberDocument]):
    name = "people"
    label = N_("People")
    one = N_("Add a person")
    about = N_("Whoever may log in here, and what each may do.")
    icon = "user"
    columns = (N_("role"), N_("logs in as"), N_("reached by"), N_("on duty"), N_("logged in"))
    document = MemberDocument
    may = May.SET_UP_PEOPLE
    verbs = (
        Verb("password", N_("New password"), _password_of_member, _ASKS),
        Verb("log-out", N_("Log out everywhere"), _log_out_member),
        Verb("test", N_("Send a test"), _test_member),
    )

    def rows(self, who: Access) -> list[Row]:
        known = Membership.objects.filter(site=who.site, person__is_active=True).select_related("person")
        hours = dict(who.site.hours.values_list("id", "name"))
        return [self._row(who, m, hours) for m in known.order_by("person__username").prefetch_related("person__visits")]

    def save(self, who: Access, id: str | None, document: MemberDocument) -> Saved:
        person, shown = save_member(who, id, document)
        return Saved(str(person.pk), shown)

    def retire(self, who: Access, id: str) -> None:
        remove_member(who, id)

    def used_by(self, who: Access, id: str) -> list[str]:
        groups = who.site.groups.filter(persons__pk=_number(id), retired_at=None).values_list("name", flat=True)
        return [t("the group {name}", name=name) for name in groups]

    def _row(self, who: Access, membership: Membership, hours: Mapping[str, str]) -> Row:
        p, role = membership.person, Role(membership.role)
        duty, quiet = (Ref(id=h, name=hours.get(h, "")) if h else None for h in (membership.duty, membership.quiet))
        document = MemberDocument(**_known(p), role=role, duty=duty, quiet=quiet)
        verbs = ("password", "log-out") if may_change(who, p) else ("log-out",)
        verbs = (*verbs, "test") if _reached(p) else verbs
        about = (t(ROLE_WORDS[role]), p.username, _reached(p), duty.name if duty else t("always"), _visits(p))
        return Row(str(p.pk), p.shown_name, document, about, verbs=verbs, retirable=p.pk != who.person.pk)


class Everybody(Sort[AnyoneDocument]):
    name = "everybody"
    label = N_("People")
    one = N_("Add a person")
    about = N_("Everybody who may log in, at all sites.")
    icon = "user"
    columns = (N_("sites"), N_("logs in as"), N_("reached by"), N_("logged in"))
    document = AnyoneDocument
    whole = True
    verbs = (
        Verb("password", N_("New password"), _password_of_anyone, _ASKS),
        Verb("log-out", N_("Log out everywhere"), _log_out_anyone),
        Verb("erase", N_("Erase"), _erase_anyone, _ASKS_ERASE),
    )

    def rows(self, who: Everywhere) -> list[Row]:
        # Who was retired stands at the end: saved, they are back; and they can be erased.
        known = _not_erased().order_by("-is_active", "username")
        return [self._row(p) for p in known.prefetch_related("memberships__site", "visits")]

    def save(self, who: Everywhere, id: str | None, document: AnyoneDocument) -> Saved:
        person, shown = save_person(who, id, document)
        return Saved(str(person.pk), shown)

    def retire(self, who: Everywhere, id: str) -> None:
        retire_person(who, id)

    def _row(self, p: Person) -> Row:
        held = [m for m in p.memberships.all() if m.site.retired_at is None]
        roles = tuple(RolePart(site=Ref(id=m.site_id, name=m.site.name), role=Role(m.role)) for m in held)
        document = AnyoneDocument(**_known(p), roles=roles, administers=p.is_superuser)
        sites = ", ".join(m.site.name for m in held)
        about = (sites if p.is_active else t("retired"), p.username, _reached(p), _visits(p))
        verbs = ("password", "log-out", "erase") if p.is_active else ("erase",)
        return Row(str(p.pk), p.shown_name, document, about, verbs=verbs, retirable=p.is_active)


def _known(p: Person) -> dict[str, Any]:
    return {
        "username": p.username, "first_name": p.first_name, "last_name": p.last_name, "number": p.number, "email": p.email,
        "push": p.push, "chat": p.chat,
    }  # fmt: skip


def _reached(p: Person) -> str:
    named = (p.number, p.email, t("push") if p.push else "", t("chat") if p.chat else "")
    return ", ".join(way for way in named if way)


def _visits(p: Person) -> str:
    places = sorted({v.address or "" for v in p.visits.all()})
    return f"{len(p.visits.all())} × {', '.join(places)}" if places else ""
