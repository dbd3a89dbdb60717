"""The Desk through the real interface: alarms in front of whoever answers for them, calls, displays, the keyboard alone."""

import contextlib
from datetime import UTC, datetime, timedelta

import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import button, one, wait
from tests.browser.settling import answer_what_waits

pytestmark = [pytest.mark.browser, pytest.mark.slow]
G = "/s/quillmere-gardens"
SITE = "?site=quillmere-gardens"


def rows(browser, selector):
    return browser.find_elements(By.CSS_SELECTOR, selector)


def alarm_of(browser, words, seconds=60):
    """The card of an alarm, once it is there."""

    def there(b):
        return next((a for a in rows(b, "[data-alarm]") if words in a.text), False)

    return wait(browser, seconds).until(there, f"no alarm says {words}")


def toasted(browser, words, seconds=40):
    said = "return document.querySelector('[data-toasts]').textContent"
    wait(browser, seconds).until(lambda b: words in b.execute_script(said), f"nothing says {words}")


def settle(browser):
    """A page whose scripts are at work: what is clicked before does nothing."""
    wait(browser).until(lambda b: b.execute_script("return document.readyState === 'complete'"))


def keys(browser, *pressed):
    ActionChains(browser).send_keys(*pressed).pause(0.15).perform()


@contextlib.contextmanager
def live(demo, document):
    """A rule that is on while the context lasts."""
    made = demo.call("POST", f"/api/v1/rules{SITE}", {"document": document})
    demo.post(f"/api/v1/rules/{made['id']}/enable{SITE}", {"enabled": True})
    yield made
    demo.call("DELETE", f"/api/v1/rules/{made['id']}{SITE}")


def patrolled(response):
    """A rule about the button of the lake patrol."""
    points = [{"id": "lake-patrol", "name": "Lake patrol"}]
    return {
        "name": "The patrol goes out",
        "cause": {"cause": "button", "where": {"points": points}},
        "response": response,
    }


def press_patrol(demo):
    demo.post(f"/api/v1/buttons/lake-patrol/press{SITE}", {})


def test_from_the_forced_vault_door_to_the_answered_alarm_with_the_siren_silenced(demo, person):
    answer_what_waits(demo)
    operator = person("oskar")
    demo.provoke("force-vault")
    card = alarm_of(operator, "Forced", 90)
    assert "critical" in card.text and "Do not go alone." in card.text
    # What is to do is ticked off, for everybody.
    card.find_element(By.CSS_SELECTOR, "[data-tick]").click()
    wait(operator).until(lambda b: "Do not go alone." in alarm_of(b, "Forced").text and "done" in history(b))
    # The siren has been started by the rule; in front of the operator it is silenced.
    button(operator, "In front of me", "[data-alarm]").click()
    steps = "document.querySelector('.moment-steps').innerText"
    wait(operator).until(lambda b: "Siren" in b.execute_script(f"return {steps}") or b.refresh())
    settle(operator)
    siren = one(operator, "[data-offer^='silence:vault-siren']")
    siren.click()
    toasted(operator, "Vault siren: done.")
    assert "The vault" in operator.title and rows(operator, ".view canvas"), "live beside it"
    said = one(operator, "form[data-answer] textarea")
    said.send_keys("A lever in the frame. The police are here.")
    one(operator, "form[data-answer] input[value='real']").click()
    button(operator, "Acknowledge", "form[data-answer]").click()
    wait(operator).until(lambda b: "Oskar Lindwater answered" in b.find_element(By.CSS_SELECTOR, "[data-alarms]").text)
    [alarm] = [a for a in demo.get(f"/api/v1/alarms{SITE}") if a["title"].startswith("Forced")][:1]
    told = [line["words"] for line in demo.get(f"/api/v1/alarms/{alarm['id']}/history{SITE}")]
    assert [w for w in told if w != "its cause was over"] == ["raised", "done", "told the place to", "answered"]
    assert alarm["outcome"] == "real"


def history(browser):
    return browser.execute_script("return document.querySelector('[data-alarm] .happened').textContent")


