"""Which contents of lists the journal names: a rehearsal of then compares with them."""

import re
from collections.abc import Iterable

from django.db import connection

#: How the journal's facts name the content of a list.
_NAMED = re.compile(r'"content": ?"([0-9a-f]{64})"')
_FACTS = "SELECT body FROM daybook_journal WHERE site = %s AND NOT (type = 'event') AND type = 'facts' AND seq > %s"


def named(sites: Iterable[str], after: int = 0) -> set[str]:
    """Digests of the contents that the facts of sites name, beyond an entry of the journal."""
    found: set[str] = set()
    with connection.cursor() as cursor:
        for site in sites:
            cursor.execute(_FACTS, [site, after])
            for (body,) in cursor.fetchall():
                found.update(_NAMED.findall(body or ""))
    return found
