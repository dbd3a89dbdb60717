"""The doorbell: who waits for the writer is heard by the engine, in another process too."""

import subprocess
import sys
import threading
import time

import pytest
from django.db import connection, transaction

from dromikon import config
from dromikon.database import doorbell
from dromikon.engine import main


def test_somebody_who_rings_is_heard_until_they_are_in_or_dead(monkeypatch, tmp_path):
    monkeypatch.setattr(config, "data", lambda: tmp_path)
    assert not doorbell.heard()
    with doorbell.ring(), doorbell.ring():
        assert doorbell.heard()
    assert not doorbell.heard()
    code = f"from pathlib import Path; from dromikon import config; config.data = lambda: Path({str(tmp_path)!r}); from dromikon.database import doorbell; import time; c = doorbell.ring(); c.__enter__(); print(1, flush=True); time.sleep(60)"
    other = subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE)
    other.stdout.readline()
    assert doorbell.heard()
    other.kill()
    other.wait(10)
    assert not doorbell.heard()


@pytest.mark.django_db(transaction=True)
def test_beginning_a_transaction_rings_while_the_writer_is_held(garden):
    inside = threading.Event()

    def click():
        with transaction.atomic():
            inside.set()
        connection.close()

    with transaction.atomic():
        assert not doorbell.heard(), "who has it does not ring"
        clicking = threading.Thread(target=click)
        clicking.start()
        deadline = time.monotonic() + 10
        while not doorbell.heard():
            assert time.monotonic() < deadline
            time.sleep(0.005)
        assert main.pause_after(0.03) == 0.03 and not inside.is_set()
    clicking.join(10)
    assert inside.is_set() and main.pause_after(0.03) == main.GLIMPSE
    with doorbell.ring():
        assert main.pause_after(0.001) == main.BREATH
