"""Hours painted by the pointer and the keyboard, a mode with an end, a list filled from what was seen and from a table, and a
rule tested on its page; what two people do at once, and what is not saved, is lost by nobody."""

import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import button, one, wait

pytestmark = [pytest.mark.browser, pytest.mark.slow]
S = "/s/quillmere-gardens"


@pytest.fixture(scope="module")
def browser(lasting_person):
    return lasting_person("ines")


def times(browser):
    return [e.get_attribute("value") for e in browser.find_elements(By.CSS_SELECTOR, ".week-row .inp")]


def paint(browser, day, start, to_day, end):
    """A drag from one hour of a day to another."""
    tracks = browser.find_elements(By.CSS_SELECTOR, "[data-track]")
    begin, last = tracks[day], tracks[to_day]
    wide = begin.size["width"]
    at = lambda hour: round(hour / 24 * wide - wide / 2)
    drag = ActionChains(browser).move_to_element_with_offset(begin, at(start) + 2, 0).click_and_hold()
    drag.move_to_element_with_offset(last, at(end) - 2, 0).release().perform()


def test_a_week_is_painted_saved_and_undone(demo, browser):
    browser.get(f"{demo.address}{S}/hours/new")
    one(browser, ".hours-name").send_keys("Weekdays")
    paint(browser, 0, 9, 4, 17)
    wait(browser).until(lambda b: times(b)[:5] == ["09:00-17:00"] * 5 and times(b)[5] == "")
    paint(browser, 2, 12, 2, 13)
    wait(browser).until(lambda b: times(b)[2] == "09:00-12:00, 13:00-17:00")
    one(browser, "button[aria-label='Undo']").click()
    wait(browser).until(lambda b: times(b)[2] == "09:00-17:00")
    saturday = browser.find_elements(By.CSS_SELECTOR, "[data-track]")[5]
    saturday.send_keys(Keys.SPACE)
    wait(browser).until(lambda b: times(b)[5] != "")
    sunday = browser.find_elements(By.CSS_SELECTOR, ".week-row .inp")[6]
    sunday.send_keys("9-17", Keys.TAB)
    wait(browser).until(lambda b: "is not a span" in b.find_elements(By.CSS_SELECTOR, ".week-row")[7].text)
    sunday.send_keys(Keys.CONTROL, "a")
    sunday.send_keys("22:00-06:00", Keys.TAB)
    wait(browser).until(lambda b: "is not a span" not in one(b, ".painted").text)
    assert browser.find_elements(By.CSS_SELECTOR, ".track .open.tail"), "the night runs into Monday"
    year = one(browser, "[data-year]")
    assert len(year.find_elements(By.CSS_SELECTOR, ".year-day")) in (365, 366)
    one(browser, "[data-year] [data-day$='-12-25']").click()
    wait(browser).until(lambda b: b.find_elements(By.CSS_SELECTOR, "[data-exception]"))
    button(browser, "Save", ".page-head").click()
    wait(browser).until(lambda b: "/hours/new" not in b.current_url)
    made = next(h for h in demo.get("/api/v1/hours?site=quillmere-gardens") if h["name"] == "Weekdays")
    assert made["document"]["seasons"][0]["week"]["sun"] == ["22:00-06:00"] and made["document"]["exceptions"]
    button(browser, "iCalendar", ".page-head")
    demo.call("DELETE", f"/api/v1/hours/{made['id']}?site=quillmere-gardens")


def test_a_mode_is_given_an_end_on_the_page_of_hours(demo, browser):
    browser.get(f"{demo.address}{S}/hours")
    before = demo.get("/api/v1/situation?site=quillmere-gardens")["mode"]
    form = one(browser, "[data-mode-form='works']")
    browser.execute_script("arguments[0].value = '23:59'", form.find_element(By.NAME, "until"))
    form.find_element(By.TAG_NAME, "button").click()
    wait(browser).until(lambda b: "23:59" in one(b, "[data-mode-end]").text and f"then {before}" in one(b, "main").text)
    told = demo.get("/api/v1/situation?site=quillmere-gardens")
    assert (told["mode"], told["then"]) == ("works", before) and told["until"]


