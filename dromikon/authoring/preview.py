"""What a draft reads like: its sentence, its time plan and what the checks find."""

from dataclasses import asdict
from typing import Any

from dromikon.authoring.reading import read_out
from dromikon.authoring.services import findings, read_document
from dromikon.core.rules.sentence import parts_in_words, sentence
from dromikon.core.rules.timeplan import time_plan
from dromikon.facts import names_of
from dromikon.people.access import Access
from dromikon.refusals import Refused


def preview_of(access: Access, content: Any) -> dict[str, Any]:
    """The preview of a document; where it cannot be read, `problems` alone say why and where."""
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
        "reads": read_out(document, facts),
    }
