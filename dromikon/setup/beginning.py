"""The beginning of an installation: its first administrator, customer, site and areas, made in one go by whoever has the
code that the console printed."""

import hashlib
import hmac
import os
import secrets as random_secrets
from typing import Annotated

from django.db import transaction
from pydantic import Field

from dromikon import config
from dromikon.core.rules.parts import Part, Ref
from dromikon.core.words import N_, t
from dromikon.people.access import Everywhere, access
from dromikon.people.models import Person
from dromikon.people.roles import Role
from dromikon.people.services import set_password
from dromikon.setup.areas import AreaDocument, save_area
from dromikon.setup.groups import GroupDocument, save_group
from dromikon.setup.people import USERNAME, AnyoneDocument, save_person
from dromikon.setup.place import SiteDocument
from dromikon.setup.sites import CustomerDocument, NewSiteDocument, save_customer, save_site
from dromikon.setup.sort import refuse
from dromikon.sites.models import Site

_FILE = "beginning.code"
_LETTERS = "abcdefghjkmnpqrstuvwxyz23456789"
USUAL_MODES = ("open", "closed")
#: An alarm needs somebody to go to: the first group is there from the beginning.
ON_DUTY = N_("On duty")


class Beginning(Part):
    """What the first page asks for."""

    code: str = Field(min_length=1, max_length=60)
    username: str = Field(pattern=USERNAME)
    first_name: str = Field(default="", max_length=150)
    last_name: str = Field(default="", max_length=150)
    password: str = Field(min_length=1, max_length=200)
    customer: str = Field(min_length=1, max_length=120)
    site: SiteDocument
    areas: tuple[Annotated[str, Field(min_length=1, max_length=120)], ...] = Field(default=(), max_length=100)


class BegunAlready(Exception):
    """Somebody can log in: there is nothing to begin any more."""


def is_empty() -> bool:
    """Whether nobody can log in yet."""
    return not Person.objects.exists()


def code_for_beginning() -> str:
    """A new code for the console to print; the one before counts no more. Empty once somebody can log in."""
    place = config.data() / _FILE
    if not is_empty():
        place.unlink(missing_ok=True)
        return ""
    # About 59 bits: nobody guesses it over the network, so that wrong ones need not be counted.
    code = "-".join("".join(random_secrets.choice(_LETTERS) for _ in range(4)) for _ in range(3))
    handle = os.open(place, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(handle, "w") as file:
        file.write(_digest(code))
    return code


def code_fits(code: str) -> bool:
    """Whether it is the code that the console printed last. Capitals and gaps do not count."""
    try:
        kept = (config.data() / _FILE).read_text()
    except FileNotFoundError:
        return False
    return hmac.compare_digest(kept, _digest(code))


def _digest(code: str) -> str:
    plain = "".join(c for c in code.lower() if c.isalnum())
    return hashlib.sha256(f"dromikon/beginning/{plain}".encode()).hexdigest()


def begin(content: Beginning) -> tuple[Person, Site]:
    """Make the administrator, the customer, the site and its areas: all of it or nothing. Raises BegunAlready, Refused."""
    if not code_fits(content.code):
        raise refuse("code", "That is not the code that the console printed when Dromikon was last started.")
    with transaction.atomic():
        if not is_empty():
            raise BegunAlready
        person = _administrator(content)
        who = Everywhere(person)
        customer = save_customer(who, None, CustomerDocument(name=content.customer))
        ref = Ref(id=customer.id, name=customer.name)
        site = save_site(who, None, NewSiteDocument(customer=ref, **content.site.model_dump()))
        here = access(person, site.id)
        for place, name in enumerate(content.areas):
            save_area(here, None, AreaDocument(name=name, order=place))
        save_group(
            here, None, GroupDocument(name=t(ON_DUTY), roles=(Role.OPERATOR, Role.DUTY_MANAGER, Role.ADMINISTRATOR))
        )
    (config.data() / _FILE).unlink(missing_ok=True)
    return person, site


def _administrator(content: Beginning) -> Person:
    document = AnyoneDocument(
        username=content.username, first_name=content.first_name, last_name=content.last_name, administers=True
    )
    person, _ = save_person(Everywhere(None), None, document)
    set_password(None, person, content.password)
    return person
