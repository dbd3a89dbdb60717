"""Verbs on people."""

import secrets as random_secrets

from dromikon.clock import now_ms
from dromikon.people.models import ApiToken, Person
from dromikon.secrets import digest_of_token


def make_token(person: Person, name: str, token: str | None = None) -> str:
    """Give a person an API token; it is shown once, and only its digest is kept."""
    made = token or f"dro_{random_secrets.token_urlsafe(30)}"
    ApiToken.objects.update_or_create(
        digest=digest_of_token(made), defaults={"person": person, "name": name, "created_at": now_ms()}
    )
    return made


def person_of_token(token: str) -> Person | None:
    """Whose token it is."""
    found = ApiToken.objects.select_related("person").filter(digest=digest_of_token(token)).first()
    return found.person if found and found.person.is_active else None
