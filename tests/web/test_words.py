"""Words: no page of the server lets a word escape the catalogue, and the core speaks the page's language."""

import pytest
from django.apps import apps
from django.conf import settings
from django.test import override_settings
from django.utils import translation

from dromikon.core import words
from dromikon.setup.registry import SORTS
from tests.conftest import GARDENS
from tests.foreign import LANGUAGE, Texts, bare, escaped, foreign
from tools.words import write_language

pytestmark = [pytest.mark.django_db, pytest.mark.timeless]
#: Names of days and months are Django's own.
DATES = "Mon Tue Wed Thu Fri Sat Sun Jan Feb Mar Apr May Jun Jul Aug Sep Oct Nov Dec"
#: Names that are the same in every language, and the languages of formats.
NAMES = "UDP paper sheet raised ink quiet line strong own good wait alert detector camera button Dromikon ONVIF CSV JSON YAML POST Content Type API Esc Ctrl Enter Space Europe London min http https datetime byte bytes KB MB GB UTC ms"


@pytest.fixture(autouse=True)
def _english_again():
    """A page leaves its language behind for whoever comes next in its thread."""
    yield
    translation.activate(settings.LANGUAGE_CODE)


@pytest.fixture(scope="module")
def spoken(tmp_path_factory):
    """The made-up language, known to Django."""
    folder = tmp_path_factory.mktemp("locale")
    write_language(folder, LANGUAGE, foreign)
    with override_settings(LOCALE_PATHS=[folder], LANGUAGES=[("en-gb", "English"), (LANGUAGE, "Made up")]):
        yield


def data_of_the_site():
    """Everything that the tables hold."""
    rows = (
        row for model in apps.get_models() if model.__module__.startswith("dromikon") for row in model.objects.values()
    )
    return " ".join(str(value) for row in rows for value in row.values())


PAGES = (
    "desk", "daybook", "rulebook", "rulebook/jetty-closed", "rulebook/new", "sources", "sources/device", "archive", "lists",
    "lists/garden-staff", "hours", "deliveries", "audit", "receivers", "sources/device/cam-jetty", "sources/scene/jetty", "rulebook/gone",
    *(f"setup/{name}" for name, sort in SORTS.items() if not sort.whole),
)  # fmt: skip
#: The installation's own pages.
ALL = ("/password", "/health", *(f"/setup/{name}" for name, sort in SORTS.items() if sort.whole))


@pytest.mark.parametrize("page", [*(f"/s/{GARDENS}/{p}" for p in PAGES), "/tokens", "/kit", "/login", *ALL])
def test_no_words_of_a_page_escape(spoken, bench, as_, client, page):
    bench.cross()
    bench.run()
    if page != "/login":
        client.force_login(as_("ada").person)
    client.cookies[settings.LANGUAGE_COOKIE_NAME] = LANGUAGE
    texts = Texts()
    texts.feed(client.get(page).content.decode())
    assert any("⟦" in text for text in texts.found)
    assert escaped(texts.found, f"{data_of_the_site()} {NAMES} {DATES}") == []


def test_an_events_sheet_and_the_api_speak_the_language_too(spoken, bench, as_, client):
    bench.cross()
    bench.run()
    client.force_login(as_("ines").person)
    client.cookies[settings.LANGUAGE_COOKIE_NAME] = LANGUAGE
    texts = Texts()
    texts.feed(client.get(f"/s/{GARDENS}/daybook/event/{bench.engine.seq}").content.decode())
    assert escaped(texts.found, f"{data_of_the_site()} {NAMES} {DATES}") == []
    rules = client.get(f"/api/v1/rules?site={GARDENS}").json()
    assert all(not set(bare(r["sentence"]).split()) & {"When", "raise", "provided", "for"} for r in rules)


def test_the_scripts_get_their_words(spoken, client):
    client.cookies[settings.LANGUAGE_COOKIE_NAME] = LANGUAGE
    answer = client.get("/words.js")
    assert "\\u27e6Saved as revision {n}.\\u27e7" in answer.content.decode()
    assert answer["Content-Type"].startswith("text/javascript")


def test_english_needs_no_catalogue(garden, as_, client):
    client.force_login(as_("ines").person)
    text = client.get(f"/s/{GARDENS}/hours").content.decode()
    assert '"/words.js"' not in text and '<html lang="en-gb"' in text


def test_places_are_filled_once_and_what_is_not_given_stays():
    assert words.t("{a} of {b}", a="{b}", b=2) == "{b} of 2" and words.t("{point} is", x=1) == "{point} is"
    assert [words.tn("{count} run", "{count} runs", n) for n in (0, 1, 2)] == ["0 runs", "1 run", "2 runs"]
