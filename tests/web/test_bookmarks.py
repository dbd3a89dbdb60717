"""Bookmarks: changed, taken away one or several at once, and as a table."""

import csv
import io

import pytest
from django.core.exceptions import PermissionDenied
from django.http import Http404

from dromikon.archive.models import Bookmark
from dromikon.archive.services import change_bookmark, drop_bookmarks, find_bookmarks
from dromikon.people.models import AuditEntry
from dromikon.refusals import Refused
from tests.conftest import GARDENS

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.timeless]


@pytest.fixture
def made(garden):
    def make(title, **more):
        known = {"camera": "jetty", "start": 1_000, "end": 9_000, "zero": 5_000, "made_at": 9_000}
        bookmark = Bookmark(site=garden, title=title, **{**known, **more})
        bookmark.gather_words()
        bookmark.save()
        return bookmark

    return make


def test_words_are_changed_and_found(made, as_):
    one = made("A swan")
    change_bookmark(as_("oskar"), one.pk, " A goose ", "Walked on", ["#Geese", " ", "geese"])
    (found,) = find_bookmarks(as_("oskar"), "goose walked", "geese")
    assert (found.title, found.note, found.tags) == ("A goose", "Walked on", ["geese"])
    assert AuditEntry.objects.get(verb="changed bookmark").subject == f"bookmark:{one.pk}"
    with pytest.raises(Refused):
        change_bookmark(as_("oskar"), one.pk, "  ", "", [])
    with pytest.raises(Http404):
        change_bookmark(as_("oskar"), 999, "x", "", [])
    with pytest.raises(PermissionDenied):
        change_bookmark(as_("vera"), one.pk, "x", "", [])


def test_several_are_taken_away_at_once(made, as_):
    ones = [made(f"number {i}") for i in range(3)]
    assert drop_bookmarks(as_("oskar"), [ones[0].pk, ones[2].pk, 999]) == 2
    assert [b.title for b in Bookmark.objects.all()] == ["number 1"]
    assert AuditEntry.objects.filter(verb="dropped bookmark").count() == 2


def test_over_the_api_and_as_a_table(made, client):
    made("=A formula", tags=["a", "b"], note="Words, with a comma")
    one = made("B")
    client.login(username="oskar", password="quillmere-demo")
    table = client.get(f"/api/v1/bookmarks/table?site={GARDENS}&tag=a").content.decode()
    head, row = list(csv.reader(io.StringIO(table)))
    assert head[4] == "Title" and row[3:] == ["Jetty", "'=A formula", "Words, with a comma", "a b"]
    put = client.put(f"/api/v1/bookmarks/{one.pk}?site={GARDENS}", {"title": "C"}, content_type="application/json")
    assert put.json()["title"] == "C"
    drop = {"bookmarks": [one.pk]}
    answer = client.post(f"/api/v1/bookmarks/drop?site={GARDENS}", drop, content_type="application/json")
    assert answer.json() == {"dropped": 1}
