"""Verbs on API tokens. A token is shown once when it is made; only its digest is kept."""

import contextlib
import secrets as random_secrets

from django.db import OperationalError, transaction

from dromikon.clock import now_ms
from dromikon.core.rules.document import Problem
from dromikon.people.audit import record
from dromikon.people.models import ApiToken, Person
from dromikon.refusals import Refused
from dromikon.secrets import digest_of_token

DAY = 86_400_000
MOST_TOKENS, LONGEST_DAYS = 50, 3_650
#: The last use is noted to the minute, so that a busy token does not cost a write for each call.
NOTED_EVERY = 60_000


def make_token(person: Person, name: str, *, scope: str = "act", days: int | None = 90) -> tuple[ApiToken, str]:
    """Give a person an API token that ends after some days (None: never). Returns it with its text, which is not to be had
    again. Raises Refused."""
    problems = []
    name = name.strip()
    if not name or len(name) > 80:
        problems.append(
            Problem(path="name", message="Name it after the program that will use it, in at most 80 characters.")
        )
    if scope not in ApiToken.Scope.values:
        problems.append(Problem(path="scope", message="A token may read, or act."))
    if days is not None and not 1 <= days <= LONGEST_DAYS:
        problems.append(Problem(path="days", message=f"Between 1 and {LONGEST_DAYS} days, or without an end."))
    if not problems and person.tokens.count() >= MOST_TOKENS:
        problems.append(Problem(path="name", message=f"You have {MOST_TOKENS} tokens; revoke one that is not used."))
    if problems:
        raise Refused(problems)
    return keep_token(person, name, f"dro_{random_secrets.token_urlsafe(30)}", scope=scope, days=days)


def keep_token(
    person: Person, name: str, text: str, *, scope: str = "act", days: int | None = None
) -> tuple[ApiToken, str]:
    """Keep a token whose text is known already."""
    at = now_ms()
    with transaction.atomic():
        made = ApiToken.objects.create(
            person=person, name=name, scope=scope, beginning=text[:8], digest=digest_of_token(text), created_at=at,
            expires_at=at + days * DAY if days is not None else None,
        )  # fmt: skip
        record(None, person, "made token", f"token:{made.pk}", at, name=name, scope=scope)
    return made, text


def revoke_token(person: Person, token_id: int) -> bool:
    """Take one of the person's tokens back, at once. Whether there was one."""
    at = now_ms()
    with transaction.atomic():
        known = person.tokens.filter(pk=token_id).first()
        if known is None:
            return False
        record(None, person, "revoked token", f"token:{known.pk}", at, name=known.name)
        known.delete()
    return True


def token_of(text: str) -> ApiToken | None:
    """The token with this text, while it counts."""
    now = now_ms()
    found = ApiToken.objects.select_related("person").filter(digest=digest_of_token(text)).first()
    if found is None or not found.person.is_active or (found.expires_at is not None and found.expires_at <= now):
        return None
    if found.last_used_at is None or now - found.last_used_at >= NOTED_EVERY:
        # A note, no more: where it cannot be written just now, the call itself says so if it needs to write.
        with contextlib.suppress(OperationalError):
            ApiToken.objects.filter(pk=found.pk).update(last_used_at=now)
    return found
