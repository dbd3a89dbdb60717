"""A headless Chromium as the browser tests and the screenshots use it."""

import shutil
import tempfile
from pathlib import Path

from selenium import webdriver
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import WebDriverWait

#: Where little memory is shared, as in some containers, a disk takes its place.
_SHARED = Path("/dev/shm")  # noqa: S108
_LARGE = _SHARED.is_dir() and shutil.disk_usage(_SHARED).free > 1 << 30
SMALL_MEMORY = () if _LARGE else ("--disable-dev-shm-usage",)


class Browser(webdriver.Chrome):
    """One that leaves nothing behind when it is closed."""

    def __init__(self, profile: str, options: webdriver.ChromeOptions, service: webdriver.ChromeService) -> None:
        super().__init__(options=options, service=service)
        self._profile = profile

    def quit(self) -> None:
        super().quit()
        shutil.rmtree(self._profile, ignore_errors=True)


def open_browser(width: int = 1280, height: int = 800) -> webdriver.Chrome:
    """Debian's Chromium with a fresh profile and no network of its own."""
    profile = tempfile.mkdtemp(prefix="chromium-")
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for flag in (
        "--headless=new", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
        "--disable-component-update", "--disable-sync", "--force-prefers-reduced-motion", "--hide-scrollbars", "--mute-audio",
        f"--window-size={width},{height}", f"--user-data-dir={profile}", *SMALL_MEMORY,
    ):  # fmt: skip
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    browser = Browser(profile, options, webdriver.ChromeService("/usr/bin/chromedriver"))
    browser.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False},
    )
    return browser


def log_in(browser: webdriver.Chrome, address: str, user: str, password: str) -> None:
    """Through the log-in page, as a person would."""
    browser.get(f"{address}/login")
    browser.find_element(By.ID, "id_username").send_keys(user)
    browser.find_element(By.ID, "id_password").send_keys(password)
    browser.find_element(By.CSS_SELECTOR, "form button.own").click()
    # The click may return before the answer is there; whoever goes on too soon goes on as nobody.
    WebDriverWait(browser, 30).until(lambda b: "/login" not in b.current_url)


def set_theme(browser: webdriver.Chrome, name: str) -> None:
    browser.add_cookie({"name": "theme", "value": name, "path": "/"})


def complaints(browser: webdriver.Chrome) -> list[str]:
    """What the page's console complained about since last asked."""
    return [entry["message"] for entry in browser.get_log("browser") if entry["level"] in ("SEVERE", "WARNING")]
