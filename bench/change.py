"""What a change costs as rules grow: a save until it is live, the journal's growth by it, and the Rulebook's first paint."""

import copy
import os
import time
from collections.abc import Callable, Iterator
from typing import Any

from bench.report import Result, percentile

FEW, MANY = 10, 500
#: The Rulebook is compared with one of so many rules.
SMALL_BOOK = 50
SAVES, PAINTS = 15, 7


def measure() -> Iterator[Result]:
    import django
    from django.conf import settings

    if not settings.configured:
        django.setup()
    from django.db import connection

    connection.creation.create_test_db(verbosity=0, autoclobber=True)
    try:
        yield from _measure()
    finally:
        connection.creation.destroy_test_db(str(settings.DATABASES["default"]["NAME"]), verbosity=0)


def _measure() -> Iterator[Result]:
    from dromikon.clock import now_ms
    from dromikon.demo import load
    from dromikon.web.statics import gather

    # The small site's recorder is on this machine.
    os.environ["DROMIKON_OUTGOING"] = "localhost"
    gather()
    load.configure(now_ms() - 3_600_000, ())
    book = Book()
    book.grow(FEW)
    few, _ = book.saved()
    book.grow(SMALL_BOOK)
    small = book.painted()
    book.grow(MANY)
    many, grown = book.saved()
    large = book.painted()
    times = f"{few * 1000:.0f} ms with {FEW} rules, {many * 1000:.0f} ms with {MANY}"
    yield Result(f"a save until it is live: {times}", many / few, 3.0, "times")
    yield Result(f"journal's growth by a save, {MANY} rules live", grown, 5_000, "bytes")
    times = f"{small * 1000:.0f} ms with {SMALL_BOOK} rules, {large * 1000:.0f} ms with {MANY}"
    yield Result(f"the Rulebook's first paint: {times}", large / small, 2.0, "times")


class Book:
    """A rulebook that grows, with an engine that runs it."""

    def __init__(self) -> None:
        from django.conf import settings
        from django.test import Client

        from dromikon.demo.quillmere import GARDENS
        from dromikon.engine.engine import Engine
        from dromikon.people.access import access
        from dromikon.people.models import Person
        from tests.small_site import RULES

        settings.ALLOWED_HOSTS = ["*"]
        self.access = access(Person.objects.get(username="ines"), GARDENS)
        self.documents = [document for _, site, document in RULES if site == GARDENS]
        self.count = 0
        self.engine = Engine()
        self.engine.load()
        self.client = Client()
        self.client.force_login(self.access.person)

    def grow(self, count: int) -> None:
        """To so many live rules."""
        from dromikon.authoring.services import read_document
        from dromikon.clock import now_ms
        from dromikon.daybook.services import record_act
        from dromikon.rulebook.models import Revision, Rule

        for i in range(self.count, count):
            content = {**copy.deepcopy(self.documents[i % len(self.documents)]), "name": f"Rule {i}"}
            rule = Rule.objects.create(
                id=f"rule-{i}", site=self.access.site, name=content["name"], enabled=True, changed_at=now_ms()
            )
            Revision.objects.create(rule=rule, number=1, document=read_document(content).to_json(), at=now_ms())
        self.count = count
        record_act(self.access.site.id, "facts", now_ms())
        self.work()

    def work(self) -> None:
        while self.engine.turn():
            pass

    def saved(self) -> tuple[float, float]:
        """Seconds from a save until it is live (median), and bytes that the journal grew by each."""
        from django.db import connection

        def size() -> int:
            with connection.cursor() as cursor:
                cursor.execute("SELECT TOTAL(LENGTH(body)) FROM daybook_journal")
                return int(cursor.fetchone()[0])

        before = size()
        times = [_timed(lambda i=i: self._save(i)) for i in range(SAVES)]
        return percentile(times, 0.5), (size() - before) / SAVES

    def _save(self, i: int) -> None:
        from dromikon.authoring.services import save
        from dromikon.rulebook.models import Rule

        rule = Rule.objects.get(pk=f"rule-{i % FEW}")
        save(self.access, {**rule.document, "purpose": f"Purpose {i}"}, rule)
        self.work()

    def painted(self) -> float:
        """Seconds for the Rulebook's page, the best of several."""
        address = f"/s/{self.access.site.id}/rulebook"
        assert self.client.get(address).status_code == 200
        return min(_timed(lambda: self.client.get(address)) for _ in range(PAINTS))


def _timed(act: Callable[[], Any]) -> float:
    began = time.perf_counter()
    act()
    return time.perf_counter() - began
