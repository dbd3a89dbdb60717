"""axe-core finds no serious violation on any main view, and none of its colours are too weak in either theme."""

import time
from pathlib import Path

import pytest
from selenium.webdriver.common.by import By

from tests.browser.conftest import one, wait
from tools.browser import set_theme

pytestmark = [pytest.mark.browser, pytest.mark.slow]
AXE = (Path(__file__).parent / "vendor" / "axe.min.js").read_text()
G = "/s/quillmere-gardens"
VIEWS = (
    f"{G}/desk",
    f"{G}/daybook",
    f"{G}/daybook/shift",
    f"{G}/desk/quality",
    f"{G}/rulebook",
    f"{G}/rulebook/jetty-closed",
    f"{G}/rulebook/new",
    f"{G}/rulebook/matrix",
    f"{G}/lists/garden-staff",
    f"{G}/lists/staff-plates",
    f"{G}/hours/garden-hours",
    f"{G}/hours/new",
    f"{G}/archive",
    f"{G}/records",
    f"{G}/sources",
    f"{G}/sources/device/cam-jetty",
    f"{G}/sources/device/cam-jetty/detectors",
    f"{G}/sources/scene/jetty?detector=jetty-deck",
    f"{G}/sources/siting/gate",
    f"{G}/counts/visitors",
    f"{G}/who",
    f"{G}/who/attendance",
    f"{G}/who/by-picture",
    f"{G}/sources/device/cam-jetty/session",
    f"{G}/sources/plan",
    f"{G}/sources/find",
    f"{G}/sources/intake/kiosk",
    f"{G}/sources/intake/kiosk/teach",
    f"{G}/hours",
    f"{G}/receivers",
    f"{G}/deliveries",
    f"{G}/rulebook/new?from=water-leak",
    "/tokens",
    "/kit",
    "/s/quillmere-nursery/sources",
)


#: Those of an administrator, with a sheet open where there is one.
ADMINISTRATORS = (
    f"{G}/setup/points?open=gate",
    f"{G}/setup/displays?open=lodge-wall",
    f"{G}/setup/sounds",
    f"{G}/setup/recognisers",
    f"{G}/setup/points?open=lake-patrol",
    f"{G}/setup/hours?open=garden-hours",
    f"{G}/setup/destinations?open=lodge-watch",
    "/setup/gateways",
    "/setup/everybody",
    "/setup/keeping",
    "/health",
)


RUN = """
const [rules, done] = arguments, only = rules.length ? {runOnly: {type: "rule", values: rules}} : {};
axe.run(document, {resultTypes: ["violations"], ...only})
  .then(done, (e) => done({violations: [{impact: "critical", id: String(e), nodes: []}]}));
"""


#: By night only colours are others.
THEMES = (("day", ()), ("night", ("color-contrast",)))


def test_no_serious_violation(demo, person):
    ines, ada = person("ines", fresh=True), person("ada", fresh=True)
    assert look_at(demo, ines, VIEWS) + look_at(demo, ada, ADMINISTRATORS) + look_at_a_trace(demo, ines) == []


def look_at(demo, browser, views):
    found = []
    set_theme(browser, "day")
    for view in views:
        browser.get(demo.address + view)
        one(browser, "main h1, main input")
        wait(browser).until(lambda b: b.execute_script("return document.readyState === 'complete'"))
        found += [f"{view} by {v}" for v in by_day_and_night(browser)]
    return found


def look_at_a_trace(demo, browser):
    browser.get(f"{demo.address}{G}/daybook")
    browser.find_element(By.CSS_SELECTOR, "[data-recent] a").click()
    one(browser, ".drawer h2")
    return [f"trace by {v}" for v in by_day_and_night(browser)]


def by_day_and_night(browser):
    found = []
    for theme, rules in THEMES:
        browser.execute_script("document.documentElement.dataset.theme = arguments[0]", theme)
        found += [f"{theme}: {v}" for v in violations(browser, rules)]
    return found


def violations(browser, rules):
    """Serious and critical ones, each with the place it was found at. A page that is just putting itself together is
    looked at once more."""
    found = _violations(browser, rules)
    if found:
        time.sleep(1)
        found = _violations(browser, rules)
    return found


def _violations(browser, rules):
    browser.execute_cdp_cmd("Page.setBypassCSP", {"enabled": True})
    browser.execute_script(AXE)
    result = browser.execute_async_script(RUN, list(rules))
    return [
        f"{v['id']} at {[n['target'] for n in v['nodes']][:3]}"
        for v in result["violations"]
        if v["impact"] in ("serious", "critical")
    ]