def test_from_the_call_at_the_wicket_to_the_opened_latch(demo, person):
    operator, other = person("oskar"), person("opal")
    demo.provoke("ring")
    call = one(operator, ".call.ringing", 60)
    assert "Somebody rings" in call.text and "Staff wicket" in call.text
    one(other, ".call.ringing")
    keys(operator, "c")
    wait(operator).until(lambda b: "You speak with them" in one(b, ".call").text)
    # Whoever answers hears them, until it is over.
    one(operator, ".call [data-listen='bell'][aria-pressed='true']")
    wait(other).until(lambda b: "Oskar Lindwater speaks with them" in one(b, ".call").text)
    one(operator, ".call [data-offer='hold5:wicket-strike']").click()
    toasted(operator, "Wicket latch: done.")
    keys(operator, "e")
    wait(operator).until(lambda b: not rows(b, ".call"))
    wait(operator).until(lambda b: not rows(b, "[data-listen][aria-pressed='true']"))
    wait(other).until(lambda b: not rows(b, ".call"))
    assert any("Call, answered by Oskar" in b["title"] for b in demo.get(f"/api/v1/bookmarks{SITE}"))


def test_a_call_is_heard_of_on_any_other_page(demo, person):
    operator = person("opal")
    operator.get(f"{demo.address}{G}/archive")
    one(operator, "main h1")
    demo.provoke("ring")
    one(operator, "[data-toasts] a", 60).click()
    wait(operator).until(lambda b: "/desk" in b.current_url)
    keys(operator, "e")
    wait(operator).until(lambda b: not rows(b, ".call.ringing"))


def test_when_nobody_answers_the_duty_manager_is_told(demo, person):
    duty = person("dara")
    alarm = {"do": "alarm", "priority": "medium", "title": "The patrol is out", "groups": [{"id": "operators"}]}
    notice = {"do": "notice", "anchor": "unanswered", "after": 4, "groups": [{"id": "duty"}], "text": "Nobody answers."}
    with live(demo, patrolled([alarm, notice])):
        press_patrol(demo)
        wait(duty, 30).until(lambda b: "Nobody answers." in one(b, "[data-notices]", 30).text)


def test_two_operators_do_not_do_the_same_work(demo, person):
    answer_what_waits(demo)
    first, second = person("oskar"), person("opal")
    alarm = {"do": "alarm", "priority": "high", "title": "The patrol is out", "groups": [{"id": "operators"}]}
    with live(demo, patrolled([alarm])):
        press_patrol(demo)
        alarm_of(first, "The patrol is out")
        keys(first, "t")
        wait(second).until(lambda b: "Oskar Lindwater deals with it" in alarm_of(b, "The patrol is out").text)
        assert button(second, "Take it over", "[data-alarm]")
    # The same button: whoever means the same does not undo the other, and both see how it stands.
    patrol = "//div[contains(@class,'button-row')]//button[contains(., 'Lake patrol')]"
    before = first.find_element(By.XPATH, patrol).text
    first.find_element(By.XPATH, patrol).click()
    wait(second).until(lambda b: b.find_element(By.XPATH, patrol).text != before)
    assert first.find_element(By.XPATH, patrol).text == second.find_element(By.XPATH, patrol).text


def popup(display, camera, priority, seconds):
    """A step that puts a camera up on a display alone."""
    target = {"point": {"id": camera, "name": camera}}
    displays = [{"id": display, "name": "Spot"}]
    return {"do": "popup", "displays": displays, "priority": priority, "seconds": seconds, "cameras": target}


def set_up_display(demo, document, known=None):
    if known is None:
        return demo.call("POST", f"/api/v1/setup/displays{SITE}", {"document": document})["id"]
    [row] = [d for d in demo.get(f"/api/v1/setup/displays{SITE}") if d["id"] == known]
    demo.call("PUT", f"/api/v1/setup/displays/{known}{SITE}", {"document": document, "version": row["version"]})
    return known


def test_a_display_shows_is_displaced_and_returns(demo, person):
    usual = {"name": "Spot", "cells": 1, "usual": [{"id": "lodge", "name": "Lodge"}]}
    spot = set_up_display(demo, usual)
    wall = person("vera")
    wall.get(f"{demo.address}/display/spot")
    assert "/s/quillmere-gardens/display/spot" in wall.current_url
    wait(wall).until(lambda b: rows(b, ".place canvas[data-live='lodge']"))
    helped = {"cause": "button", "where": {"points": [{"id": "gate-help", "name": "Help at gate"}]}}
    calm = {"name": "Help on the spot", "cause": helped, "response": [popup(spot, "gate", "medium", 60)]}
    with live(demo, calm), live(demo, patrolled([popup(spot, "jetty", "critical", 8)])):
        demo.call("POST", f"/api/v1/buttons/gate-help/press{SITE}", {})
        wait(wall).until(
            lambda b: rows(b, ".place.put-up canvas[data-live='gate']"), "the help button puts the gate up"
        )
        press_patrol(demo)
        wait(wall).until(lambda b: rows(b, ".place.rank-0 canvas[data-live='jetty']"), "the more urgent displaces it")
        wait(wall).until(lambda b: "Next: Visitor gate" in b.find_element(By.CSS_SELECTOR, "[data-next]").text)
        wait(wall).until(lambda b: rows(b, ".place.put-up canvas[data-live='gate']"), "and it returns")
    # It is set up otherwise without being loaded again.
    wall.execute_script("window.same = true")
    set_up_display(demo, {**usual, "cells": 2}, spot)
    wait(wall).until(lambda b: len(rows(b, ".place")) == 2)
    assert wall.execute_script("return window.same")
    demo.call("DELETE", f"/api/v1/setup/displays/{spot}{SITE}")


