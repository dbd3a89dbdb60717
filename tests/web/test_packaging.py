"""What is installed: everything that pages are made of, what is declared, and a unit that starts what there is."""

import configparser
import re
import subprocess
import sys
import tomllib
from pathlib import Path

import pytest

from dromikon import start
from dromikon.commands import VERBS, dromikon

pytestmark = pytest.mark.timeless
ROOT = Path(__file__).parents[2]
PROJECT = tomllib.loads((ROOT / "pyproject.toml").read_text())


def test_every_file_of_the_package_is_installed_with_it():
    patterns = PROJECT["tool"]["setuptools"]["package-data"]["dromikon"]
    package = ROOT / "dromikon"
    taken = {path for pattern in patterns for path in package.glob(pattern)}
    there = {p for p in package.rglob("*") if p.is_file() and p.suffix not in (".py", ".pyc")}
    assert there - taken == set()
    assert not [p for p in package.rglob("*.py") if not (p.parent / "__init__.py").exists()], (
        "a folder that is no package"
    )


def test_what_is_declared_is_what_is_pinned():
    for file, declared in (
        ("runtime.txt", PROJECT["project"]["dependencies"]),
        (
            "dev.txt",
            [*PROJECT["project"]["dependencies"], *sum(PROJECT["project"]["optional-dependencies"].values(), [])],
        ),
    ):
        pinned = set(re.findall(r"^([a-z0-9-]+)==", (ROOT / "requirements" / file).read_text(), re.M))
        wanted = {re.sub(r"[._]", "-", re.split(r"[~=<>]", name)[0].lower()) for name in declared}
        assert wanted - pinned == set(), file


def test_the_runtime_needs_nothing_of_the_demo_or_the_tests():
    """What is imported by whoever runs a real installation is declared for it."""
    script = (
        "import sys; sys.modules.update(dict.fromkeys(['amqtt', 'aiosmtpd', 'pytest', 'selenium', 'zeep', 'hypothesis']));"
        "import django, os; os.environ['DJANGO_SETTINGS_MODULE'] = 'dromikon.settings'; django.setup();"
        "import dromikon.urls, dromikon.serve, dromikon.engine.main, dromikon.keeping.main, dromikon.intake.app;"
        "import dromikon.commands.running, dromikon.commands.backing, dromikon.commands.checking"
    )
    done = subprocess.run([sys.executable, "-c", script], cwd=ROOT, capture_output=True, text=True)
    assert done.returncode == 0, done.stderr


def test_the_unit_starts_what_there_is_and_gives_it_no_more_than_it_needs():
    unit = configparser.ConfigParser(strict=False, interpolation=None)
    unit.optionxform = str
    unit.read(ROOT / "deploy" / "dromikon.service")
    service = unit["Service"]
    assert service["ExecStart"].split()[0].endswith("/dromikon") and service["ExecStart"].split()[1] in VERBS
    assert service["RestartPreventExitStatus"] == str(start.NO_USE) and int(service["TimeoutStopSec"]) > 10
    wanted = {"NoNewPrivileges": "yes", "ProtectSystem": "strict", "CapabilityBoundingSet": "", "User": "dromikon"}
    assert {name: service[name] for name in wanted} == wanted


def test_every_verb_has_help_and_the_documents_name_those_that_are_shown():
    told = (ROOT / "docs" / "administration.md").read_text()
    for name in VERBS:
        command = dromikon.get_command(None, name)
        assert command.help and (command.hidden or name == "standins" or name in told), name