def test_a_list_is_filled_from_what_was_seen_and_from_a_table(demo, browser, tmp_path):
    browser.get(f"{demo.address}{S}/lists/delivery-firms")
    rows = lambda b: [
        e.get_attribute("value") for e in b.find_elements(By.CSS_SELECTOR, ".entries tbody tr td:nth-child(2) input")
    ]
    wait(browser).until(lambda b: len(rows(b)) == 3)
    before = demo.get("/api/v1/lists/delivery-firms?site=quillmere-gardens")["entries"]
    card = one(browser, ".sighting .btn")
    plate = browser.find_element(
        By.XPATH, "//figure[.//button[contains(@class,'btn')]]//button[contains(@class,'plain-button')]"
    ).text
    card.click()
    wait(browser).until(lambda b: plate in rows(b))
    one(browser, "[data-try]").send_keys(plate.lower())
    wait(browser).until(lambda b: "the same" in one(b, ".tried").text)
    table = tmp_path / "firms.csv"
    table.write_text(f"No;Kennzeichen;Firma\n1;{plate};Known\n2;NEW 999;Fresh\n")
    browser.find_element(By.CSS_SELECTOR, "[data-table-file]").send_keys(str(table))
    one(browser, "select[data-ours='value']").send_keys("Kennzeichen")
    one(browser, ".table-in input[type=checkbox]").click()
    wait(browser).until(lambda b: "1 new, 0 otherwise, 0 go" in one(b, ".table-in").text)
    button(browser, "Take over", ".table-in").click()
    wait(browser).until(lambda b: "NEW 999" in rows(b))
    content = {"entries": before}
    demo.call("PUT", "/api/v1/lists/delivery-firms/entries?site=quillmere-gardens", content)


def test_a_case_is_tried_kept_and_a_draft_is_measured_by_it(demo, browser):
    browser.get(f"{demo.address}{S}/rulebook/jetty-geese")
    button(browser, "Try it", "[data-testing]").click()
    field = wait(browser).until(
        lambda b: [e for e in b.find_elements(By.CSS_SELECTOR, ".test-field") if e.is_displayed()]
    )[0]
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("human")
    wait(browser).until(lambda b: "conditions not met" in one(b, "[data-testing]").text)
    button(browser, "It must not fire here", "[data-testing]").click()
    wait(browser).until(lambda b: "1 of 1 as wanted" in one(b, "[data-testing]").text)
    assert "must not fire" in one(browser, "[data-testing] table").text
    one(browser, "[data-testing] table button[aria-label='Take this case away']").click()
    wait(browser).until(lambda b: "as wanted" not in one(b, "[data-testing]").text)
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("animal")
    wait(browser).until(lambda b: b.find_elements(By.CSS_SELECTOR, "[data-test-plan] .step"))


def test_what_is_not_saved_is_kept_and_two_see_each_others_changes(demo, browser):
    at = f"{demo.address}{S}/rulebook/jetty-geese"
    rule = lambda: demo.get("/api/v1/rules/jetty-geese?site=quillmere-gardens")
    browser.get(at)
    name = one(browser, "[data-path='name']")
    name.send_keys(" of mine")
    wait(browser).until(lambda b: "not saved" in one(b, ".editor-head").text)
    wait(browser).until(lambda b: "of mine" in b.execute_script("return JSON.stringify(localStorage)"))
    browser.execute_script("document.querySelector('[x-data=editor]')._x_dataStack[0].dirty = false")
    browser.get(at)
    button(browser, "Bring them back", "[data-left]").click()
    assert one(browser, "[data-path='name']").get_attribute("value").endswith("of mine")
    now = rule()
    theirs = {**now["document"], "purpose": "By somebody else"}
    revision = now["draft"] or now["revision"]
    demo.call("PUT", "/api/v1/rules/jetty-geese?site=quillmere-gardens", {"document": theirs, "revision": revision})
    wait(browser).until(lambda b: "not saved" in one(b, ".editor-head").text)
    button(browser, "Save draft", ".editor-head").click()
    told = one(browser, "[data-other]").text
    assert "has saved revision" in told and rule()["document"]["purpose"] == "By somebody else"
    button(browser, "Take theirs", "[data-other]").click()
    wait(browser).until(lambda b: not one(b, "[data-path='name']").get_attribute("value").endswith("of mine"))
    browser.execute_script("document.querySelector('[x-data=editor]')._x_dataStack[0].dirty = false")
    browser.execute_script("localStorage.clear()")
