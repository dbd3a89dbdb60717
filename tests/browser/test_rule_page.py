"""One rule on its page: dragged, drafted, put live, measured by its past and by what really happens; and all rules."""

import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import button, one, wait

pytestmark = [pytest.mark.browser, pytest.mark.slow]
G = "/s/quillmere-gardens"


@pytest.fixture(scope="module")
def browser(lasting_person):
    return lasting_person("ines")


@pytest.fixture
def rule(demo, browser):
    """`rule("jetty-closed")`: its page, read and rehearsed."""

    def open_rule(id):
        browser.get(f"{demo.address}{G}/rulebook/{id}")
        one(browser, "[data-sentence] a")
        wait(browser).until(lambda b: "run" in one(b, ".past p strong.figures").text)
        return browser

    yield open_rule
    browser.execute_script(
        "const e = document.querySelector('[x-data=editor]'); if (e) e._x_dataStack[0].dirty = false"
    )


def grip(browser, path):
    return one(browser, f"[data-grip='{path}']")


def sentence(browser):
    return one(browser, "[data-sentence]").text


def document(browser):
    return browser.execute_script("return document.querySelector('[x-data=editor]')._x_dataStack[0].raw.doc")


def drag(browser, path, by):
    """A plan that is drawn anew meanwhile has other grips: then nothing was taken hold of yet."""

    def dragged(b):
        ActionChains(b).move_to_element(grip(b, path)).click_and_hold().move_by_offset(by, 0).release().perform()
        return True

    wait(browser).until(dragged)


def test_a_usual_rule_is_seen_without_scrolling_and_its_bars_are_its_numbers(rule):
    browser = rule("jetty-closed")
    for part in (
        "[data-sentence]",
        "#part-cause",
        "#part-provided",
        "#part-response-0",
        "[data-plan]",
        "[data-rehearsal]",
    ):
        bottom = browser.execute_script(
            "return document.querySelector(arguments[0]).getBoundingClientRect().bottom", part
        )
        assert bottom <= 800, part
    assert browser.execute_script("return document.querySelector('[data-plan]').clientWidth") > 1100
    drag(browser, "hold_off.seconds", -200)
    wait(browser).until(lambda b: document(b)["hold_off"]["seconds"] < 55)
    seconds = document(browser)["hold_off"]["seconds"]
    wait(browser).until(lambda b: f"quiet for {seconds:g} s" in sentence(b))
    assert one(browser, ".beside").text.count(f"quiet for {seconds:g} s") == 1, "set beside the live rule"
    grip(browser, "response.1.beyond").send_keys(Keys.ARROW_RIGHT)
    assert document(browser)["response"][1]["beyond"] == 26
    assert browser.switch_to.active_element.get_attribute("data-grip") == "response.1.beyond", "the hand stays on it"
    grip(browser, "response.1.before").send_keys(Keys.ARROW_LEFT)
    assert document(browser)["response"][1]["before"] == 11, "to the left is earlier"
    wait(browser).until(lambda b: "from 11 s before to 26 s after" in sentence(b))
    browser.execute_script("document.activeElement.blur()")
    for _ in range(3):
        one(browser, ".editor-head button[title='Undo']").click()
    wait(browser).until(lambda b: "quiet for 60 s" in sentence(b) and "to 25 s after" in sentence(b))


def test_ten_minutes_of_quiet_do_not_squeeze_the_plan_and_it_is_zoomed(rule):
    browser = rule("jetty-geese")
    width = "return Number(document.querySelector('[data-track=\"response.0\"] .act rect').getAttribute('width'))"
    assert browser.execute_script(width) > 250, "35 s beside 600 s"
    assert browser.find_elements(By.CSS_SELECTOR, "[data-plan] .broken")
    before = browser.execute_script(width)
    one(browser, ".axis-row").send_keys("+")
    assert browser.execute_script(width) > before * 1.3
    one(browser, ".axis-row").send_keys("0")
    assert browser.execute_script(width) == pytest.approx(before)


def test_a_draft_is_kept_put_live_and_an_earlier_revision_comes_back(demo, rule):
    def live():
        return demo.get("/api/v1/rules/jetty-geese?site=quillmere-gardens")

    first = live()["revision"]
    browser = rule("jetty-geese")
    grip(browser, "response.0.beyond").send_keys(Keys.ARROW_RIGHT)
    button(browser, "Save draft", ".editor-head").click()
    wait(browser).until(lambda b: f"draft {first + 1}, not live" in one(b, ".editor-head").text)
    assert live()["document"]["response"][0]["beyond"] == 30
    browser.get(f"{demo.address}{G}/rulebook")
    assert "draft not live" in one(browser, "[data-rule='jetty-geese']").text
    browser = rule("jetty-geese")
    button(browser, "Put live", ".editor-head").click()
    wait(browser).until(lambda b: f"revision {first + 1}" in one(b, ".editor-head").text)
    assert live()["document"]["response"][0]["beyond"] == 31
    browser = rule("jetty-geese")
    one(browser, "details.panel summary").click()
    assert "to 30 s after" in one(browser, ".revision .change").text
    one(browser, f".revision[data-number='{first}'] button").click()
    wait(browser).until(lambda b: "to 30 s after" in sentence(b) and "not saved" in one(b, ".editor-head").text)
    button(browser, "Put live", ".editor-head").click()
    wait(browser).until(lambda b: f"revision {first + 2}" in one(b, ".editor-head").text)
    assert live()["document"]["response"][0]["beyond"] == 30


