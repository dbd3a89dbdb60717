"""The made-up language in the real pages: what scripts write has its words from the catalogue, too."""

import re
import sqlite3
from contextlib import closing

import pytest
from django.conf import settings

from dromikon.core.kinds import KINDS
from tests.browser.conftest import one, wait
from tests.foreign import LANGUAGE, escaped
from tests.web.test_words import DATES, NAMES

pytestmark = [pytest.mark.browser, pytest.mark.slow]
G = "/s/quillmere-gardens"
#: Units, and what browsers and editors write by themselves.
UNITS = "min day pictures"
TABLES = (
    "rulebook_rule", "rulebook_revision", "sites_area", "sites_group", "sources_point", "sources_device", "lists_watchlist",
    "hours_hours", "people_person", "archive_bookmark", "desk_alarm", "daybook_line", "sites_site", "sites_counter",
    "daybook_step", "lists_content", "sources_intake",
)  # fmt: skip
READ = """
  const shown = (e) => e.checkVisibility && e.checkVisibility();
  const found = [];
  const walk = (node) => {
    for (const child of node.childNodes) {
      if (child.nodeType === 3 && child.data.trim()) found.push(child.data.trim());
      if (child.nodeType !== 1 || !shown(child) || ["SCRIPT", "STYLE", "PRE", "TEXTAREA", "KBD"].includes(child.tagName)) continue;
      for (const name of ["title", "placeholder", "aria-label", "alt"]) if (child.getAttribute(name)) found.push(child.getAttribute(name));
      walk(child);
    }
  };
  walk(document.body);
  return found;
"""


@pytest.fixture(scope="module")
def data(demo):
    with closing(sqlite3.connect(f"file:{demo.folder}/dromikon.sqlite3?mode=ro", uri=True)) as connection:
        rows = [row for table in TABLES for row in connection.execute(f"SELECT * FROM {table} LIMIT 3000")]  # noqa: S608
    return " ".join(str(value) for row in rows for value in row)


@pytest.fixture(scope="module")
def reader(demo, lasting_person):
    browser = lasting_person("ines")
    browser.add_cookie({"name": settings.LANGUAGE_COOKIE_NAME, "value": LANGUAGE, "path": "/"})

    def open_page(path):
        browser.get(f"{demo.address}{path}")
        wait(browser).until(lambda b: b.execute_script("return Boolean(window.Alpine) && Boolean(window.django)"))
        return browser

    return open_page


@pytest.fixture(scope="module")
def left(demo, data):
    """What of a page in the browser escaped: neither words of the catalogue nor the site's own."""
    return lambda browser: escaped(browser.execute_script(READ), f"{data} {told(demo)} {NAMES} {DATES} {UNITS}")


def told(demo):
    """What devices lately told in their own words: plates, cards, persons. More comes while the pages are read."""
    free = sorted({field.name for kind in KINDS for field in kind.fields if field.type == "text"})
    query = f"""SELECT told.value FROM (SELECT fields FROM daybook_event ORDER BY seq DESC LIMIT 500) newest, json_each(newest.fields) told
        WHERE told.key IN ({",".join("?" * len(free))})"""  # noqa: S608
    with closing(sqlite3.connect(f"file:{demo.folder}/dromikon.sqlite3?mode=ro", uri=True)) as connection:
        return " ".join(str(value) for (value,) in connection.execute(query, free))


@pytest.mark.parametrize(
    ("page", "there"),
    [
        ("desk", ".cell"), ("daybook", "[data-recent] tr"), ("rulebook", "[data-rule]"), ("archive", ".bookmark"),
        ("lists/garden-staff", ".entries input"), ("sources", ".source-area"),
        ("sources/plan", "[data-point]"), ("sources/device/cam-jetty", "[data-rename]"),
        ("sources/device/cam-jetty/detectors", ".watched"), ("sources/readings/freezer-temp", ".readings"),
        ("sources/intake/orchid-broker", "[data-came] [data-sent]"), ("sources/siting/gate", ".stands"),
        ("counts/visitors", ".counts-chart"),
    ],
)  # fmt: skip
def test_no_words_of_a_screen_escape(reader, left, page, there):
    browser = reader(f"{G}/{page}")
    one(browser, there)
    wait(browser).until(lambda b: not left(b), f"left over: {left(browser)[:12]}")


@pytest.mark.parametrize("rule", ["boiler-hot", "vault-no-card"])
def test_no_words_of_the_editor_escape(reader, left, rule):
    browser = reader(f"{G}/rulebook/{rule}")
    one(browser, "[data-sentence] a")
    one(browser, ".part-open")
    wait(browser).until(lambda b: re.search(r"\d", one(b, ".past p strong.figures").text))
    wait(browser).until(lambda b: not left(b), f"left over: {left(browser)[:12]}")
