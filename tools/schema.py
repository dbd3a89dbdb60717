"""Writes the published JSON Schema of a rule document: `python -m tools.schema`."""

import json
from pathlib import Path

from dromikon.core.rules.exchange import json_schema

if __name__ == "__main__":
    text = json.dumps(json_schema(), indent=1, ensure_ascii=False) + "\n"
    Path("docs/rule-schema.json").write_text(text, encoding="utf-8")
