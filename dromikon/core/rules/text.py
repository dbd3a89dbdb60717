"""A rule document as text that a person edits: YAML, with problems at their lines. JSON is read as well."""

from typing import Any

from pydantic import Field, ValidationError
from ruamel.yaml import YAML
from ruamel.yaml.error import YAMLError
from ruamel.yaml.nodes import MappingNode, Node, SequenceNode

from dromikon.core.rules.document import Problem, RuleDocument, problems_of
from dromikon.core.rules.exchange import NotReadable, parse, write
from dromikon.core.words import t


class AtLine(Problem):
    """A problem with the line that it stands at, from 1; 0 where no line is to blame."""

    line: int = Field(default=0)


def text_of(content: dict[str, Any]) -> str:
    """A document as YAML, its fields in the order in which a rule is thought."""
    order = {name: i for i, name in enumerate(RuleDocument.model_fields)}
    return write(dict(sorted(content.items(), key=lambda item: order.get(item[0], len(order)))), "yaml")


def read_text(text: str) -> tuple[dict[str, Any] | None, list[AtLine]]:
    """The document that a text holds, and what is wrong with it. None where it cannot be read at all."""
    try:
        content = parse(text.encode())
    except NotReadable as error:
        return None, [AtLine(path="", message=p.message, line=_number(p.path)) for p in error.problems]
    if not isinstance(content, dict):
        return None, [AtLine(path="", message=t("a rule document has fields and values"), line=1)]
    try:
        RuleDocument.model_validate(content)
    except ValidationError as error:
        lines = _lines(text)
        return content, [
            AtLine(path=p.path, message=p.message, line=_nearest(lines, p.path)) for p in problems_of(error)
        ]
    return content, []


def _number(words: str) -> int:
    """The line that a problem of reading names in its words."""
    digits = "".join(c for c in words if c.isdigit())
    return int(digits) if digits else 0


def _lines(text: str) -> dict[str, int]:
    """Where each part of a text begins, by its path."""
    found: dict[str, int] = {}
    try:
        waiting: list[tuple[str, Node]] = [("", YAML(typ="safe", pure=True).compose(text))]
    except YAMLError:
        # JSON that YAML reads otherwise.
        return found
    while waiting:
        path, node = waiting.pop()
        found.setdefault(path, node.start_mark.line + 1)
        if isinstance(node, MappingNode):
            for key, value in node.value:
                inner = f"{path}.{key.value}".lstrip(".")
                found[inner] = key.start_mark.line + 1
                waiting.append((inner, value))
        elif isinstance(node, SequenceNode):
            waiting += [(f"{path}.{i}".lstrip("."), value) for i, value in enumerate(node.value)]
    return found


def _nearest(lines: dict[str, int], path: str) -> int:
    while path and path not in lines:
        path = path.rpartition(".")[0]
    return lines.get(path, 1)
