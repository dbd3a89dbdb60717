"""A made-up language in which every message stands in ⟦brackets⟧, and what is left over when all of them are taken away."""

import re
from html.parser import HTMLParser

LANGUAGE = "zz"
#: Attributes that are read out or seen.
READ = ("title", "placeholder", "aria-label", "alt")
SILENT = ("script", "style", "pre", "code", "kbd")
WORD = re.compile(r"[A-Za-z]{3,}")


def foreign(message: str) -> str:
    """A message in that language: its places stay, so that they can be filled."""
    return f"⟦{message}⟧"


class Texts(HTMLParser):
    """Every text of a page that somebody reads or hears."""

    def __init__(self) -> None:
        super().__init__()
        self.found: list[str] = []
        self._inside: list[str] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        if tag in SILENT:
            self._inside.append(tag)
        self.found += [value for name, value in attrs if name in READ and value]

    def handle_endtag(self, tag: str) -> None:
        if self._inside and self._inside[-1] == tag:
            self._inside.pop()

    def handle_data(self, data: str) -> None:
        if not self._inside and data.strip():
            self.found.append(data.strip())


def escaped(texts: list[str], data: str) -> list[str]:
    """Words that are neither in brackets nor words of the site's own data. A message may go on over several texts, such as
    the phrases of a sentence."""
    own = set(WORD.findall(data))
    left = bare("\n".join(texts)).splitlines()
    return [text for text in left if not set(WORD.findall(text)) <= own]


def bare(text: str) -> str:
    """A text without what stands in brackets, which may stand in one another."""
    depth, kept = 0, []
    for letter in text:
        depth += letter == "⟦"
        if depth == 0:
            kept.append(letter)
        depth -= letter == "⟧"
    return "".join(kept)
