"""Found again: from words in the bar to the records, narrowed, played, kept under a name; and from the Daybook's range."""

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import button, one, wait

pytestmark = [pytest.mark.browser, pytest.mark.slow]
G = "quillmere-gardens"


def records(browser):
    return browser.find_elements(By.CSS_SELECTOR, "[data-record]")


def test_from_a_word_in_an_answer_to_the_moment_it_was_about(demo, person):
    demo.provoke("cross-jetty")
    alarm = wait(None, 60).until(lambda _: _waiting(demo, "jetty"))
    demo.post(f"/api/v1/alarms/{alarm}/acknowledge?site={G}", {"note": "A bittern on the planks", "outcome": "false"})
    oskar = person("oskar")
    oskar.find_element(By.TAG_NAME, "body").send_keys("/")
    oskar.switch_to.active_element.send_keys("bittern planks", Keys.ENTER)
    wait(oskar).until(lambda b: "/records" in b.current_url and records(b))
    assert any("A bittern on the planks" in row.text and "false" in row.text for row in records(oskar))
    one(oskar, "[data-record^=alarm] a[href*='/archive']").click()
    wait(oskar).until(lambda b: "/archive?camera=jetty" in b.current_url)
    one(oskar, "canvas")


def test_choices_narrow_and_are_kept_under_a_name(demo, person):
    ines = person("ines")
    ines.get(f"{demo.address}/s/{G}/records?last=86400000")
    button(ines, "all of them", ".facet").click()
    wait(ines).until(lambda b: one(b, ".facet.unfolded"))
    choice = one(ines, "[aria-labelledby='facet-sort'] a[href*='sort=alarm']")
    count = int(choice.find_element(By.CSS_SELECTOR, ".figures").text)
    choice.send_keys(Keys.ENTER)
    wait(ines).until(lambda b: "sort=alarm" in b.current_url and records(b))
    assert all(row.get_attribute("data-record").startswith("alarm-") for row in records(ines))
    assert one(ines, "#found-title").text.startswith(str(count))
    one(ines, ".facet summary").click()
    name = one(ines, ".facet input[name=name]")
    name.send_keys("All alarms", Keys.ENTER)
    kept = wait(ines).until(lambda b: b.find_elements(By.LINK_TEXT, "All alarms"))[0]
    assert "sort=alarm" in kept.get_attribute("href")
    one(ines, "[data-drop]").click()
    ines.switch_to.alert.accept()
    wait(ines).until(lambda b: not b.find_elements(By.LINK_TEXT, "All alarms"))


def test_the_daybooks_list_is_of_the_time_it_shows_and_leads_to_all_of_it(demo, person):
    ines = person("ines")
    ines.get(f"{demo.address}/s/{G}/daybook")
    latest = one(ines, "[data-recent] [data-event]").get_attribute("data-event")
    canvas = one(ines, "[data-canvas]")
    canvas.send_keys(*[Keys.ARROW_LEFT] * 12)
    wait(ines).until(lambda b: one(b, "#recent-title").text == "The last events of this time")
    wait(ines).until(lambda b: one(b, "[data-recent] tr").get_attribute("data-event") != latest)
    button(ines, "All of this time in Records").click()
    wait(ines).until(lambda b: "start=" in b.current_url and records(b))
    one(ines, "[data-record^=event] a[href*='/daybook?at=']").click()
    one(ines, "aside.drawer h2")


def _waiting(demo, words):
    found = [a for a in demo.get(f"/api/v1/alarms?site={G}&state=unacknowledged") if words in a["title"].lower()]
    return found[0]["id"] if found else None
