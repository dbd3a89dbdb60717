"""From an empty installation to a real site with a camera and a live rule, by its pages alone."""

import json
import os
import re
import subprocess
import sys
import urllib.request
from dataclasses import dataclass

import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.expected_conditions import alert_is_present
from selenium.webdriver.support.ui import Select

from dromikon.standins.run import PASSWORD, USER
from tests.browser.conftest import button, one, wait
from tools.browser import complaints, open_browser
from tools.ports import free_ports

pytestmark = [pytest.mark.browser, pytest.mark.slow]


@dataclass
class Installation:
    address: str
    code: str


@pytest.fixture
def installation(tmp_path):
    web, intake = free_ports(2)
    environment = {
        **os.environ, "DROMIKON_DATA": str(tmp_path / "data"), "DROMIKON_KEY_FILE": str(tmp_path / "key"),
        "DROMIKON_PORT": str(web), "DROMIKON_INTAKE_PORT": str(intake),
    }  # fmt: skip
    environment.pop("DROMIKON_OUTGOING", None)
    environment.pop("DROMIKON_DEV", None)
    with (tmp_path / "log").open("w") as log:
        command = [sys.executable, "-m", "dromikon", "start"]
        running = subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, stderr=log, text=True)
        try:
            said = ""
            while "code: " not in said:
                said = running.stdout.readline()
            yield Installation(f"http://127.0.0.1:{web}", re.search(r"code: (\S+)", said)[1])
        finally:
            running.terminate()
            assert running.wait(15) == 0
    assert "Traceback" not in (tmp_path / "log").read_text()


@pytest.fixture
def browser():
    opened = open_browser()
    yield opened
    said = [c for c in complaints(opened) if not any(code in c for code in ("404", "409", "422"))]
    opened.quit()
    assert said == []


def answers(address):
    try:
        return bool(urllib.request.urlopen(f"{address}/login", timeout=2))
    except OSError:
        return False


def fill(browser, **fields):
    for name, text in fields.items():
        field = one(browser, f"[name='{name}']")
        field.clear()
        field.send_keys(text)


def test_a_site_is_begun_a_camera_added_and_a_rule_made_live(demo, installation, browser):
    wait(browser, 30).until(lambda _: answers(installation.address))
    browser.get(installation.address)
    assert browser.current_url.endswith("/begin")
    fill(
        browser, code=installation.code, first_name="Greta", last_name="Moorcombe", username="greta",
        password="heather and peat", again="heather and peat", customer="Moorcombe Farms", site="Upper barn",
        areas="Yard\nBarn",
    )  # fmt: skip
    Select(one(browser, "[name='zone']")).select_by_value("Europe/London")
    assert one(browser, "[name='latitude']").get_attribute("value") == "51.51"
    button(browser, "Begin, and add a device").click()

    # Nothing may be called before an administrator allows it, and the form says so at its place.
    one(browser, "#d-address")
    camera = next(d for d in demo.get("/api/v1/devices?site=quillmere-gardens") if d["id"] == "cam-jetty")
    fill(browser, name="Yard camera", address=camera["address"], user=USER, password=PASSWORD)
    Select(one(browser, "#d-area")).select_by_visible_text("Yard")
    button(browser, "Save", ".drawer").click()
    wait(browser).until(lambda b: "an administrator can allow it" in one(b, "[data-problem='address']").text)
    site = browser.current_url.split("?")[0]
    browser.get(f"{installation.address}/setup/outgoing")
    hosts = one(browser, "[data-field='allowed'] input")
    hosts.send_keys("localhost", Keys.ENTER)
    wait(browser).until(lambda b: "Saved." in one(b, ".toast").text)

    # It is found by its address, and perhaps others on the link besides; it alone is chosen, named and added.
    browser.get(f"{site}/find")
    fill(browser, addresses=camera["address"], user=USER, password=PASSWORD)
    button(browser, "Search", ".find-form").click()
    wait(browser, 30).until(lambda b: "addresses asked" in one(b, "[data-progress]").text)
    for box in browser.find_elements(By.CSS_SELECTOR, "[data-choose]"):
        if box.get_attribute("data-choose") != camera["address"]:
            box.click()
    name = one(browser, f"[data-name='{camera['address']}']")
    name.clear()
    name.send_keys("Yard camera")
    Select(one(browser, "[data-area]")).select_by_visible_text("Yard")
    button(browser, "Add the chosen").click()
    button(browser, "Yard camera", "[data-outcomes]").click()
    # Its page leads on: what it offers becomes points, and what comes from it is seen coming.
    wait(browser, 60).until(lambda b: "/sources/device/" in b.current_url and "online" in one(b, ".page-head").text)
    wait(browser, 60).until(lambda b: b.find_elements(By.CSS_SELECTOR, "[data-adopt]"))
    while offers := browser.find_elements(By.CSS_SELECTOR, "[data-adopt]"):
        left = len(offers)
        offers[0].click()
        wait(browser).until(lambda b, n=left: len(b.find_elements(By.CSS_SELECTOR, "[data-adopt]")) < n)
    name = next(
        f for f in browser.find_elements(By.CSS_SELECTOR, "[data-rename]") if "line" in f.get_attribute("value")
    )
    name.send_keys(Keys.CONTROL, "a")
    name.send_keys("Line in the yard", Keys.ENTER)
    wait(browser).until(lambda b: "Line in the yard" in one(b, ".toast").text)
    demo.provoke("cross-jetty")
    row = wait(browser, 60).until(
        lambda b: next((r for r in b.find_elements(By.CSS_SELECTOR, "[data-recent] tr") if "yard" in r.text), False)
    )
    one(browser, ".proposed a")

    # The same device is not added twice, and a rule is made of its event; the check sends it to the first group.
    device = browser.current_url
    browser.get(f"{site}?open=new-device")
    fill(browser, address=camera["address"].replace("127.0.0.1", "localhost"), user=USER, password=PASSWORD)
    button(browser, "Save", ".drawer").click()
    wait(browser).until(lambda b: "which is here already" in one(b, "[data-problem='address']").text)
    browser.get(device)
    row = one(browser, "[data-recent] tr[data-event]")
    row.find_element(By.CSS_SELECTOR, "a").click()
    button(browser, "Make a rule from this", ".drawer").click()
    button(browser, "Send it to On duty").click()
    ActionChains(browser).key_down(Keys.CONTROL).send_keys("s").key_up(Keys.CONTROL).perform()
    wait(browser).until(lambda b: "/rulebook/new" not in b.current_url)
    one(browser, ".editor-head .switch").click()
    wait(browser).until(lambda b: "On. It decides from the next event" in b.page_source)

    demo.provoke("cross-jetty")
    browser.get(site.replace("/sources", "/desk"))
    alarm = one(browser, "[data-alarm][data-open='1']", 60)
    assert "Line in the yard" in alarm.text and "Yard" in alarm.text


