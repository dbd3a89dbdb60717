"""The demo in processes of its own, and a browser for each person."""

import contextlib
import os
import time
from pathlib import Path

import pytest
from selenium.common.exceptions import StaleElementReferenceException, WebDriverException
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
    languages = tmp_path_factory.mktemp("languages")
    write_language(languages, LANGUAGE, foreign)
    # As people have it: styles and scripts gathered, under names with digests.
    more = {"DROMIKON_DEV": "", "DROMIKON_LOCALES": str(languages)}
    running = start_demo(tmp_path_factory.mktemp("demo") / "data", more=more)
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


@pytest.fixture(scope="session")
def pool():
    """Browsers that nobody uses just now, by who has logged in there: to begin one costs seconds."""
    idle = {}
    yield idle
    for browser in [b for browsers in idle.values() for b in browsers]:
        browser.quit()


@pytest.fixture
def person(demo, pool, request):
    """`person("oskar")`: a browser in which that person has logged in, and that remembers nothing else."""
    yield from people(demo, pool)


@pytest.fixture(scope="module")
def lasting_person(demo):
    """The same, for tests of a module that share one: a browser of their own, in whatever language they set it to."""
    yield from people(demo, None)


def people(demo, pool):
    browsers = []

    def enter(user, fresh=False):
        """`fresh`: a browser of its own, which is thrown away: for tests that change how the browser itself works."""
        fresh = fresh or pool is None
        browser = pool[user].pop() if not fresh and pool.get(user) else open_browser()
        browsers.append((user, browser, fresh))
        browser.get(f"{demo.address}/")
        if "/login" in browser.current_url:
            log_in(browser, demo.address, user, demo.password)
        return browser

    yield enter
    said = []
    for user, browser, fresh in browsers:
        said += [c for c in complaints(browser) if "409" not in c and "422" not in c and "404" not in c]
        if fresh or not forgotten(browser, demo):
            browser.quit()
        else:
            pool.setdefault(user, []).append(browser)
    assert said == [], "no page complains in its console"


#: Who has logged in, and the token of their forms.
REMEMBERED = ("sessionid", "csrftoken")


def forgotten(browser, demo):
    """Have a browser forget all but who has logged in; False where it cannot."""
    try:
        if len(browser.window_handles) != 1:
            return False
        browser.get(f"{demo.address}/healthz")
        browser.execute_script("localStorage.clear(); sessionStorage.clear()")
        for cookie in browser.get_cookies():
            if cookie["name"] not in REMEMBERED:
                browser.delete_cookie(cookie["name"])
        browser.get("about:blank")
        browser.get_log("browser")
    except WebDriverException:
        return False
    return True


class Waiting(WebDriverWait):
    """Asks again, too, when what was looked at has just been replaced, which the browser tells in two ways."""

    def until(self, method, message=""):
        def asked(browser):
            try:
                return method(browser)
            except WebDriverException as error:
                if "does not belong to the document" in (error.msg or ""):
                    return False
                raise

        return super().until(asked, message)


def wait(browser, seconds=40):
    return Waiting(browser, seconds, poll_frequency=0.1, ignored_exceptions=[StaleElementReferenceException])


#: The first element by a CSS selector that is shown, and whose words end so. One question to the browser, not one an element.
SHOWN = """
const [selector, words] = arguments;
const shown = (e) => e.checkVisibility({ visibilityProperty: true }) && e.getClientRects().length > 0;
const reads = (e) => words === null || e.innerText.trim().endsWith(words);
return [...document.querySelectorAll(selector)].find((e) => shown(e) && reads(e)) || false;
"""


def one(browser, selector, seconds=40):
    """The first element by a CSS selector, when it is there and shown."""
    found = lambda b: b.execute_script(SHOWN, selector, None)
    return wait(browser, seconds).until(found, f"nothing shows for {selector}")


def button(browser, words, within="body"):
    """The button or link that reads so."""
    selector = f"{within} button, {within} a"
    return wait(browser).until(lambda b: b.execute_script(SHOWN, selector, words), f"no button reads {words}")