def test_a_shelved_alarm_comes_back_at_its_end(demo, person):
    answer_what_waits(demo)
    operator = person("oskar")
    alarm = {"do": "alarm", "priority": "low", "title": "The patrol is out", "groups": [{"id": "operators"}]}
    with live(demo, patrolled([alarm])):
        press_patrol(demo)
        alarm_of(operator, "The patrol is out")
        # By the page, with a reason; then for the shortest time that there is.
        keys(operator, "s")
        keys(operator, "known" + Keys.ENTER)
        wait(operator).until(lambda b: "1 alarm on the shelf" in one(b, "[data-shelf]").text)
        [shelved] = demo.get(f"/api/v1/alarms{SITE}&state=shelved")
        assert shelved["shelved_why"] == "known"
        demo.post(f"/api/v1/alarms/{shelved['id']}/unshelve{SITE}", {})
        demo.post(f"/api/v1/alarms/{shelved['id']}/shelve{SITE}", {"minutes": 1, "why": "known"})
        wait(operator).until(lambda b: not any("The patrol is out" in a.text for a in rows(b, "[data-alarm]")))
        card = alarm_of(operator, "The patrol is out", 75)
        happened = card.find_element(By.CSS_SELECTOR, ".happened").get_attribute("textContent")
        assert "came back from the shelf" in happened


def test_everything_by_the_keyboard_alone(demo, person):
    answer_what_waits(demo)
    operator = person("oskar")
    one(operator, ".button-row button")
    # A desk button, an alarm of which somebody says what it was, and the pictures.
    alarm = {"do": "alarm", "priority": "high", "title": "The patrol is out", "groups": [{"id": "operators"}], "note_required": True}  # fmt: skip
    with live(demo, patrolled([alarm])):
        keys(operator, "b")
        keys(operator, Keys.ENTER)
        alarm_of(operator, "The patrol is out")
        operator.execute_script("document.activeElement.blur()")
        keys(operator, "j")
        keys(operator, "t")
        wait(operator).until(lambda b: "Oskar Lindwater deals with it" in alarm_of(b, "The patrol is out").text)
        keys(operator, "4")
        keys(operator, "n")
        keys(operator, "Sven, to the island.")
        ActionChains(operator).key_down(Keys.CONTROL).send_keys(Keys.ENTER).key_up(Keys.CONTROL).perform()
        wait(operator).until(lambda b: not rows(b, "[data-alarm][data-open='1']"))
    [last] = demo.get(f"/api/v1/alarms{SITE}&limit=1")
    assert (last["note"], last["outcome"]) == ("Sven, to the island.", "own")
    operator.execute_script("document.activeElement.blur()")
    keys(operator, "v")
    one(operator, ".arranging")
    keys(operator, "u")
    wait(operator).until(lambda b: "By rules: off" in b.page_source)
    keys(operator, "u")
    wait(operator).until(lambda b: "By rules: on" in b.page_source)


def test_what_somebody_watches_is_found_as_it_was_left(demo, person):
    operator = person("opal")
    keys(operator, "v")
    one(operator, "[data-cells='2']").click()
    wait(operator).until(lambda b: len(rows(b, ".cell")) == 2)
    name = one(operator, ".arranging input[name=name]")
    name.send_keys("Water" + Keys.ENTER)
    toasted(operator, "Kept as “Water”")
    operator.refresh()
    wait(operator).until(lambda b: len(rows(b, ".cell")) == 2 and "Water" in b.page_source)
    keys(operator, "v")
    one(operator, "[data-cells='6']").click()
    wait(operator).until(lambda b: len(rows(b, ".cell")) == 6)


