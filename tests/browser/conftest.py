"""The demo in processes of its own, and a browser for each person."""

import contextlib
import os
import time
from pathlib import Path

import pytest
from selenium.common.exceptions import StaleElementReferenceException
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import WebDriverWait

from tests.browser.settling import Settled
from tests.foreign import LANGUAGE, foreign
from tools.browser import complaints, log_in, open_browser
from tools.demo_process import start_demo
from tools.words import write_language


def pytest_collection_modifyitems(items):
    """What leaves something behind at the site comes last: water that is spilt runs for minutes."""
    items.sort(key=lambda item: item.get_closest_marker("lasting") is not None)


@pytest.fixture(scope="session")
def demo(tmp_path_factory):
    # As people have it: styles and scripts gathered, under names with digests.
    os.environ.pop("DROMIKON_DEV", None)
    languages = tmp_path_factory.mktemp("languages")
    write_language(languages, LANGUAGE, foreign)
    os.environ["DROMIKON_LOCALES"] = str(languages)
    running = start_demo(tmp_path_factory.mktemp("demo") / "data")
    yield running
    assert running.stop() == 0, "Ctrl-C stops everything"
    assert "Traceback" not in (running.folder.parent / "demo.log").read_text(), "it ends without a word too many"
    deadline = time.monotonic() + 10
    while (left := processes_of(str(running.folder))) and time.monotonic() < deadline:
        time.sleep(0.2)
    assert left == [], "nothing is left behind"


def processes_of(folder):
    """The command lines of others whose environment names a folder."""
    found = []
    for process in Path("/proc").glob("[0-9]*"):
        # They come and go while we look.
        with contextlib.suppress(OSError):
            if process.name != str(os.getpid()) and folder in (process / "environ").read_bytes().decode(
                errors="ignore"
            ):
                found.append((process / "cmdline").read_bytes())
    return found


@pytest.fixture(scope="session")
def settled(demo):
    return Settled.of(demo)


@pytest.fixture(autouse=True)
def reset(request):
    """After each test the demo is as it was; tests marked lasting see to it themselves."""
    if "demo" not in request.fixturenames or request.node.get_closest_marker("lasting"):
        yield
        return
    demo, settled = request.getfixturevalue("demo"), request.getfixturevalue("settled")
    yield
    settled.restore(demo)


@pytest.fixture
def person(demo):
    """`person("oskar")`: a browser in which that person has logged in."""
    yield from people(demo)


@pytest.fixture(scope="module")
def lasting_person(demo):
    """The same, for tests that leave nothing behind in their browser and can share it."""
    yield from people(demo)


def people(demo):
    browsers = []

    def enter(user):
        browser = open_browser()
        browsers.append(browser)
        log_in(browser, demo.address, user, demo.password)
        return browser

    yield enter
    for browser in browsers:
        said = [c for c in complaints(browser) if "409" not in c and "422" not in c and "404" not in c]
        browser.quit()
        assert said == [], "no page complains in its console"


def wait(browser, seconds=40):
    return WebDriverWait(browser, seconds, poll_frequency=0.05, ignored_exceptions=[StaleElementReferenceException])


def one(browser, selector, seconds=40):
    """The first element by a CSS selector, when it is there and shown."""

    def shown(b):
        found = b.find_elements(By.CSS_SELECTOR, selector)
        return next((e for e in found if e.is_displayed()), False)

    return wait(browser, seconds).until(shown, f"nothing shows for {selector}")


def button(browser, words, within="body"):
    """The button or link that reads so."""

    def shown(b):
        found = b.find_elements(By.CSS_SELECTOR, f"{within} button, {within} a")
        return next((e for e in found if e.is_displayed() and e.text.strip().endswith(words)), False)

    return wait(browser).until(shown, f"no button reads {words}")
