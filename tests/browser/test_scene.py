"""Detectors of our own: an area is drawn by the keyboard, tried over the past, tuned by what is said of its hits, and made a rule
that fires."""

import re

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tests.browser.conftest import button, one, wait

pytestmark = [pytest.mark.browser, pytest.mark.slow]
G = "quillmere-gardens"
#: Each corner by which way it is moved, and how often: from the middle of the picture over the lake and the jetty.
MOVES = (("0", Keys.ARROW_LEFT, 10), ("0", Keys.ARROW_UP, 6), ("1", Keys.ARROW_RIGHT, 8), ("1", Keys.ARROW_UP, 6))


def hits(browser, kind):
    """The pictures of hits of a class, the surest first: by night a goose may pass for a person, but not surely."""
    found = [h for h in browser.find_elements(By.CSS_SELECTOR, ".hit") if kind in h.text]
    return sorted(found, key=lambda h: -int(re.search(r"(\d+) %", h.text)[1]))


def search(browser, wanted):
    """Try it until what was provoked is among what is kept."""

    def found(b):
        button(b, "Try it over the past").click()
        wait(b).until(lambda b: "would have told" in one(b, "[data-past=words]").text)
        return all(hits(b, kind) for kind in wanted)

    wait(browser, 90).until(found, "what was provoked is not found")


def test_an_area_is_drawn_tried_over_the_past_tuned_and_made_a_rule_that_fires(demo, person):
    demo.provoke("geese")
    demo.provoke("cross-jetty")
    ines = person("ines")
    ines.get(f"{demo.address}/s/{G}/sources/scene/jetty")
    Select(one(ines, ".page-head select")).select_by_visible_text("enters")
    for corner, key, times in MOVES:
        one(ines, f"[data-corner='0-{corner}']").send_keys(*([Keys.SHIFT, key] * times))
    name = one(ines, ".own-page label input")
    name.clear()
    name.send_keys("Water and jetty")
    search(ines, ("human", "animal"))
    for kind, words in (("human", "right"), ("animal", "should not")):
        press = lambda b, kind=kind, words=words: _press(hits(b, kind)[0], words)
        wait(ines).until(press)
    wait(ines).until(lambda b: b.find_elements(By.CSS_SELECTOR, "[data-past=better] button"))
    geese = len(hits(ines, "animal"))
    one(ines, "[data-past=better] button").send_keys(Keys.ENTER)
    wait(ines).until(lambda b: hits(b, "human") and len(hits(b, "animal")) < geese, "the setting parts them")
    button(ines, "Add it").click()
    link = wait(ines).until(lambda b: _rule_link(b, "Water and jetty"))
    ines.get(f"{link}&kind=scene.entered")
    wait(ines).until(lambda b: _chip(b, "Operators")).click()
    wait(ines).until(lambda b: not b.find_elements(By.CSS_SELECTOR, ".finding.error"))
    one(ines, ".editor-head .btn:not([disabled]):not(.plain):not(.icon-only)").click()
    wait(ines).until(lambda b: "/rulebook/new" not in b.current_url)
    one(ines, ".editor-head .switch:not([disabled])").click()
    wait(ines).until(lambda b: any("It decides" in t.text for t in b.find_elements(By.CSS_SELECTOR, ".toast")))
    rule = ines.current_url.rsplit("/", 1)[1]
    demo.provoke("cross-jetty")
    wait(ines, 90).until(lambda _: demo.get(f"/api/v1/runs?site={G}&rule={rule}"), "it has not fired")


def _press(hit, words):
    """Say something of a hit, unless it is said already."""
    one_button = next(b for b in hit.find_elements(By.CSS_SELECTOR, "[data-mark]") if b.text == words)
    if one_button.get_attribute("aria-pressed") == "true":
        return True
    # By the keyboard, since hits that come move what lies below them.
    one_button.send_keys(Keys.ENTER)
    return False


def _rule_link(browser, name):
    rows = browser.find_elements(By.CSS_SELECTOR, ".own-list li")
    row = next((r for r in rows if name in r.text), None)
    return row.find_element(By.CSS_SELECTOR, "a").get_attribute("href") if row else False


def _chip(browser, words):
    return next((c for c in browser.find_elements(By.CSS_SELECTOR, ".chip") if c.text.strip() == words), False)
