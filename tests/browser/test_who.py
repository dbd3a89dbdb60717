"""A stranger's face is enrolled from where it was seen, and opens a door together with a card."""

import urllib.parse
import urllib.request

import pytest
from selenium.webdriver.common.by import By

from dromikon.standins.faces.model import template_of
from tests.browser.conftest import button, one, wait

pytestmark = [pytest.mark.browser, pytest.mark.slow]
G = "quillmere-gardens"
SITE = f"?site={G}"
CARD, NAME = "Q-1043", "Clio Fenwright"
ENTRIES = f"/api/v1/lists/garden-staff/entries{SITE}"
VAULT = {"points": [{"id": "vault-door", "name": "Vault door"}]}
#: A face of the list and a card within twenty seconds: neither alone opens anything.
BOTH = {
    "name": "Face and card open the vault",
    "cause": {
        "cause": "together",
        "of": [
            {"kind": "face.seen", "phase": "pulse", "where": {"points": [{"id": "vault-face"}]},
             "provided": {"test": "list", "field": "template", "among": {"id": "garden-staff"}, "how": "similar", "similarity": 80}},
            {"kind": "access.granted", "phase": "pulse", "where": VAULT},
        ],
        "within": 20,
        "join": {"per": "area"},
    },
    "response": [{"do": "door", "target": {"point": {"id": "vault-door"}}, "set": "release"}],
}  # fmt: skip


@pytest.fixture
def unknown(demo):
    """Clio's card is known, her face is not."""
    demo.call("PATCH", ENTRIES, {"drop": [CARD]})
    yield
    left = [entry["value"] for entry in demo.get(f"{ENTRIES}&wanted=Clio")["entries"]]
    entry = {"value": CARD, "label": NAME, "note": "may enter the vault", "template": template_of(NAME)}
    demo.call("PATCH", ENTRIES, {"drop": left, "put": [{"entry": entry}]})


def strangers(demo, browser):
    browser.get(f"{demo.address}/s/{G}/who?show=strangers&over=day")
    return browser.find_elements(By.CSS_SELECTOR, ".passage")


def fired(demo, rule):
    return [run for run in demo.get(f"/api/v1/runs{SITE}&rule={rule}") if run["steps"]]


def test_a_face_is_enrolled_from_a_sighting_and_opens_a_door_with_a_card(demo, person, unknown):
    dara = person("dara")
    before = len(strangers(demo, dara))
    made = demo.call("POST", f"/api/v1/rules{SITE}", {"document": BOTH})
    demo.call("POST", f"/api/v1/rules/{made['id']}/enable{SITE}", {"enabled": True})
    demo.provoke("enter-vault")
    wait(dara, 60).until(lambda b: len(strangers(demo, b)) > before, "she is not seen")
    dara.find_element(By.LINK_TEXT, "what followed").click()
    name = wait(dara).until(lambda b: b.find_elements(By.CSS_SELECTOR, "[data-list='garden-staff'] input"))[0]
    assert fired(demo, made["id"]) == [], "a card alone opens nothing"
    name.send_keys("Clio from the wall")
    one(dara, "[data-list='garden-staff'] button").click()
    wait(dara).until(lambda b: b.find_elements(By.CSS_SELECTOR, "[data-list='garden-staff'] input") == [])
    assert "Clio from the wall" in {e["value"] for e in demo.get(f"{ENTRIES}&wanted=Clio")["entries"]}
    demo.provoke("enter-vault")
    wait(dara, 60).until(lambda _: fired(demo, made["id"]), "face and card have opened nothing")
    wait(dara, 30).until(lambda _: fired(demo, made["id"])[0]["steps"][0]["status"] == "done")
    dara.get(f"{dara.current_url.split('/who')[0]}/who?show=known&over=day")
    assert "Clio from the wall" in one(dara, ".passage").text


@pytest.fixture
def photos(demo, tmp_path):
    """`photos("Hesper Lowfield")`: the path of a portrait."""

    def fetch(name):
        path = tmp_path / f"{name}.jpg"
        address = f"{demo.control}/portraits/{urllib.parse.quote(name)}.jpg"
        path.write_bytes(urllib.request.urlopen(address, timeout=20).read())
        return str(path)

    yield fetch
    demo.call("PATCH", ENTRIES, {"drop": ["Q-2001"]})


def test_somebody_is_put_on_a_list_by_a_photo_and_somebody_else_looked_for_by_one(demo, person, photos):
    dara = person("dara")
    dara.get(f"{demo.address}/s/{G}/lists/garden-staff")
    choose = dara.find_element(By.CSS_SELECTOR, "[data-picture]")
    choose.send_keys(photos("nobody"))
    wait(dara).until(lambda b: "No face is seen" in one(b, "[data-by-picture] .problem").text)
    choose.send_keys(photos("Hesper Lowfield"))
    assert "Good enough" in one(dara, ".enrol .better").text
    one(dara, ".enrol [name=value]").send_keys("Q-2001")
    one(dara, ".enrol [name=label]").send_keys("Hesper Lowfield")
    one(dara, ".enrol [name=agreed]").click()
    button(dara, "Put on this list").click()
    wait(dara).until(lambda b: b.find_elements(By.CSS_SELECTOR, ".enrol") == [])
    (entry,) = demo.get(f"{ENTRIES}&wanted=Hesper")["entries"]
    assert entry["faces"] == 1 and entry["agreed"] == entry["pictured"]
    choose.send_keys(photos("Hesper Lowfield"))
    button(dara, "Add this picture to Hesper Lowfield").click()
    wait(dara).until(lambda _: demo.get(f"{ENTRIES}&wanted=Hesper")["entries"][0]["faces"] == 2)
    dara.get(f"{demo.address}/s/{G}/who/by-picture")
    one(dara, "[name=picture]").send_keys(photos("Agnes Marlowe"))
    button(dara, "Look for them").click()
    known = wait(dara).until(lambda b: b.find_elements(By.CSS_SELECTOR, ".passage.known strong"))
    assert {name.text for name in known} == {"Agnes Marlowe"}
