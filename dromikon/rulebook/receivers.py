"""Verbs on webhook receivers: each address has a secret of its own, shown once, rotated with overlap.

Secrets are in the form of the Standard Webhooks scheme (``whsec_`` and Base64).
"""

import base64
import secrets as random_secrets
from dataclasses import dataclass

from django.db import transaction

from dromikon import secrets
from dromikon.clock import now_ms
from dromikon.people.access import Access
from dromikon.people.audit import record
from dromikon.people.roles import May
from dromikon.rulebook.models import Receiver, Rule
from dromikon.sites.models import Site

#: For so long after a rotation messages carry signatures with both secrets, in ms.
OVERLAP = 24 * 3_600_000


@dataclass(frozen=True, slots=True)
class Known:
    """An address that rules of a site call, and how its secret stands. Times are None where nothing has happened."""

    address: str
    rules: tuple[str, ...]
    made_at: int | None
    shown: bool
    overlap_until: int | None


def receivers_of(site: Site) -> list[Known]:
    """Every address that webhooks of the site go to, also those whose rules are gone."""
    rules: dict[str, list[str]] = {}
    for rule in Rule.objects.filter(site=site, deleted=False):
        for step in rule.document.get("response", []):
            if step.get("do") == "webhook":
                rules.setdefault(step["url"], []).append(rule.name)
    rows = {r.address: r for r in Receiver.objects.filter(site=site)}
    found = []
    for address in sorted({*rules, *rows}):
        row, names = rows.get(address), tuple(dict.fromkeys(rules.get(address, ())))
        until = row.before_until if row and row.before_until and row.before_until > now_ms() else None
        found.append(Known(address, names, row.made_at if row else None, bool(row and row.shown), until))
    return found


def signing_secrets(site_id: str, address: str) -> list[str]:
    """The secrets that a message to an address is signed with now; the first time one is made."""
    row = Receiver.objects.filter(site_id=site_id, address=address).first() or _make(site_id, address)
    found = [secrets.unseal(row.secret_sealed)]
    if row.before_until is not None and row.before_until > now_ms():
        found.append(secrets.unseal(row.before_sealed))
    return found


def show_secret(access: Access, address: str) -> str | None:
    """An address's secret, once; None when it was shown before: then only a new one can be had."""
    access.need(May.EDIT_RULES)
    with transaction.atomic():
        row = Receiver.objects.filter(site=access.site, address=address).first() or _make(access.site.id, address)
        if row.shown:
            return None
        row.shown = True
        row.save(update_fields=["shown"])
        record(access.site, access.person, "saw webhook secret", f"receiver:{row.pk}", now_ms(), address=address)
    return secrets.unseal(row.secret_sealed)


def rotate_secret(access: Access, address: str) -> str:
    """A new secret for an address, shown this once. For a day messages are signed with the one before, too."""
    access.need(May.EDIT_RULES)
    at, made = now_ms(), _new_secret()
    with transaction.atomic():
        row = Receiver.objects.filter(site=access.site, address=address).first() or _make(access.site.id, address)
        row.before_sealed, row.before_until = row.secret_sealed, at + OVERLAP
        row.secret_sealed, row.made_at, row.shown = secrets.seal(made), at, True
        row.save()
        record(access.site, access.person, "rotated webhook secret", f"receiver:{row.pk}", at, address=address)
    return made


def _make(site_id: str, address: str) -> Receiver:
    made, _ = Receiver.objects.get_or_create(
        site_id=site_id, address=address, defaults={"secret_sealed": secrets.seal(_new_secret()), "made_at": now_ms()}
    )
    return made


def _new_secret() -> str:
    return f"whsec_{base64.b64encode(random_secrets.token_bytes(32)).decode()}"
