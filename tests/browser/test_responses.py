"""From a forced door to what others received, and from a message's link back to its moment on a telephone."""

import json
import urllib.request

import pytest
from selenium.webdriver.common.by import By

from tests.browser.conftest import button, one, wait

pytestmark = [pytest.mark.browser, pytest.mark.slow]
G = "/s/quillmere-gardens"


def told(demo, what):
    return json.loads(urllib.request.urlopen(f"{demo.control}/{what}", timeout=10).read())


def test_a_forced_door_is_told_everywhere_and_the_link_leads_back_to_it(demo, person):
    integrator, telephone = person("ines"), person("oskar", fresh=True)
    integrator.get(f"{demo.address}{G}/deliveries")
    already = len(told(demo, "pushes"))
    demo.provoke("force-vault")
    wait(integrator, 60).until(lambda b: len(told(demo, "pushes")) > already)

    # What left stands on the page by itself, by the names that people know.
    wait(integrator, 30).until(lambda b: "Siren and light" in one(b, "main").text)
    rows = integrator.execute_script("return [...document.querySelectorAll('[data-delivery]')].map((r) => r.innerText)")
    assert any("Mail" in r and "Dara Quistfield" in r and "took it" in r for r in rows)
    assert any("SNMP" in r and "Network watch" in r and "confirmed" in r for r in rows)

    # The stand-ins show what they received, with pictures inside the mail.
    integrator.get(f"{demo.control}/received")
    page = one(integrator, "main").text
    assert "Urgent: Forced: Vault door" in page and "siren light: on" in page and "inform, confirmed" in page
    assert integrator.find_elements(By.CSS_SELECTOR, ".item img")

    # The link, on a telephone: the alarm with its pictures, to be answered there.
    link = next(t["link"] for t in reversed(told(demo, "pushes")) if "vault-forced" in t["link"])
    telephone.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride", {"width": 400, "height": 850, "deviceScaleFactor": 1, "mobile": True}
    )
    telephone.get(link)
    assert "The vault door is forced" in one(telephone, "h1").text
    wide = "return [document.documentElement.scrollWidth, innerWidth]"
    scroll, inner = telephone.execute_script(wide)
    assert scroll <= inner, "nothing is cut off at the side"
    one(telephone, "textarea[name='note']").send_keys("A drill.")
    button(telephone, "Acknowledge").click()
    wait(telephone).until(lambda b: not b.find_elements(By.CSS_SELECTOR, "form[data-answer]"))
    assert "A drill." in one(telephone, "[data-alarms]").text
