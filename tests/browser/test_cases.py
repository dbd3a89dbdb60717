"""From a word to the moment, from there into a case with somebody hidden, and out as an archive that opens from a disk."""

import io
import time
import urllib.request
import zipfile

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import button, one, wait

pytestmark = [pytest.mark.browser, pytest.mark.slow]
G = "/s/quillmere-gardens"
#: A clip reaches so far behind the moment that it is made of, in seconds.
AFTER = 20


def states(browser):
    browser.refresh()
    return [p.text for p in browser.find_elements(By.CSS_SELECTOR, ".piece .shown")]


def copied(browser, count):
    return len(browser.find_elements(By.CSS_SELECTOR, ".piece video")) == count


def test_a_case_is_gathered_somebody_hidden_and_handed_over(demo, person, tmp_path):
    since = time.time()
    demo.provoke("cross-jetty")
    crossed = lambda _: _crossing(demo, since)
    at = wait(None, 60).until(crossed)
    time.sleep(max(0.0, at + AFTER + 2 - time.time()))
    dara = person("dara")
    dara.find_element(By.TAG_NAME, "body").send_keys("/")
    dara.switch_to.active_element.send_keys("jetty line human", Keys.ENTER)
    one(dara, "[data-record^=event] a[href*='/archive?camera=jetty']").send_keys(Keys.ENTER)
    button(dara, "Several in step").send_keys(Keys.ENTER)
    one(dara, "[data-choose=lake]").send_keys(Keys.ENTER)
    wait(dara).until(lambda b: len(b.find_elements(By.CSS_SELECTOR, "[data-screens] figure")) == 2)
    wait(dara).until(lambda b: "lake" in one(b, "[data-into-case]").get_attribute("href"))
    one(dara, "[data-into-case]").send_keys(Keys.ENTER)
    one(dara, "input[name=title]").send_keys("A walker", Keys.ENTER)
    wait(dara, 120).until(lambda b: states(b) and copied(b, 2), "the clips are not copied")
    button(dara, "Hide somebody").send_keys(Keys.ENTER)
    one(dara, ".hide input[name=who]").send_keys(Keys.SPACE)
    button(dara, "Make it so").send_keys(Keys.ENTER)
    wait(dara, 120).until(lambda b: states(b) and copied(b, 2) and "somebody is hidden in it" in b.page_source)
    archive = one(dara, "a[href$='/archive'][download]").get_attribute("href")
    with zipfile.ZipFile(io.BytesIO(_fetched(dara, archive))) as opened:
        opened.extractall(tmp_path)
    dara.get((tmp_path / "index.html").as_uri())
    assert one(dara, "h1").text == "A walker"
    ready = "return [...document.querySelectorAll('video')].map((v) => v.readyState > 0 && v.videoWidth)"
    wait(dara).until(lambda b: b.execute_script(ready) == [960, 960], "a clip does not play from the disk")
    assert "hid in case" in dara.page_source and "Dara Quistfield" in dara.page_source


def _crossing(demo, since):
    """When somebody crossed the line, in seconds."""
    found = demo.get(
        "/api/v1/records?site=quillmere-gardens&last=600000&sort=event&kind=scene.line_crossed&point=jetty-line"
    )
    moments = [row["at"] / 1000 for row in found["records"] if row["at"] / 1000 > since]
    return moments[-1] if moments else None


def _fetched(browser, address):
    session = browser.get_cookie("sessionid")["value"]
    request = urllib.request.Request(address, headers={"Cookie": f"sessionid={session}"})
    return urllib.request.urlopen(request, timeout=60).read()
