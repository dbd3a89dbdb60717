"""Lists: plates as readers read them, faces as vectors, tables as people keep them."""

import math
import random
from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dromikon.core.lists.changes import Clashing, Put, changed, difference, merged, with_words
from dromikon.core.lists.plates import Codes
from dromikon.core.lists.similarity import NoTemplate, Templates, read_template, write_template
from dromikon.core.lists.table import NotReadable, guessed, read_table, write_table
from dromikon.core.lists.trying import tried, tried_face
from dromikon.core.lists.watchlist import Entry, WatchList
from dromikon.core.rules.evaluate import Evaluator
from tests.core.site import crossing, facts, rule

TODAY = date(2026, 11, 25)
KNOWN = Codes.of(["QX17 FKD", "LM05 PZB", "A1"])


@pytest.mark.parametrize(
    ("read", "errors", "known", "why"),
    [
        ("qx17-fkd", 0, "QX17 FKD", "the same"),
        ("QXI7FKD", 0, "QX17 FKD", "I looks like 1"),
        ("0X17FK0", 0, "QX17 FKD", "0 looks like Q, 0 looks like D"),
        ("QX17FRD", 1, "QX17 FKD", "R read for K"),
        ("QX17FK", 1, "QX17 FKD", "D missing"),
        ("QX17FKDD", 1, "QX17 FKD", "D too many"),
        ("LM06PZ", 2, "LM05 PZB", "6 read for 5, B missing"),
    ],
)
def test_a_misread_plate_is_known_and_the_reason_told(read, errors, known, why):
    reading = KNOWN.tolerant(read, errors)
    assert (reading.known, reading.why) == (known, why)


@pytest.mark.parametrize(
    ("read", "errors"), [("QX17FRD", 0), ("QX17FRR", 1), ("B2", 1), ("A9", 2), ("", 2), ("---", 2)]
)
def test_what_is_further_off_or_too_short_to_tolerate_anything_is_unknown(read, errors):
    assert KNOWN.tolerant(read, errors) is None


@given(
    st.lists(st.text("ABCDEFGHKMNPRSTUVWXY0123456789", min_size=5, max_size=9), min_size=1, max_size=30), st.randoms()
)
def test_one_changed_character_is_always_within_one_error(codes, rnd):
    code = rnd.choice(codes)
    place = rnd.randrange(len(code))
    misread = code[:place] + rnd.choice("EHKPRX") + code[place + 1 :]
    assert Codes.of(codes).tolerant(misread, 1) is not None


def face(seed, noise=0.0, size=64):
    rnd, other = random.Random(seed), random.Random(f"{seed}/{noise}")
    return write_template([rnd.gauss(0, 1) + noise * other.gauss(0, 1) for _ in range(size)])


def test_similarity_is_the_cosine_in_percent():
    place, percent = Templates.of([write_template([1, 0] * 8), write_template([1, 1] * 8)]).nearest(
        write_template([1, 0] * 8)
    )
    assert (place, round(percent, 3)) == (0, 100.0)
    _, percent = Templates.of([write_template([1, 1] * 8)]).nearest(write_template([1, 0] * 8))
    assert math.isclose(percent, 100 / math.sqrt(2), rel_tol=1e-5)
    _, percent = Templates.of([write_template([-1.0] * 16)]).nearest(write_template([1.0] * 16))
    assert percent == 0, "opposite is no similarity, not a negative one"


def test_templates_of_another_model_are_not_compared():
    assert Templates.of([face("a", size=64)]).nearest(face("a", size=128)) is None


@pytest.mark.parametrize("text", ["!", "AAAA", write_template([0.0] * 32), write_template([math.nan] * 32)])
def test_what_is_no_template_is_refused(text):
    with pytest.raises(NoTemplate):
        read_template(text)


# -- tables ------------------------------------------------------------------------------------------------------------


def test_a_table_comes_back_as_it_was_written():
    entries = (
        Entry(value="QX17 FKD", label='Post, "the red van"', note="=1+1\nsecond line", valid_from=TODAY),
        Entry(value="x", template=face("x")),
    )
    assert read_table(write_table(entries).encode()) == entries


def test_a_table_may_use_semicolons_and_a_byte_order_mark():
    assert [e.value for e in read_table("\ufeffvalue;label\nQX17;a\n\nLM05;b\n".encode())] == ["QX17", "LM05"]


