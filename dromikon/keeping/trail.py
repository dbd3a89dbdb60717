"""A daily anchor of the audit trail: its end as it was found unbroken, in the database and in the log, which leaves the
machine where logs are gathered."""

import logging

from dromikon.clock import now_ms
from dromikon.people.audit import drop_anchor

log = logging.getLogger("dromikon.audit")


def anchor_every() -> int:
    """Once a day."""
    return 86_400_000


def keep_anchor() -> str:
    """Walk what came since the last anchor and keep its end. Raises TrailBroken."""
    anchor = drop_anchor(now_ms())
    if anchor is None:
        return "nothing new"
    log.info("audit anchor: entry %d has digest %s", anchor.entry, anchor.digest)
    return f"unbroken up to entry {anchor.entry}"
