"""What a draft reads like: its sentence, its time plan and what the checks find."""

from dataclasses import asdict
from typing import Any

from dromikon.authoring.reading import read_out
from dromikon.authoring.services import findings, read_document
from dromikon.core.rules.sentence import sentence
from dromikon.core.rules.timeplan import Bar, time_plan
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
    plan = time_plan(document, facts)
    return {
        "problems": [],
        "sentence": [{"text": p.text, "part": p.part, "name": bool(p.name)} for p in sentence(document, facts)],
        "plan": {
            "bars": [_bar(bar) for bar in plan.bars],
            "decided": plan.decided,
            "first": plan.first,
            "last": plan.last,
        },
        "findings": [asdict(f) for f in findings(access, document)],
        "reads": read_out(document, facts),
    }


def _bar(bar: Bar) -> dict[str, Any]:
    return {
        "label": bar.label, "above": bar.above, "start": bar.start, "end": bar.end, "part": bar.part, "style": bar.style,
        "open": bar.open_end,
        "asks": bar.asks,
    }  # fmt: skip
