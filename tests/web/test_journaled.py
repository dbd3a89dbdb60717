"""Facts in the journal: whole now and then, in between as what changed; put together wherever a reading begins."""

import json

from dromikon import journaled
from dromikon.authoring.services import save, switch
from dromikon.daybook.models import CheckpointRow, Journal
from dromikon.engine.engine import Engine
from dromikon.facts import facts_from_json, facts_of
from dromikon.journaled import chain_before
from dromikon.rulebook.models import Rule
from dromikon.setup import changes
from dromikon.setup.registry import SORTS
from tests.conftest import GARDENS


def bodies():
    return list(Journal.objects.filter(site=GARDENS, type="facts").order_by("seq").values_list("body", flat=True))


def rename(access, rule, name):
    rule = Rule.objects.get(pk=rule)
    return save(access, {**rule.document, "name": name}, rule)


def test_a_save_costs_the_journal_its_own_size_and_the_engine_runs_with_it(as_, bench):
    before = len(bodies())
    rename(as_("ines"), "jetty-closed", "Renamed")
    bench.run()
    (body,) = bodies()[before:]
    assert set(body["change"]) == {"rules"} and len(body["change"]["rules"]["put"]) == 1
    assert len(json.dumps(body)) < 2_500 < len(json.dumps(bodies()[0]))
    assert bench.engine.sites[GARDENS].rules["jetty-closed"].revision == 2
    assert facts_from_json(chain_before(GARDENS).body) == facts_of(as_("ines").site)


def test_an_engine_that_begins_anew_and_changes_of_all_sorts_know_the_same_facts(as_, bench, monkeypatch):
    monkeypatch.setattr(journaled, "WHOLE_AFTER", 3)
    ada = as_("ada")
    for i in range(9):
        if i % 3 == 0:
            rename(ada, "jetty-closed", f"Name {i}")
        elif i % 3 == 1:
            switch(ada, Rule.objects.get(pk="jetty-geese"), i % 2 == 0)
        else:
            changes.save(SORTS["areas"], ada, None, {"name": f"Area {i}", "order": 5 - i % 5})
        bench.run()
        wanted = facts_of(ada.site)
        assert bench.engine.sites[GARDENS].facts == wanted
        again = Engine()
        again.load()
        assert again.sites[GARDENS].facts == wanted and set(again.sites[GARDENS].rules) == {r.id for r in wanted.rules}
        again.close()
    assert sum("change" not in body for body in bodies()) >= 3, "now and then it is whole"


def test_what_changes_nothing_is_no_entry(as_, bench):
    changes.save(SORTS["intakes"], as_("ada"), None, {"name": "Bell"})
    before = len(bodies())
    bench.run()
    assert len(bodies()) == before and "Bell" in {name for _, name in bench.engine.directory.intakes.values()}


def test_a_rehearsal_that_begins_at_a_checkpoint_knows_the_facts_of_that_moment(as_, bench, monkeypatch):
    from dromikon.authoring.replay import entries
    from dromikon.core.rules.rehearse import Checkpoint

    bench.run()
    for i in range(3):
        rename(as_("ines"), "jetty-closed", f"Name {i}")
        bench.run()
    bench.cross()
    bench.run()
    bench.engine.checkpoint()
    kept = CheckpointRow.objects.get(site=GARDENS)
    rename(as_("ines"), "jetty-closed", "Last")
    bench.run()
    read = list(entries(GARDENS, kept.at + 1, kept.at + 10**9, set(), set(), {"jetty-closed"}))
    assert isinstance(read[0], Checkpoint)
    names = [e.facts.rules[0].document["name"] for e in read if hasattr(e, "facts") and len(e.facts.rules) == 1]
    assert next(r for r in read[0].facts.rules if r.id == "jetty-closed").document["name"] == "Name 2"
    assert names[-1] == "Last"
