"""Loaded before the settings: tests have a data folder and a key of their own, and never touch anybody's; and with
`--at=2027-03-28T00:59:30Z` they run at that instant, from which the clock goes on."""

import os
import shutil
import tempfile
from datetime import datetime
from pathlib import Path

import pytest
import time_machine

#: What is written for tests alone need not reach a disk: whoever is killed here loses nothing that memory keeps.
MEMORY, ENOUGH = Path("/dev/shm"), 6 << 30
if MEMORY.is_dir() and shutil.disk_usage(MEMORY).free > ENOUGH:
    tempfile.tempdir = os.environ["TMPDIR"] = str(MEMORY)

folder = tempfile.mkdtemp(prefix="dromikon-tests-")
os.environ["DROMIKON_DATA"] = folder
os.environ["DROMIKON_KEY_FILE"] = f"{folder}/secret.key"
os.environ["DROMIKON_OUTGOING"] = "localhost, 192.0.2.0/24"
os.environ.pop("DROMIKON_DEMO_TOKEN", None)
os.environ["DROMIKON_DEV"] = "1"


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--at", type=datetime.fromisoformat, help="run all but the browser's tests at this instant")


def pytest_configure(config: pytest.Config) -> None:
    config.add_cleanup(lambda: shutil.rmtree(folder, ignore_errors=True))
    at = config.getoption("--at")
    if at is not None:
        travel = time_machine.travel(at, tick=True)
        travel.start()
        config.add_cleanup(travel.stop)


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    if config.getoption("--at") is not None:
        skip = pytest.mark.skip(reason="knows no clock, or has processes of its own")
        for item in items:
            if any(item.get_closest_marker(name) for name in ("browser", "present", "timeless")):
                item.add_marker(skip)
