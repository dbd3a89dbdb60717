"""The screenshots of docs/screenshots, made from a fresh demo as a person would see it."""

import base64
import json
import sys
import tempfile
import time
import urllib.request
from pathlib import Path
from urllib.parse import urlsplit

from selenium.webdriver.common.by import By

from tools.browser import complaints, log_in, open_browser, set_theme
from tools.demo_process import Demo, start_demo

FOLDER = Path(__file__).resolve().parent.parent / "docs" / "screenshots"
G = "/s/quillmere-gardens"

#: name, who looks, theme, address, seconds to wait, what to click.
VIEWS = (
    ("desk", "oskar", "day", f"{G}/desk", 3, None),
    ("desk-night", "oskar", "night", f"{G}/desk", 3, None),
    ("display", "vera", "night", f"{G}/display/lodge-wall", 4, None),
    ("daybook", "ines", "day", f"{G}/daybook", 2, "[data-span='86400000']"),
    ("rulebook", "ines", "day", f"{G}/rulebook", 2, None),
    ("rule-editor", "ines", "day", f"{G}/rulebook/jetty-closed", 4, None),
    ("matrix", "ines", "night", f"{G}/rulebook/matrix", 1, None),
    ("lists", "ines", "day", f"{G}/lists/staff-plates", 4, None),
    ("hours", "ines", "night", f"{G}/hours/garden-hours", 2, None),
    ("archive", "oskar", "day", f"{G}/archive", 3, "[data-bookmark]"),
    ("sources", "ines", "day", f"{G}/sources", 3, None),
    ("plan", "ines", "day", f"{G}/sources/plan", 3, None),
    ("own", "ines", "night", f"{G}/sources/scene/jetty?detector=jetty-deck", 4, ".own-page .btn.own"),
    ("siting", "ines", "day", f"{G}/sources/siting/gate", 3, None),
    ("counts", "oskar", "day", f"{G}/counts/visitors?over=week", 2, None),
    ("who", "dara", "day", f"{G}/who", 50, None),
    ("quality", "oskar", "day", f"{G}/desk/quality", 2, None),
)
#: Its rule sends to the outside; the alarm it raises would be on the other pictures.
SENT = ("deliveries", "ines", "night", f"{G}/deliveries", 1, None)


def take(demo: Demo, folder: Path) -> None:
    """All views; says what the page's console complained about."""
    demo.provoke("cross-jetty")
    _send_from_the_kiosk(demo)
    time.sleep(19)
    for view in VIEWS:
        take_view(demo, folder, *view)
    take_sent(demo, folder)


def take_sent(demo: Demo, folder: Path) -> None:
    """What a forced door sends out, and the alarm that it raises."""
    demo.provoke("force-vault")
    moment = _moment(demo)
    time.sleep(5)
    take_view(demo, folder, *SENT)
    take_view(demo, folder, "moment", "oskar", "day", moment, 3, None)


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
    browser.get(demo.address + path)
    time.sleep(wait)
    if click:
        browser.find_elements(By.CSS_SELECTOR, click)[0].click()
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
