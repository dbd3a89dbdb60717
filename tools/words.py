"""The catalogue of all words for people: `python -m tools.words` writes it, with `--check` it only says whether it is true.

Messages are taken from templates, scripts and Python, and from the core's tables of kinds, controls and operators, which
are looked up where they are shown.
"""

import io
import re
import sys
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import get_args

from babel.messages.catalog import Catalog
from babel.messages.extract import extract
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po, write_po
from django.utils.translation.template import templatize

ROOT = Path(__file__).resolve().parent.parent / "dromikon"
CATALOGUE = ROOT / "locale" / "django.pot"
PYTHON = {
    "_": None,
    "N_": None,
    "within_words": None,
    "gettext": None,
    "gettext_lazy": None,
    "t": None,
    "told": None,
    "tn": (1, 2),
    "ngettext": (1, 2),
}
SCRIPT = {"t": None, "tn": (1, 2)}
HEAD = """# All words for people, in English, as the code has them: `python -m tools.words`. Not to be written by hand.
msgid ""
msgstr "Content-Type: text/plain; charset=utf-8\\n"

"""
Message = str | tuple[str, str]
Translate = Callable[[str], str]


def messages() -> set[Message]:
    """Every message; pairs have a form for one and a form for many."""
    return {m for m in (*_of_templates(), *_of_scripts(), *_of_python(), *tables()) if _is_words(m)}


def _is_words(message: Message) -> bool:
    text = message if isinstance(message, str) else message[0]
    return bool(re.search(r"[A-Za-z]{2}", re.sub(r"\{\w+\}|%\(\w+\)s", "", text)))


def _found(method: str, source: str, keywords: dict[str, tuple[int, ...] | None]) -> Iterator[Message]:
    for _, message, _, _ in extract(
        method, io.BytesIO(source.encode()), keywords, options={"encoding": "utf-8", "parse_template_string": True}
    ):
        yield message if isinstance(message, str) else (message[0], message[1])


def _of_templates() -> Iterator[Message]:
    for path in (ROOT / "web" / "templates").rglob("*.html"):
        # It becomes something like Python, with what is not words blanked out; its indentation means nothing.
        blanked = "\n".join(line.strip() for line in templatize(path.read_text()).splitlines())
        yield from _found("python", blanked, PYTHON)


def _of_scripts() -> Iterator[Message]:
    for path in (ROOT / "web" / "static" / "js").rglob("*.js"):
        yield from _found("javascript", path.read_text(), SCRIPT)


def _of_python() -> Iterator[Message]:
    for path in ROOT.rglob("*.py"):
        if not {"standins", "demo", "migrations"} & set(path.parts):
            yield from _found("python", path.read_text(), PYTHON)


def tables() -> Iterator[str]:
    """What the core's tables hold."""
    from dromikon.core.kinds import KINDS
    from dromikon.core.lists.watchlist import Sort
    from dromikon.core.rules.actions.alarm import PRIORITIES
    from dromikon.core.rules.comparison import OPERATORS
    from dromikon.core.rules.explain import OUTCOMES
    from dromikon.core.rules.form import all_parts, form_of
    from dromikon.core.rules.starting import STARTING

    for kind in KINDS:
        yield from (kind.called, kind.reads, kind.reads_not, *(f.called for f in kind.fields), *kind.point_kinds)
        yield from (choice for f in kind.fields for choice in f.choices)
    yield from (words for words, _, _ in OPERATORS.values())
    yield from (*OUTCOMES.values(), *PRIORITIES)
    for part in all_parts().values():
        form = form_of(part)
        yield form.label
        for field in form.fields:
            yield from (field.control.label, field.control.hint, *map(str, field.choices))
            yield getattr(field.control, "unit", "")
            words = getattr(field.control, "words", None)
            yield from (words.values() if hasattr(words, "values") else words or ())
    yield from get_args(Sort)
    # What a rule can refer to.
    yield from ("point", "area", "hours", "group", "list", "counter", "mode", "device")
    for starting in STARTING:
        yield from (starting.title, starting.about, *(place.label for place in starting.places))


def catalogue() -> Catalog:
    """The catalogue without translations, sorted, so that it changes only where words do."""
    made = Catalog(project="Dromikon", charset="utf-8", creation_date=None, revision_date=None)
    for message in sorted(messages(), key=lambda m: m if isinstance(m, str) else m[0]):
        made.add(message)
    return made


def write_language(folder: Path, language: str, translate: Translate) -> None:
    """A compiled language below a folder, its words made by `translate`."""
    made = Catalog(locale=None, project="Dromikon", charset="utf-8")
    for message in messages():
        words = translate(message) if isinstance(message, str) else tuple(map(translate, message))
        made.add(message, words)
    place = folder / language / "LC_MESSAGES"
    place.mkdir(parents=True)
    with (place / "django.mo").open("wb") as file:
        write_mo(file, made)


def _known() -> set[Message]:
    with CATALOGUE.open("rb") as file:
        return {m.id if isinstance(m.id, str) else (m.id[0], m.id[1]) for m in read_po(file) if m.id}


def main() -> int:
    if "--check" not in sys.argv:
        text = io.BytesIO()
        write_po(text, catalogue(), omit_header=True, width=100)
        CATALOGUE.write_text(HEAD + text.getvalue().decode())
        return 0
    now, known = messages(), _known()
    for sign, some in (("new", now - known), ("gone", known - now)):
        for message in sorted(map(str, some)):
            print(f"{sign}: {message}")
    if now != known:
        print("The catalogue of words is not that of the code: python -m tools.words")
    return int(now != known)


if __name__ == "__main__":
    sys.exit(main())
