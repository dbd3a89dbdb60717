"""Verbs on people: passwords, log-ins, and who they are."""

import contextlib
import re
import secrets as random_secrets

from axes.utils import reset
from django.contrib.auth.password_validation import validate_password
from django.contrib.sessions.models import Session
from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.db import transaction

from dromikon.clock import now_ms
from dromikon.core.rules.document import Problem
from dromikon.daybook.services import record_act
from dromikon.people.audit import record
from dromikon.people.models import Mute, Person
from dromikon.refusals import Refused

_E164 = re.compile(r"\+[1-9]\d{6,14}")
_LETTERS = "abcdefghjkmnpqrstuvwxyz23456789"


def number_of(text: str) -> str:
    """A telephone number as it is kept: E.164 (+, country, number), or empty for nowhere. Raises ValueError."""
    number = "".join(c for c in text if c not in " -()")
    if number and not _E164.fullmatch(number):
        raise ValueError("Give a number such as +447700900123: +, country, number.")
    return number


def email_of(text: str) -> str:
    """An e-mail address as it is kept, or empty for none. Raises ValueError."""
    try:
        if text.strip():
            validate_email(text.strip())
    except ValidationError as error:
        raise ValueError("Give an address such as name@example.org.") from error
    return text.strip()


def set_number(person: Person, number: str) -> None:
    """Where a person can be texted. Raises Refused."""
    try:
        number = number_of(number)
    except ValueError as error:
        raise Refused([Problem(path="number", message=str(error))]) from error
    at = now_ms()
    with transaction.atomic():
        person.number = number
        person.save(update_fields=["number"])
        record(None, person, "changed telephone number", f"person:{person.pk}", at)
        tell_sites(person, at)


def mute(person: Person, site: str, rule: str, muted: bool) -> None:
    """A person wants to hear nothing of a rule by mail, text, push and call any more, or wants to again. It counts as far
    as the rule allows."""
    at = now_ms()
    with transaction.atomic():
        if muted:
            Mute.objects.get_or_create(person=person, rule=rule)
        else:
            Mute.objects.filter(person=person, rule=rule).delete()
        record(None, person, "muted rule" if muted else "unmuted rule", f"rule:{rule}", at)
        record_act(site, "facts", at)


def tell_sites(person: Person, at: int) -> None:
    """Who a person is, is a fact at each of their sites. Call inside the transaction of the change."""
    for membership in person.memberships.all():
        record_act(membership.site_id, "facts", at)


def set_password(by: Person | None, person: Person, password: str, *, must_change: bool = False) -> None:
    """Give a person another password. Whoever is logged in as them is logged out, a lock after too many attempts is
    lifted. Raises Refused."""
    try:
        validate_password(password, person)
    except ValidationError as error:
        raise Refused([Problem(path="password", message=" ".join(error.messages))]) from error
    at = now_ms()
    with transaction.atomic():
        person.set_password(password)
        person.must_change = must_change
        person.save(update_fields=["password", "must_change"])
        log_out_everywhere(by, person, say=False)
        record(None, by, "set password", f"person:{person.pk}", at, name=person.username)
    with contextlib.suppress(AttributeError):
        reset(username=person.username)


def new_password() -> str:
    """A password that can be read out: four groups of four (about 79 bits)."""
    return "-".join("".join(random_secrets.choice(_LETTERS) for _ in range(4)) for _ in range(4))


def log_out_everywhere(by: Person | None, person: Person, *, say: bool = True) -> int:
    """End every log-in of a person, at once. How many there were."""
    at = now_ms()
    with transaction.atomic():
        keys = list(person.visits.values_list("session", flat=True))
        Session.objects.filter(session_key__in=keys).delete()
        person.visits.all().delete()
        if say:
            record(None, by, "logged out everywhere", f"person:{person.pk}", at, name=person.username)
    return len(keys)
