"""Sources as an integrator uses them: the plan by keyboard, a detector on its picture, what is said in a session."""

import base64
import json
import urllib.request

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tests.browser.conftest import one, wait

pytestmark = [pytest.mark.browser, pytest.mark.slow]
GARDENS, NURSERY = "/s/quillmere-gardens", "/s/quillmere-nursery"


def click(browser, selector):
    """Click what may be drawn anew just now."""
    wait(browser).until(lambda b: one(b, selector).click() or True)


def button(browser, words, within="main"):
    return wait(browser).until(
        lambda b: next((e for e in b.find_elements(By.CSS_SELECTOR, f"{within} button") if words in e.text), False)
    )


def test_a_point_is_moved_on_the_plan_by_keyboard_and_back(demo, person):
    browser = person("ines")
    browser.get(f"{demo.address}{NURSERY}/sources/plan")
    where = lambda: one(browser, "[data-point='yard-gate']").get_attribute("transform")
    before = where()
    button(browser, "Place points").click()
    one(browser, "[data-point='yard-gate']").send_keys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
    wait(browser).until(lambda b: where() != before)
    kept = lambda: browser.execute_async_script(
        'fetch(location.href).then((r) => r.text()).then((t) => arguments[0](/"yard-gate"[^}]*?"x": ([0-9.]+)/.exec(t)[1]))'
    )
    wait(browser).until(lambda b: kept() == "61.0")
    one(browser, "[data-point='yard-gate']").send_keys(Keys.CONTROL, "z")
    one(browser, "[data-point='yard-gate']").send_keys(Keys.CONTROL, "z")
    wait(browser).until(lambda b: where() == before and kept() == "60.0")


def test_the_plan_shows_a_door_that_opens_and_who_looks_at_it(demo, person):
    browser = person("ines")
    browser.get(f"{demo.address}{GARDENS}/sources/plan")
    one(browser, "[data-point='vault-door']").send_keys(Keys.ENTER)
    wait(browser).until(lambda b: "Vault forecourt" in one(b, ".plan-side").text)
    demo.provoke("enter-vault")
    wait(browser, 40).until(lambda b: "on" in one(b, "[data-point='vault-door']").get_attribute("class").split())


def test_a_detector_is_drawn_and_set_on_the_device(demo, person):
    browser = person("ines")
    page = f"{demo.address}{NURSERY}/sources/device/cam-yard/detectors"
    browser.get(page)
    one(browser, "[data-open='vsc0/Loading bay']").click()
    threshold = one(browser, "[name='TimeThreshold']")
    assert threshold.get_attribute("value") == "10"
    threshold.clear()
    threshold.send_keys("soon")
    button(browser, "Set on the device", "form:not([hidden])").click()
    wait(browser).until(lambda b: "Give a number" in one(b, "[data-problem='settings.TimeThreshold']").text)
    drawn = lambda: one(browser, ".opened polygon").get_attribute("points")
    before = drawn()
    one(browser, "[data-corner='0-0']").send_keys(Keys.ARROW_LEFT)
    assert drawn() != before
    threshold.clear()
    threshold.send_keys("12")
    button(browser, "Set on the device", "form:not([hidden])").click()
    wait(browser).until(lambda b: "The device has taken it" in one(b, ".toast").text)
    # Its session learns it, and rules know how long it watches.
    waits = lambda b: {p["id"]: p["waits"] for p in demo.get("/api/v1/points?site=quillmere-nursery")}["loading-bay"]
    wait(browser, 20).until(lambda b: waits(b) == 12)
    browser.get(f"{page}?detector=vsc0/Loading bay")
    threshold = one(browser, "[name='TimeThreshold']")
    threshold.clear()
    threshold.send_keys("10")
    button(browser, "Set on the device", "form:not([hidden])").click()
    wait(browser, 20).until(lambda b: waits(b) == 10)


def test_what_is_said_in_a_session_can_be_watched_without_its_password(demo, person):
    browser = person("ines")
    browser.get(f"{demo.address}{GARDENS}/sources/device/cam-gate/session")
    button(browser, "Ask it again").click()
    one(browser, ".exchange summary", 30)
    wait(browser, 20).until(lambda b: "GetRules" in one(b, "[data-exchanges]").text)
    browser.execute_script("for (const d of document.querySelectorAll('details')) d.open = true")
    said = one(browser, "[data-exchanges]").text
    assert "Username>onlooker<" in said and "•••" in said and "heron-blue" not in said


def test_what_a_camera_sees_is_drawn_over_the_picture_of_its_moment(demo, person):
    browser = person("ines")
    browser.get(f"{demo.address}{NURSERY}/sources/device/cam-yard/detectors")
    demo.provoke("linger")
    see = button(browser, "Show what it sees")
    see.click()
    wait(browser, 40).until(
        lambda b: "Human" in one(b, "[data-seen-words]").text and b.find_elements(By.CSS_SELECTOR, "[data-seen] rect")
    )
    see.click()
    wait(browser).until(lambda b: not b.find_elements(By.CSS_SELECTOR, "[data-seen] rect"))


def test_a_decoder_is_taught_from_an_unclaimed_message_by_clicking(demo, person):
    def send(state):
        body = json.dumps({"till": 3, "alarm": {"what": state, "spot": "by the pumps"}}).encode()
        headers = {"Authorization": f"Basic {base64.b64encode(b'kiosk:quillmere-kiosk').decode()}"}
        urllib.request.urlopen(urllib.request.Request(f"{demo.intake}/in/kiosk", body, headers), timeout=10).read()

    browser = person("ines")
    send("WATER")
    browser.get(f"{demo.address}{GARDENS}/sources")
    one(browser, "[data-unclaimed] a").click()
    Select(one(browser, "[data-key='kind']")).select_by_visible_text("Contact on")
    for leaf, as_ in (("$.till", "when"), ("$.alarm.spot", "point"), ("$.alarm.what", "begins")):
        click(browser, f"[data-leaf='{leaf}']")
        click(browser, f"[data-use='{as_}']")
    Select(one(browser, "[data-place='by the pumps']")).select_by_visible_text("Leak sensor")
    wait(browser).until(lambda b: "input.active begin · Leak sensor" in one(b, "[data-becomes]").text)
    one(browser, "[data-form] [data-field='name'] input").send_keys("Water at the till")
    button(browser, "Save").click()
    wait(browser).until(lambda b: "Saved. It reads from the next message on." in one(b, ".toast").text)
    send("WATER")
    events = lambda: demo.get("/api/v1/events?site=quillmere-gardens&point=leak&limit=1")["events"]
    wait(browser).until(lambda b: [(e["kind"], e["phase"]) for e in events()] == [("input.active", "begin")])
    made = next(
        d for d in demo.get("/api/v1/setup/decoders?site=quillmere-gardens") if d["name"] == "Water at the till"
    )
    demo.call("DELETE", f"/api/v1/setup/decoders/{made['id']}?site=quillmere-gardens")
    demo.tell({"kind": "input.active", "point": "leak", "phase": "end"})
