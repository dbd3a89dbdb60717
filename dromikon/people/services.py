"""Verbs on people."""

import re

from django.db import transaction

from dromikon.clock import now_ms
from dromikon.core.rules.document import Problem
from dromikon.daybook.services import record_act
from dromikon.people.audit import record
from dromikon.people.models import Person
from dromikon.refusals import Refused

_E164 = re.compile(r"\+[1-9]\d{6,14}")


def set_number(person: Person, number: str) -> None:
    """Where a person can be texted: E.164 (+, country, number), or empty for nowhere. Raises Refused."""
    number = "".join(c for c in number if c not in " -()")
    if number and not _E164.fullmatch(number):
        raise Refused([Problem(path="number", message="Give a number such as +447700900123: +, country, number.")])
    at = now_ms()
    with transaction.atomic():
        person.number = number
        person.save(update_fields=["number"])
        record(None, person, "changed telephone number", f"person:{person.pk}", at)
        for membership in person.memberships.all():
            record_act(membership.site_id, "facts", at)
