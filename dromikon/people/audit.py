"""Writing and verifying the audit trail.

Each entry's digest covers the digest of its content and the entry before. Personal data in an entry can be erased
later while `content_digest` stays: the chain still shows whether anything was tampered with.
"""

import hashlib
import json
from collections.abc import Iterator
from typing import Any

from django.db import transaction

from dromikon.clock import now_ms
from dromikon.people.models import Anchor, AuditEntry, Person
from dromikon.sites.models import Site

#: So many entries are forgotten in one transaction.
FORGOTTEN_AT_ONCE = 300
#: How the trail says that its oldest entries are gone.
FORGOT = "forgot audit trail"


class TrailBroken(Exception):
    """An entry does not fit the chain: it was changed afterwards."""


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


def first_break(since: Anchor | None = None) -> int | None:
    """The id of the first entry whose content or chain does not fit, or None. It begins after an anchor, or else with the
    first entry that is still kept."""
    start = since or _start()
    before, last = (start.digest, start.entry) if start else ("", 0)
    for entry in AuditEntry.objects.filter(pk__gt=last).iterator():
        chained = hashlib.sha256(f"{before}{entry.content_digest}".encode()).hexdigest()
        # What a person's erasure took out is not compared; the chain holds the digest of what it was.
        fits = entry.erased or entry.content_digest == content_digest(entry)
        if not fits or entry.digest != chained:
            return entry.pk
        before = entry.digest
    return None


def last_anchor() -> Anchor | None:
    return Anchor.objects.order_by("-entry").first()


def _start() -> Anchor | None:
    """The anchor from which the first entries that are still kept go on; None at the very beginning of the trail. Earlier
    entries may be gone only where the trail itself says that they were forgotten."""
    first = AuditEntry.objects.order_by("id").first()
    if first is None:
        return last_anchor()
    if first.digest == hashlib.sha256(first.content_digest.encode()).hexdigest():
        return None
    forgot = AuditEntry.objects.filter(verb=FORGOT).order_by("-id").first()
    return Anchor.objects.filter(entry=forgot.detail.get("upto")).first() if forgot else None


def drop_anchor(at: int) -> Anchor | None:
    """Keep the end of the trail, having walked what came since the last anchor. None when nothing came. Raises
    TrailBroken."""
    since = last_anchor()
    broken = first_break(since)
    if broken is not None:
        raise TrailBroken(f"the audit trail was changed at entry {broken}")
    end = AuditEntry.objects.order_by("-id").first()
    if end is None or (since is not None and since.entry == end.pk):
        return None
    return Anchor.objects.create(entry=end.pk, digest=end.digest, at=at)


def forget_before(at: int) -> Iterator[int]:
    """Delete what an anchor older than an instant vouches for, in small groups; the trail says so first. Yields how many."""
    upto = Anchor.objects.filter(at__lt=at).order_by("-entry").first()
    if upto is None:
        return
    old = AuditEntry.objects.filter(pk__lte=upto.entry).order_by("id").values_list("id", flat=True)
    if old.exists():
        with transaction.atomic():
            record(None, None, FORGOT, "audit", now_ms(), upto=upto.entry)
    while ids := list(old[:FORGOTTEN_AT_ONCE]):
        AuditEntry.objects.filter(pk__in=ids).delete()
        yield len(ids)
    Anchor.objects.filter(entry__lt=upto.entry).delete()
