"""The screenshots of docs/screenshots, made from a fresh demo as a person would see it."""

import base64
import json
import sys
import tempfile
import time
import urllib.request
from datetime import datetime
from pathlib import Path
from urllib.parse import urlsplit

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tools.browser import complaints, log_in, open_browser, set_theme
from tools.demo_process import Demo, start_demo

FOLDER = Path(__file__).resolve().parent.parent / "docs" / "screenshots"
G = "/s/quillmere-gardens"

#: name, who looks, theme, address ({noon}: the last one, in ms), seconds to wait, what to click, and a key to press then.
VIEWS = (
    ("desk", "oskar", "day", f"{G}/desk", 3, None),
    ("desk-night", "oskar", "night", f"{G}/desk", 3, None),
    ("display", "vera", "night", f"{G}/display/lodge-wall", 4, None),
    ("daybook", "ines", "day", f"{G}/daybook", 2, "[data-span='86400000']"),
    ("rulebook", "ines", "day", f"{G}/rulebook", 2, None),
    ("rule-editor", "ines", "day", f"{G}/rulebook/jetty-closed", 4, None),
    ("hours", "ines", "night", f"{G}/hours/garden-hours", 2, None),
    ("archive", "oskar", "day", f"{G}/archive?camera=jetty,lake,gate,palm&at={{noon}}", 14, None),
    ("records", "ines", "day", f"{G}/records?words=vault&last=2592000000", 1, None),
    ("heat", "ines", "night", f"{G}/sources/device/cam-flue/detectors", 5, "[data-measure]|Enter"),
    ("sources", "ines", "day", f"{G}/sources", 3, None),
    ("plan", "ines", "day", f"{G}/sources/plan", 3, None),
    ("own", "ines", "night", f"{G}/sources/scene/jetty?detector=jetty-deck", 4, ".own-page .btn.own"),
    ("siting", "ines", "day", f"{G}/sources/siting/gate", 3, None),
    ("counts", "oskar", "day", f"{G}/counts/visitors?over=week", 2, None),
    ("who", "dara", "day", f"{G}/who", 50, None),
    ("quality", "oskar", "day", f"{G}/desk/quality", 2, None),
)


def take(demo: Demo, folder: Path) -> None:
    """All views; says what the page's console complained about."""
    demo.provoke("cross-jetty")
    _send_from_the_kiosk(demo)
    time.sleep(19)
    for view in VIEWS:
        take_view(demo, folder, *view)
    take_view(demo, folder, "case", "dara", "day", _case(demo), 3, None)
    # Its alarm would be on the other pictures.
    demo.provoke("force-vault")
    moment = _moment(demo)
    time.sleep(5)
    take_view(demo, folder, "moment", "oskar", "day", moment, 3, None)


def noon() -> int:
    """The last time that it was noon in UTC."""
    day = 86_400_000
    now = int(time.time() * 1000)
    return now - (now - day // 2) % day


def _case(demo: Demo) -> str:
    """A case with a clip of two cameras, an alarm and a note, once all of it is copied."""
    site = "?site=quillmere-gardens"
    case = demo.call("POST", f"/api/v1/cases{site}", {"title": "Somebody past the chain on the jetty"})["id"]
    answered = [a for a in demo.get(f"/api/v1/alarms{site}&limit=200") if a["point"] == "jetty-line" and a["note"]]
    alarm = next((a for a in answered if "visitor" in a["tags"]), answered[0])
    at = int(datetime.fromisoformat(alarm["zero"]).timestamp() * 1000)
    for piece in (
        {"add": "clip", "cameras": "jetty,lake", "start": at - 5_000, "end": at + 10_000},
        {"add": "alarm", "ref": int(alarm["id"])},
        {"add": "note", "text": "The chain at the head of the jetty is to be mended."},
    ):
        demo.post(f"/api/v1/cases/{case}/pieces{site}", piece)
    for _ in range(90):
        if all(p["state"] == "ready" for p in demo.get(f"/api/v1/cases/{case}{site}")["pieces"]):
            break
        time.sleep(1)
    return f"{G}/cases/{case}"


def _moment(demo: Demo) -> str:
    """Where the push message about the vault leads, once it has come."""
    for _ in range(60):
        told = json.loads(urllib.request.urlopen(f"{demo.control}/pushes", timeout=10).read())
        found = [t["link"] for t in told if "vault-forced" in t.get("link", "")]
        if found:
            break
        time.sleep(1)
    return str(urlsplit(found[-1]).path)


def _send_from_the_kiosk(demo: Demo) -> None:
    """Messages of the old till, of which only one is an event as it stands."""
    account = base64.b64encode(b"kiosk:quillmere-kiosk").decode()
    for body in (
        b"kind=button.pressed&point=gate-help&person=Kiosk",
        b'{"till": 3, "alarm": {"what": "DRY", "spot": "by the pumps"}, "at": 1795715000}',
        b'{"till": 3, "alarm": {"what": "WATER", "spot": "by the pumps"}, "at": 1795715060}',
    ):
        type = "application/json" if body.startswith(b"{") else "application/x-www-form-urlencoded"
        headers = {"Authorization": f"Basic {account}", "Content-Type": type}
        urllib.request.urlopen(urllib.request.Request(f"{demo.intake}/in/kiosk", body, headers), timeout=10).read()


def take_view(
    demo: Demo, folder: Path, name: str, person: str, theme: str, path: str, wait: float, click: str | None
) -> None:
    browser = open_browser()
    log_in(browser, demo.address, person, demo.password)
    set_theme(browser, theme)
    browser.get(demo.address + path.format(noon=noon()))
    time.sleep(wait)
    if click:
        selector, _, key = click.partition("|")
        browser.find_elements(By.CSS_SELECTOR, selector)[0].click()
        if key:
            browser.switch_to.active_element.send_keys(getattr(Keys, key.upper()))
        time.sleep(6)
    browser.save_screenshot(str(folder / f"{name}.png"))
    print(name, *complaints(browser))
    browser.quit()


def main() -> int:
    FOLDER.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        demo = start_demo(Path(folder) / "data")
        try:
            take(demo, FOLDER)
        finally:
            demo.stop()
    return 0


if __name__ == "__main__":
    sys.exit(main())
