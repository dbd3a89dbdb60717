"""Reading a MIB module (SMIv2, RFC 2578; SMIv1, RFC 1155 with RFC 1212 and RFC 1215): the grammar is a library's; of what it
finds, names and their places are kept."""

import threading
from collections.abc import Iterator
from functools import lru_cache
from typing import Any, NamedTuple

from pysmi.error import PySmiError
from pysmi.parser.dialect import smi_v1_relaxed
from pysmi.parser.smi import parserFactory

from dromikon.core.mibs.names import Definition
from dromikon.core.reading import NotReadable
from dromikon.core.words import t

#: A module is at most so long, and defines at most so much.
LONGEST, MOST = 700_000, 20_000
#: One at a time: making a parser takes half a second, and it reads one text at once.
_reading = threading.Lock()


@lru_cache(maxsize=1)
def _parser() -> Any:
    return parserFactory(**smi_v1_relaxed)(tempdir="")


class Module(NamedTuple):
    """A module by its name, with what it defines."""

    name: str
    definitions: tuple[Definition, ...]


def read(text: str) -> list[Module]:
    """The modules of a file. Raises NotReadable, with the line."""
    if len(text) > LONGEST:
        raise NotReadable(t("a module has at most {n} letters", n=str(LONGEST)))
    try:
        with _reading:
            found = _parser().parse(text)
        modules = [Module(str(name), tuple(_definitions(clauses))[:MOST]) for name, _, _, clauses in found]
    except PySmiError as error:
        raise NotReadable(t("it is no MIB module: {why}", why=str(error)[:200])) from error
    except (ValueError, TypeError, IndexError, RecursionError) as error:
        raise NotReadable(t("it is no MIB module that can be read")) from error
    if not modules:
        raise NotReadable(t("it has no module in it; one begins with NAME DEFINITIONS ::= BEGIN"))
    return modules


def _definitions(clauses: list[Any] | None) -> Iterator[Definition]:
    types = {clause[1]: _meanings(clause) for clause in clauses or () if clause[0] == "typeDeclaration"}
    for clause in clauses or ():
        if clause[0] == "trapTypeClause":
            # Of version 1: below its enterprise, and a nought (RFC 3584, 3.1).
            yield Definition(clause[1], str(_path(clause)[-1]), (0, int(clause[-1])))
            continue
        path = _path(clause)
        if len(path) > 1 and all(isinstance(number, int) for number in path[1:]):
            yield Definition(
                clause[1], str(path[0]), tuple(path[1:]), _meanings(clause) or types.get(_type(clause), {})
            )


def _path(clause: Any) -> list[Any]:
    """Below what, and by which numbers: numbers that come with a name count as numbers."""
    found: list[Any] = next(
        (part[1] for part in clause if isinstance(part, tuple) and part and part[0] == "objectIdentifier"), []
    )
    return [step[1] if isinstance(step, tuple) else step for step in found]


def _type(clause: Any) -> str:
    return next((str(p[1]) for p in clause if isinstance(p, tuple) and p and p[0] in ("SimpleSyntax", "row")), "")


def _meanings(clause: Any) -> dict[int, str]:
    """The names of a clause's values, wherever in it they stand."""
    if isinstance(clause, tuple) and len(clause) == 2 and clause[0] == "enumSpec":
        return {int(number): str(name) for name, number in clause[1]}
    if isinstance(clause, tuple | list):
        for part in clause:
            if found := _meanings(part):
                return found
    return {}