@pytest.mark.parametrize(
    ("text", "line", "column", "words"),
    [
        ("plate\nQX", 1, "plate", "there is no column"),
        ("label\nQX", 1, "value", "needed"),
        ("value,valid_from\nQX,yesterday", 2, "valid_from", "date"),
        ("value,valid_from,valid_until\nQX,2026-02-01,2026-01-01", 2, "", "after"),
        ("value\nQX 17\nqx-17", 3, "value", "the same as in line 2"),
        ("value\nQX,more", 2, "", "2 cells"),
        ("value,template\nQX,abc", 2, "template", "base64"),
    ],
)
def test_a_table_that_cannot_be_read_says_where_and_why(text, line, column, words):
    with pytest.raises(NotReadable) as error:
        read_table(text.encode())
    fault = error.value.faults[0]
    assert (fault.line, fault.column) == (line, column) and words in fault.message


def test_a_table_of_another_encoding_or_size_is_refused():
    for content in (b"value\n\x81", "value\nA".encode("utf-16"), b"value\n" + b"x" * 6_000_000):
        with pytest.raises(NotReadable):
            read_table(content)


# -- as a condition ----------------------------------------------------------------------------------------------------

STAFF = WatchList(
    id="staff", name="staff plates", sort="plates",
    entries=(Entry(value="QX17 FKD", label="Gardeners' van"), Entry(value="LM05 PZB", valid_until=date(1970, 1, 1))),
)  # fmt: skip
FACES = WatchList(id="people", name="garden staff", sort="people", entries=(Entry(value="Ada", template=face("ada")),))


def runs(condition, *plates, **fields):
    """The places of crossings that fire, a day apart from 1970-01-01 on, with the plates as a field."""
    known = facts(rule(provided=condition), lists=(STAFF, FACES))
    evaluator = Evaluator(known)
    days = [crossing(i + 1, i * 86_400_000, plate=p, **fields) for i, p in enumerate(plates)]
    return [r.event for e in days for r in evaluator.apply(e).runs]


def among(**more):
    return {"test": "list", "field": "plate", "among": {"id": "staff"}, **more}


def test_in_and_not_in_a_list():
    assert runs(among(), "qx17fkd", "QX17FRD", None) == [1]
    assert runs(among(listed=False), "qx17fkd", "QX17FRD", None) == [2], "a plate that was not sent is neither"
    assert runs(among(how="tolerant", errors=1), "QX17FRD", "QX17FRR") == [1]


def test_entries_count_on_the_days_on_which_they_are_valid():
    assert runs(among(), "LM05PZB", "LM05PZB") == [1]


def test_a_text_names_the_entry_only_when_it_is_that_one():
    stranger = {
        "test": "list",
        "field": "template",
        "among": {"id": "people"},
        "how": "similar",
        "similarity": 80,
        "listed": False,
    }
    document = rule(provided=stranger, response=[{"do": "line", "text": "a stranger{listed}"}])
    outcome = Evaluator(facts(document, lists=(FACES,))).apply(crossing(1, 0, template=face("somebody")))
    assert [o.payload["text"] for o in outcome.orders] == ["a stranger"]
    assert outcome.verdicts[0].seen[0][2]["entry"] == "Ada", "the trace still says who was nearest"


def test_a_list_that_is_gone_lets_nothing_through():
    assert runs({**among(), "among": {"id": "gone"}}, "QX17FKD") == []
    assert runs({**among(listed=False), "among": {"id": "gone"}}, "QX17FKD") == []


def test_a_face_counts_from_a_limit_on_and_its_name_can_be_told():
    condition = {"test": "list", "field": "template", "among": {"id": "people"}, "how": "similar", "similarity": 80}
    document = rule(provided=condition, response=[{"do": "alarm", "title": "{listed} came", "groups": [{"id": "ops"}]}])
    evaluator = Evaluator(facts(document, lists=(FACES,)))
    assert not evaluator.apply(crossing(1, 0, template=face("somebody"))).runs
    outcome = evaluator.apply(crossing(2, 0, template=face("ada", 0.2)))
    assert [o.payload["title"] for o in outcome.orders] == ["Ada came"]
    ((path, held, seen),) = outcome.verdicts[0].seen
    assert held and seen["value"] == "a face" and "% similar" in seen["why"], "the template itself is never kept"


# -- changes, tables of others, trying ----------------------------------------------------------------------------------

ADA, VAN = Entry(value="Ada", template=face("ada")), Entry(value="QX17 FKD", label="van")