def test_a_lost_connection_is_said_and_what_was_missed_is_shown(demo, person):
    answer_what_waits(demo)
    operator = person("oskar", fresh=True)
    # A page with a stream of its own, which is cut off.
    operator.execute_cdp_cmd("Network.enable", {})
    operator.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": "delete window.SharedWorker"})
    operator.execute_cdp_cmd("Network.setBlockedURLs", {"urls": ["*/feed?*"]})
    operator.refresh()
    wait(operator).until(lambda b: "Not connected since" in one(b, "[data-connection]").text)
    alarm = {"do": "alarm", "priority": "high", "title": "The patrol is out", "groups": [{"id": "operators"}]}
    with live(demo, patrolled([alarm])):
        press_patrol(demo)
        wait(operator, 20).until(lambda b: demo.get(f"/api/v1/alarms{SITE}&state=unacknowledged"))
        operator.execute_cdp_cmd("Network.setBlockedURLs", {"urls": []})
        toasted(operator, "Connected again")
        alarm_of(operator, "The patrol is out")
        wait(operator).until(lambda b: not b.find_element(By.CSS_SELECTOR, "[data-connection]").is_displayed())
        # A browser that slept for an hour says what came meanwhile.
        operator.execute_script(
            "addEventListener('pagehide', () => sessionStorage.setItem('heard', Date.now() - 3600000)); location.reload()"
        )
        toasted(operator, "1 alarm came meanwhile")
        assert rows(operator, ".alarm.missed")
    # What the browser says of requests that were cut off is no complaint about the page.
    operator.get_log("browser")


def test_a_computer_with_a_wrong_clock_is_told_and_shows_the_servers_times(demo, person):
    answer_what_waits(demo)
    operator = person("oskar", fresh=True)
    wrong = "const real = Date.now.bind(Date); Date.now = () => real() - 3 * 3600000"
    operator.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": wrong})
    operator.refresh()
    wait(operator).until(lambda b: "clock of this computer is wrong" in one(b, "[data-connection]").text)
    alarm = {"do": "alarm", "priority": "high", "title": "The patrol is out", "groups": [{"id": "operators"}]}
    with live(demo, patrolled([alarm])):
        press_patrol(demo)
        card = alarm_of(operator, "The patrol is out")
        assert "s ago" in card.text or "now" in card.text, "not three hours ahead"


#: What makes a page wider than its window: what reaches past the edge, and is not within something that is pushed sideways.
BEYOND = """
const width = arguments[0];
if (document.documentElement.scrollWidth <= width) return [];
const held = (e) => {
  for (let p = e.parentElement; p; p = p.parentElement)
    if (p !== document.body && getComputedStyle(p).overflowX !== "visible") return true;
  return false;
};
return [...document.querySelectorAll("body *")]
  .filter((e) => e.getBoundingClientRect().right > width + 1 && !held(e) && e.checkVisibility())
  .map((e) => `${e.tagName} ${e.className} ${e.innerText}`.slice(0, 80));
"""


def beyond(browser, width):
    return browser.execute_script(BEYOND, width)


def test_on_a_telephone_an_alarm_is_seen_opened_and_acknowledged(demo, person):
    answer_what_waits(demo)
    operator = person("oskar", fresh=True)
    alarm = {"do": "alarm", "priority": "high", "title": "The patrol is out", "groups": [{"id": "operators"}]}
    operator.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride", {"width": 390, "height": 800, "deviceScaleFactor": 1, "mobile": True}
    )
    # The bar is at its longest: a mode with an end beside its other words.
    until = datetime.now(UTC) + timedelta(hours=20)
    demo.call("PUT", f"/api/v1/situation/mode{SITE}", {"mode": "works", "until": until.isoformat()})
    operator.refresh()
    with live(demo, patrolled([alarm])):
        press_patrol(demo)
        card = alarm_of(operator, "The patrol is out")
        assert "until" in one(operator, "[data-mode-end]").text
        assert beyond(operator, 390) == [], "nothing reaches out sideways"
        link = card.find_element(By.CSS_SELECTOR, "[data-unfold]")
        operator.execute_script("arguments[0].scrollIntoView({block: 'center'})", link)
        link.click()
        one(operator, ".moment form[data-answer]")
        assert beyond(operator, 390) == []
        send = button(operator, "Acknowledge", "form[data-answer]")
        operator.execute_script("arguments[0].scrollIntoView({block: 'center'})", send)
        send.click()
        wait(operator).until(
            lambda b: "Oskar Lindwater answered" in b.find_element(By.CSS_SELECTOR, "[data-alarms]").text
        )
