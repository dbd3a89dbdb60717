"""What somebody types to find records, as an expression of SQLite's full-text index (FTS5). Every word must be there, each may be the
beginning of one; what stands in quotes stands together. Nothing that is typed is an operator."""

import re

#: So many words are looked at.
MOST = 12
_PARTS = re.compile(r'"([^"]*)"?|(\S+)')
_WORD = re.compile(r"\w+", re.UNICODE)


def expression(text: str) -> str | None:
    """The expression, or None where there is no word in the text."""
    found = []
    for together, single in _PARTS.findall(text):
        words = _WORD.findall(together or single)
        if not words:
            continue
        quoted = f'"{" ".join(words)}"'
        # The tokenizer takes "QG-0801" apart, so it is looked for as two words that follow each other.
        found.append(quoted if together else f"{quoted}*")
    return " AND ".join(found[:MOST]) or None
