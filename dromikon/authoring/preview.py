"""What a draft reads like: its sentence, its time plan and what the checks find."""

from dataclasses import asdict
from typing import Any

from dromikon.authoring.reading import read_out
from dromikon.authoring.services import findings, read_document
from dromikon.core.facts import Facts
from dromikon.core.rules.changes import Changed, changes
from dromikon.core.rules.document import RuleDocument
from dromikon.core.rules.sentence import parts_in_words, sentence
from dromikon.core.rules.timeplan import time_plan
from dromikon.facts import names_of
from dromikon.people.access import Access
from dromikon.refusals import Refused
from dromikon.rulebook.models import Rule


def preview_of(access: Access, content: Any, live: Rule | None = None) -> dict[str, Any]:
    """The preview of a document, beside the live revision of a rule; where it cannot be read, `problems` alone say why and
    where."""
    try:
        document = read_document(content)
    except Refused as refused:
        return {"problems": [p.model_dump() for p in refused.problems]}
    facts = names_of(access.site)
    return {
        "problems": [],
        "sentence": [{"text": p.text, "part": p.part, "name": bool(p.name)} for p in sentence(document, facts)],
        "words": parts_in_words(document, facts),
        "plan": asdict(time_plan(document, facts)),
        "findings": [asdict(f) for f in findings(access, document)],
        "changes": [asdict(c) for c in _beside(live, document, facts)],
        "reads": read_out(document, facts),
    }


def _beside(live: Rule | None, document: RuleDocument, facts: Facts) -> list[Changed]:
    return changes(RuleDocument.model_validate(live.document), document, facts) if live is not None else []
