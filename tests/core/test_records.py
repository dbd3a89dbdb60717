"""What is typed to find records, and what an address says of a search."""

import sqlite3

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from dromikon.core.records.entry import LONGEST, Entry
from dromikon.core.records.search import DAY, Search, from_pairs
from dromikon.core.records.words import expression

pytestmark = pytest.mark.timeless


@pytest.fixture(scope="module")
def index():
    made = sqlite3.connect(":memory:")
    made.execute("CREATE VIRTUAL TABLE word USING fts5(words, tokenize='unicode61 remove_diacritics 2')")
    texts = ("Vault door forced", "the vault is a door", "Präsenz am Käfig QG-0801", "NOT OR AND", "50% off: C++")
    made.executemany("INSERT INTO word (words) VALUES (?)", [(text,) for text in texts])
    return made


def found(index, text):
    return [row for (row,) in index.execute("SELECT rowid FROM word WHERE word MATCH ?", (expression(text),))]


def test_every_word_must_be_there_each_from_its_beginning(index):
    assert found(index, "door vau") == [1, 2]
    assert found(index, '"vault door"') == [1], "what stands in quotes stands together"
    assert found(index, "kafig") == [3] and found(index, "qg-0801") == [3]


def test_words_that_are_operators_are_words(index):
    assert found(index, "NOT OR") == [4] and found(index, "c++ 50%") == [5]
    assert expression("") is None and expression('"" -- *:^') is None


@given(st.text(max_size=60))
def test_nothing_that_is_typed_breaks_the_search(text):
    made = sqlite3.connect(":memory:")
    made.execute("CREATE VIRTUAL TABLE word USING fts5(words)")
    asked = expression(text)
    if asked is not None:
        made.execute("SELECT rowid FROM word WHERE word MATCH ?", (asked,)).fetchall()


def test_an_address_says_a_search_and_a_search_an_address():
    search = Search(words="vault", last=DAY, sort=("alarm", "run"), person=("Oskar",))
    pairs = {}
    for name, value in search.pairs():
        pairs.setdefault(name, []).append(value)
    assert from_pairs({**pairs, "page": ["3"], "end": [""]}) == search
    assert Search().pairs() == []


def test_a_search_that_cannot_be_is_refused():
    for told in ({"sort": ["rumour"]}, {"start": ["20"], "end": ["10"]}, {"last": ["soon"]}, {"words": ["x" * 201]}):
        with pytest.raises(ValidationError):
            from_pairs(told)


def test_a_value_is_chosen_and_no_longer():
    search = Search().toggled("kind", "door.forced").toggled("kind", "button.pressed")
    assert search.kind == ("door.forced", "button.pressed")
    assert search.toggled("kind", "door.forced").kind == ("button.pressed",)


def test_a_stretch_is_the_last_days_or_between_two_moments():
    assert Search(last=DAY).stretch(10 * DAY) == (9 * DAY, 11 * DAY)
    assert Search(last=0).stretch(10 * DAY)[0] == 0
    assert Search(start=5, end=9).stretch(10 * DAY) == (5, 9)


def test_a_record_is_found_by_its_own_words_and_the_names_of_what_it_tells_of():
    entry = Entry("s", "alarm", "1", 0, title="Forced", more="x" * 9_000, person="Vera").found_by("Vault", "", "Vault")
    assert entry.words.startswith("Forced x") and len(entry.more) == LONGEST
    assert (
        Entry("s", "act", "1", 0, title="Forced", person="Vera").found_by("Vault", "", "Vault").words
        == "Forced Vera Vault"
    )