def test_a_rehearsed_run_says_why_opens_its_event_and_is_kept_as_an_example(rule):
    browser = rule("jetty-closed")
    one(browser, "[data-rehearsal]").send_keys(Keys.END)
    told = wait(browser).until(
        lambda b: one(b, "[data-chosen-run]") if "The draft:" in one(b, "[data-chosen-run]").text else False
    )
    fired = "The draft: fired" in told.text
    button(browser, "It should fire here" if fired else "It should not fire here", "[data-chosen-run]").click()
    wait(browser).until(lambda b: "1 of 1 examples as they should be" in one(b, ".past").text)
    one(browser, "[data-key='provided|open']").click()
    number = one(browser, "#part-provided input[type=number]")
    number.send_keys(Keys.CONTROL, "a")
    number.send_keys("100")
    wanted = "0 of 1 examples" if fired else "1 of 1 examples"
    wait(browser).until(lambda b: wanted in one(b, ".past").text and "0 runs" in one(b, ".past p strong.figures").text)
    gone = browser.find_elements(By.CSS_SELECTOR, ".mark-gone")
    assert gone, "runs of the live rule that the draft would not make"
    one(browser, "[data-rehearsal]").send_keys(Keys.ENTER)
    assert one(browser, ".drawer h2").text == "Line crossed"
    browser.switch_to.active_element.send_keys(Keys.ESCAPE)
    press = "It should fire here" if fired else "It should not fire here"
    button(browser, press, "[data-chosen-run]").click()
    wait(browser).until(lambda b: "examples" not in one(b, ".past").text)


def test_what_really_happens_is_seen_on_the_rules_page(demo, rule):
    browser = rule("jetty-geese")
    known = len(browser.find_elements(By.CSS_SELECTOR, "[data-lately] tr.arrive"))
    demo.provoke("geese")
    wait(browser, 60).until(lambda b: len(b.find_elements(By.CSS_SELECTOR, "[data-lately] tr.arrive")) > known)
    # A goose that is taken for a person may come first; there are three.
    outcomes = lambda b: [row.text for row in b.find_elements(By.CSS_SELECTOR, "[data-lately] tr")]
    came = lambda b: any("Jetty line" in row and ("fired" in row or "held off" in row) for row in outcomes(b))
    wait(browser, 30).until(came)
    wait(browser).until(lambda b: one(b, "[data-lately] button").click() or True)
    assert one(browser, ".drawer h2").text == "Line crossed"


def test_several_rules_are_chosen_tagged_and_found_again(demo, browser):
    browser.get(f"{demo.address}{G}/rulebook?by=area")
    boxes = wait(browser).until(
        lambda b: b.find_elements(By.CSS_SELECTOR, "[data-group='Boathouse and Lake'] [data-choose]")
    )
    boxes[0].click()
    ActionChains(browser).key_down(Keys.SHIFT).click(boxes[2]).key_up(Keys.SHIFT).perform()
    wait(browser).until(lambda b: one(b, ".several strong").text == "3 chosen")
    one(browser, ".several input").send_keys("water")
    button(browser, "Give", ".several").click()
    wait(browser).until(
        lambda b: len([r for r in b.find_elements(By.CSS_SELECTOR, "[data-rule]") if "#water" in r.text]) == 3
    )
    one(browser, ".page-head input[type=search]").send_keys("#water")
    shown = [r for r in browser.find_elements(By.CSS_SELECTOR, "[data-rule]") if r.is_displayed()]
    assert len(shown) == 3
    for row in shown:
        row.find_element(By.CSS_SELECTOR, "[data-choose]").click()
    one(browser, ".several input").send_keys("water")
    button(browser, "Take", ".several").click()
    # The first toast says the same: it is done once no rule has the tag any more.
    tagged = lambda b: [r for r in b.find_elements(By.CSS_SELECTOR, "[data-rule]") if "#water" in r.text]
    wait(browser).until(lambda b: not tagged(b))
    wait(browser).until(lambda b: "Done for 3 rules" in b.page_source)


def test_the_matrix_is_narrowed_and_leads_to_the_rule(demo, browser):
    browser.get(f"{demo.address}{G}/rulebook/matrix")
    one(browser, ".page-head input[type=search]").send_keys("geese")
    rows = [r for r in browser.find_elements(By.CSS_SELECTOR, "[data-row]") if r.is_displayed()]
    assert [r.find_element(By.CSS_SELECTOR, "a").text for r in rows] == ["Geese over the jetty"]
    rows[0].find_element(By.CSS_SELECTOR, "a").click()
    wait(browser).until(lambda b: "/rulebook/jetty-geese" in b.current_url)


def test_hours_are_made_in_the_middle_of_a_rule(demo, browser):
    browser.get(f"{demo.address}{G}/rulebook/new?point=vault-door")
    button(browser, "Door held open").click()
    one(browser, "[data-key='hours|open']").click()
    one(browser, "[data-key='hours']").click()
    one(browser, "[data-key='hours.hours|make']").click()
    one(browser, ".drawer [data-field='name'] input").send_keys("Archive days")
    one(browser, ".drawer [data-field='seasons.0.mon'] input").send_keys("10:00-12:00")
    button(browser, "Save", ".drawer").click()
    wait(browser).until(lambda b: "inside Archive days" in sentence(b))
    browser.execute_script("document.querySelector('[x-data=editor]')._x_dataStack[0].dirty = false")
    hours = next(h for h in demo.get("/api/v1/hours?site=quillmere-gardens") if h["name"] == "Archive days")
    demo.call("DELETE", f"/api/v1/hours/{hours['id']}?site=quillmere-gardens")
