"""Writing and verifying the audit trail.

Each entry's digest covers the digest of its content and the entry before. Personal data in an entry can be erased
later while `content_digest` stays: the chain still shows whether anything was tampered with.
"""

import hashlib
import json
from typing import Any

from dromikon.people.models import AuditEntry, Person
from dromikon.sites.models import Site


def record(site: Site | None, person: Person | None, verb: str, subject: str, at: int, **detail: Any) -> AuditEntry:
    """Append an entry. Call inside the transaction of the change it tells of."""
    before = AuditEntry.objects.order_by("-id").values_list("digest", flat=True).first() or ""
    entry = AuditEntry(
        at=at,
        site=site,
        person=person,
        name=person.shown_name if person else "Dromikon",
        verb=verb,
        subject=subject,
        detail=detail,
    )
    entry.content_digest = content_digest(entry)
    entry.digest = hashlib.sha256(f"{before}{entry.content_digest}".encode()).hexdigest()
    entry.save(force_insert=True)
    return entry


def content_digest(entry: AuditEntry) -> str:
    """SHA-256 of an entry's content as canonical JSON."""
    content = [entry.at, entry.site_id, entry.person_id, entry.name, entry.verb, entry.subject, entry.detail]
    return hashlib.sha256(json.dumps(content, sort_keys=True, separators=(",", ":")).encode()).hexdigest()


def first_break() -> int | None:
    """The id of the first entry whose content or chain does not fit, or None."""
    before = ""
    for entry in AuditEntry.objects.iterator():
        chained = hashlib.sha256(f"{before}{entry.content_digest}".encode()).hexdigest()
        if entry.content_digest != content_digest(entry) or entry.digest != chained:
            return entry.pk
        before = entry.digest
    return None