def test_things_are_added_changed_and_taken_away_by_keyboard(demo, person):
    browser = person("ada")
    browser.get(f"{demo.address}/s/quillmere-gardens/setup/areas")
    ActionChains(browser).send_keys("n").perform()
    one(browser, ".drawer [data-field='name'] input").send_keys("Fern House")
    ActionChains(browser).key_down(Keys.CONTROL).send_keys("s").key_up(Keys.CONTROL).perform()
    # Asked of the page at once: it is about to be another one.
    made = "return [...document.querySelectorAll('.thing')].find((x) => x.textContent.trim() === 'Fern House')"
    opener = wait(browser).until(lambda b: b.execute_script(made))
    opener.send_keys(Keys.ENTER)
    name = one(browser, ".drawer [data-field='name'] input")
    name.send_keys(Keys.CONTROL, "a")
    name.send_keys(Keys.BACKSPACE, Keys.ENTER)
    wait(browser).until(lambda b: "This is needed." in one(b, "[data-problem-at='name']").text)
    name.send_keys("Fern and Moss House", Keys.ENTER)
    wait(browser).until(lambda b: "Fern and Moss House" in one(b, ".setup-list").text)
    browser.get(f"{demo.address}/s/quillmere-gardens/setup/points?open=jetty-line")
    button(browser, "Take away", ".drawer").click()
    said = wait(browser).until(alert_is_present())
    assert "Jetty line is named by" in said.text
    said.dismiss()
    ActionChains(browser).send_keys(Keys.ESCAPE).perform()
    wait(browser).until(lambda b: not b.find_elements(By.CSS_SELECTOR, ".drawer"))
    made = next(t for t in demo.get("/api/v1/setup/areas?site=quillmere-gardens") if t["name"] == "Fern and Moss House")
    demo.call("DELETE", f"/api/v1/setup/areas/{made['id']}?site=quillmere-gardens")


def test_a_token_is_shown_once_in_the_sheet(demo, person):
    browser = person("ines")
    browser.get(f"{demo.address}/s/quillmere-gardens/setup/intakes?open=new")
    one(browser, ".drawer [data-field='name'] input").send_keys("Gate bell", Keys.ENTER)
    token = one(browser, "[data-shown]").text
    assert token.startswith("dri_")
    button(browser, "I have it").click()
    wait(browser).until(lambda b: "Gate bell" in one(b, ".setup-list").text and token not in b.page_source)
    made = next(t for t in demo.get("/api/v1/setup/intakes?site=quillmere-gardens") if t["name"] == "Gate bell")
    message = urllib.request.Request(
        f"{demo.intake}/in/{made['id']}",
        json.dumps({"kind": "button.pressed", "point": "gate-help", "phase": "pulse"}).encode(),
        {"Authorization": f"Bearer {token}", "Content-Type": "application/json"},
    )
    assert urllib.request.urlopen(message, timeout=5).status == 202
    demo.call("DELETE", f"/api/v1/setup/intakes/{made['id']}?site=quillmere-gardens")
