"""The backend that the settings name."""

import contextlib
import time

from django.db.backends.sqlite3 import base

from dromikon.database import doorbell
from dromikon.database.waits import WAITS


class DatabaseWrapper(base.DatabaseWrapper):
    """SQLite as Django has it; beginning a transaction rings the doorbell while it waits for the writer."""

    def _start_transaction_under_autocommit(self) -> None:
        began = time.perf_counter()
        with contextlib.ExitStack() as waiting:
            # Without a bell one waits all the same.
            with contextlib.suppress(OSError):
                waiting.enter_context(doorbell.ring())
            super()._start_transaction_under_autocommit()  # type: ignore[misc]
        WAITS.note(time.perf_counter() - began)
