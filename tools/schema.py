"""Writes what is published of the rule language from its classes: `python -m tools.schema`."""

import json
from pathlib import Path

from dromikon.core.rules.exchange import json_schema
from dromikon.core.rules.reference import reference

SCHEMA, REFERENCE = Path("docs/rule-schema.json"), Path("docs/rule-reference.md")
HEAD = """# Reference of the rule language

Every part of a rule document with its fields, as the editor shows them. Printed from the classes (`python -m tools.schema`);
[rules.md](rules.md) says what they mean together. Every step has `anchor` and `after` besides.

"""


def reference_text() -> str:
    """The whole page."""
    return HEAD + "\n".join(reference()).rstrip() + "\n"


if __name__ == "__main__":
    SCHEMA.write_text(json.dumps(json_schema(), indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
    REFERENCE.write_text(reference_text(), encoding="utf-8")