def test_entries_are_put_in_their_place_and_dropped_whatever_else_has_changed():
    before = (VAN, Entry(value="LM05 PZB"), ADA)
    after = changed(before, [Put(Entry(value="LM05 PZC"), "lm05pzb"), Put(Entry(value="NEW 1"))], ["qx17fkd", "gone"])
    assert [e.value for e in after] == ["LM05 PZC", "Ada", "NEW 1"]
    renamed = changed(before, [Put(Entry(value="Ada L."), "Ada")], [])
    assert renamed[-1].template == ADA.template, "a face stays with its entry"
    swapped = changed(before[:2], [Put(Entry(value="LM05 PZB"), "QX17 FKD"), Put(VAN, "LM05 PZB")], [])
    assert [e.value for e in swapped] == ["LM05 PZB", "QX17 FKD"]


def test_what_is_there_already_is_not_put_twice():
    with pytest.raises(Clashing) as refused:
        changed((VAN,), [Put(Entry(value="A")), Put(Entry(value="qx-17-fkd"))], [])
    assert [i for i, _ in refused.value.problems] == [1]


@given(st.lists(st.sampled_from("ABCDEF"), unique=True), st.lists(st.sampled_from("ABCDEFGH"), unique=True))
def test_a_difference_leads_from_one_content_to_the_other(before, after):
    old, new = ([Entry(value=v, note=n) for v in values] for values, n in ((before, ""), (after, "x")))
    d = difference(old, new)
    puts = [Put(e) for e in d.added] + [Put(b, a.value) for a, b in d.changed]
    led = changed(old, puts, [e.value for e in d.gone])
    assert {e.value: e for e in led} == {e.value: e for e in new} and d.same == 0


def test_a_table_that_is_put_in_keeps_the_rest_and_faces():
    both = merged((ADA, VAN), (Entry(value="ADA", label="Ada L."), Entry(value="New")))
    assert [e.value for e in both] == ["ADA", "QX17 FKD", "New"]
    assert both[0].template == ADA.template and both[0].label == "Ada L."


def test_any_table_is_read_by_choosing_its_columns():
    text = "Nr;Kennzeichen;Halter;bis\r\n1;QX17 FKD;Grün;31.12.2026\r\n2;LM05 PZB;;20270131\r\n"
    columns = {"value": "Kennzeichen", "label": "Halter", "valid_until": "bis"}
    for content in (text.encode("cp1252"), text.encode(), text.replace(";", "\t").encode()):
        van, other = read_table(content, columns)
        assert (van.value, van.label, van.valid_until) == ("QX17 FKD", "Grün", date(2026, 12, 31))
        assert other.valid_until == date(2027, 1, 31)
    assert guessed(("Note", "Plate")) == {"note": "Note", "value": "Plate"}
    for wrong in ({"label": "Halter"}, {"value": "Plate"}, {"colour": "Nr", "value": "Nr"}):
        with pytest.raises(NotReadable):
            read_table(text.encode(), wrong)
    with pytest.raises(NotReadable) as refused:
        read_table(b"p,d\nA,03/04/2026\n", {"value": "p", "valid_from": "d"})
    assert refused.value.faults[0].line == 2, "a date that could be two days is none"


@pytest.mark.parametrize(
    ("value", "ways", "entry", "words"),
    [
        ("qx17fkd", 1, "van", "same"),
        ("0X17 FKD", 2, "van", ""),
        ("QX17 FKE", 2, "van", ""),
        ("ZZ99", 2, None, "near"),
        ("OLD 1", 2, None, "near"),
    ],
)
def test_a_value_that_is_tried_says_what_it_finds_and_why(value, ways, entry, words):
    known = WatchList(id="l", name="l", entries=(VAN, Entry(value="OLD 1", valid_until=date(2020, 1, 1))))
    found = tried(known, value, TODAY)
    assert len(found) == ways and (found[-1].entry.shown if found[-1].entry else None) == entry
    assert words in found[-1].why
    if value == "OLD 1":
        assert "counted until 2020-01-01" in found[0].why


def test_a_face_that_is_tried_says_how_similar_the_nearest_is():
    (found,) = tried_face(FACES, face("ada"), TODAY)
    assert found.entry.value == "Ada" and "similar" in found.why
    (nobody,) = tried_face(WatchList(id="l", name="l"), face("ada"), TODAY)
    assert nobody.entry is None


def test_entries_are_found_by_their_words_and_by_their_code_without_its_gaps():
    entries = (VAN, Entry(value="LM05 PZB", note="Gärtner"))
    assert [e.value for e in with_words(entries, "gÄRT")] == ["LM05 PZB"]
    assert with_words(entries, "17fk")[0] is VAN and with_words(entries, " ") is entries
    assert with_words(entries, "-") == []
