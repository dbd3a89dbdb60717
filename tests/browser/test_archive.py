"""The archive: several cameras in step, forwards and backwards; jumps to the next of its sort; what its axis says."""

import time
from urllib.parse import parse_qs, urlsplit

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tests.browser.conftest import button, one, wait

pytestmark = [pytest.mark.browser, pytest.mark.slow]
G = "/s/quillmere-gardens"


def clock(browser):
    return browser.execute_script("return document.querySelector('.page-head strong').textContent")


def test_several_cameras_play_in_step_either_way_and_jump_to_what_happened(demo, person):
    oskar = person("oskar")
    oskar.get(f"{demo.address}{G}/archive?camera=jetty&at={int(time.time() * 1000) - 120_000}")
    wait(oskar, 90).until(lambda b: "pictures/s" in one(b, "[data-rate]").text)
    button(oskar, "Pause").send_keys(Keys.SPACE)
    button(oskar, "Several in step").send_keys(Keys.ENTER)
    one(oskar, "[data-choose=lake]").send_keys(Keys.ENTER)
    wait(oskar).until(lambda b: len(b.find_elements(By.CSS_SELECTOR, "[data-screens] figure")) == 2)
    assert [f.text for f in oskar.find_elements(By.CSS_SELECTOR, "figcaption")] == ["Jetty", "Lake, from the boathouse"]
    assert "camera=jetty%2Clake" in oskar.current_url, "it can be linked to"
    Select(one(oskar, "[data-speed]")).select_by_visible_text("−4×")
    started = clock(oskar)
    button(oskar, "Play").send_keys(Keys.ENTER)
    wait(oskar, 90).until(lambda b: clock(b) < started, "it does not run backwards")
    button(oskar, "Pause").send_keys(Keys.ENTER)
    Select(one(oskar, "[data-sought]")).select_by_visible_text("alarms")
    at = clock(oskar)
    one(oskar, "[data-jump=back]").send_keys(Keys.ENTER)
    wait(oskar).until(lambda b: clock(b) != at)
    moments = [
        a["zero"] for a in demo.get("/api/v1/alarms?site=quillmere-gardens&limit=200") if a["point"] == "jetty-line"
    ]
    # The alarm's second, and three before it; the site's hour is another than UTC's.
    assert _seconds(clock(oskar)) in {(_seconds(zero[11:19]) - 3) % 3600 for zero in moments}


def _seconds(text):
    minutes, seconds = text[-5:].split(":")
    return 60 * int(minutes) + int(seconds)


def test_cameras_that_look_at_one_point_are_one_choice(demo, person):
    oskar = person("oskar")
    oskar.get(f"{demo.address}{G}/archive")
    sets = Select(one(oskar, "[data-sets]"))
    sets.select_by_index(1)
    wanted = oskar.execute_script("return document.querySelector('[data-sets]').value.split(',').length")
    wait(oskar).until(lambda b: len(b.find_elements(By.CSS_SELECTOR, "[data-screens] figure")) == wanted > 1)
    pressed = oskar.find_elements(By.CSS_SELECTOR, "[data-choose][aria-pressed=true]")
    assert len(pressed) == wanted


def test_a_part_is_chosen_by_keys_and_is_what_a_case_is_asked_for(demo, person):
    oskar = person("oskar")
    oskar.get(f"{demo.address}{G}/archive?camera=jetty&at={int(time.time() * 1000) - 300_000}")
    button(oskar, "Pause").send_keys(Keys.SPACE)
    body = oskar.find_element(By.TAG_NAME, "body")
    body.send_keys("i")
    body.send_keys(Keys.ARROW_RIGHT)
    body.send_keys(Keys.ARROW_RIGHT)
    body.send_keys("o")
    wait(oskar).until(lambda b: ", 10 s" in one(b, ".cut strong").text)
    asked = parse_qs(urlsplit(one(oskar, "[data-into-case]").get_attribute("href")).query)
    assert int(asked["end"][0]) - int(asked["start"][0]) == 10_000 and asked["cameras"] == ["jetty"]
    button(oskar, "All of it again").send_keys(Keys.ENTER)
    wait(oskar).until(lambda b: one(b, "[data-cut=from]") and not b.find_element(By.CSS_SELECTOR, ".cut strong").text)
