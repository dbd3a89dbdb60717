"""Rules as files: JSON, or YAML 1.2 with the same content; one rule or a whole rulebook. And the published JSON Schema."""

import io
import json
from collections.abc import Mapping
from typing import Any, Literal

from pydantic import Field, ValidationError
from ruamel.yaml import YAML
from ruamel.yaml.error import YAMLError
from ruamel.yaml.events import AliasEvent
from ruamel.yaml.representer import SafeRepresenter

from dromikon.core import reading
from dromikon.core.facts import Facts
from dromikon.core.reading import whole_or_none
from dromikon.core.rules.document import FORMAT, Problem, RuleDocument, depth, problems_of
from dromikon.core.rules.parts import ID, Part, Ref
from dromikon.core.words import t

RULEBOOK = "dromikon-rulebook/1"
#: The largest file that is read, in bytes, and the most rules of one.
LARGEST, LARGEST_YAML, MOST_RULES = 4_000_000, 1_000_000, 2_000
DEEPEST = 40
Syntax = Literal["json", "yaml"]


class Kept(Part):
    """One rule of a rulebook file."""

    id: str = Field(default="", pattern=f"{ID}|^$")
    enabled: bool = False
    document: RuleDocument


class NotReadable(ValueError):
    """The file cannot be taken over; `problems` say where and why. Nothing of it was."""

    def __init__(self, problems: list[Problem]) -> None:
        super().__init__("; ".join(f"{p.path}: {p.message}" for p in problems[:5]))
        self.problems = problems


def write_rules(rules: list[Kept], syntax: Syntax) -> str:
    """A rulebook file."""
    content = {
        "format": RULEBOOK,
        "rules": [{"id": r.id, "enabled": r.enabled, "document": r.document.to_json()} for r in rules],
    }
    return write(content, syntax)


def write(content: Any, syntax: Syntax) -> str:
    """JSON-like content in one of the syntaxes."""
    if syntax == "json":
        return json.dumps(content, indent=2, ensure_ascii=False) + "\n"
    out = io.StringIO()
    yaml = YAML(typ="safe", pure=True)
    yaml.Representer = _Representer
    yaml.default_flow_style, yaml.width, yaml.allow_unicode = False, 120, True
    yaml.representer.sort_base_mapping_type_on_output = False
    yaml.dump(content, out)
    return out.getvalue()


class _Representer(SafeRepresenter):
    """Texts of several lines as blocks; what YAML would take for line breaks or cannot show is escaped."""

    def represent_text(self, text: str) -> Any:
        style = None
        if not text.isprintable():
            lines = text.split("\n")
            shown = len(lines) > 1 and all(x.isprintable() and x == x.strip() for x in lines) and text == text.strip()
            style = "|" if shown else '"'
        return self.represent_scalar("tag:yaml.org,2002:str", text, style=style)


_Representer.add_representer(str, _Representer.represent_text)


def read_rules(text: bytes) -> list[Kept]:
    """The rules of a file: a rulebook, or a single rule document. Raises NotReadable with every problem."""
    content = parse(text)
    if not isinstance(content, dict):
        raise _refused("", t("a rulebook file is an object with 'format' and 'rules', or one rule document"))
    if "rules" not in content:
        content = {"format": RULEBOOK, "rules": [{"document": content}]}
    _check_rulebook(content)
    found, problems = [], []
    for i, rule in enumerate(content["rules"]):
        try:
            found.append(Kept.model_validate(rule))
        except ValidationError as error:
            problems += [Problem(path=f"rules.{i}.{p.path}", message=p.message) for p in problems_of(error)]
    ids = [r.id for r in found if r.id]
    problems += [
        Problem(path="rules", message=t("the id {id} comes twice", id=repr(id)))
        for id in {i for i in ids if ids.count(i) > 1}
    ]
    if problems:
        raise NotReadable(problems[:200])
    return found


def _check_rulebook(content: dict[str, Any]) -> None:
    name, _, number = str(content.get("format", "")).partition("/")
    if name == "dromikon-rulebook" and (whole_or_none(number) or 0) > 1:
        raise _refused(
            "format",
            t(
                "this file is of a later version ({version}); this installation reads {ours}",
                version=content["format"],
                ours=RULEBOOK,
            ),
        )
    if content.get("format") != RULEBOOK:
        raise _refused("format", t("a rulebook file has the format {RULEBOOK}", RULEBOOK=RULEBOOK))
    unknown = set(content) - {"format", "rules"}
    if unknown:
        raise _refused(sorted(map(str, unknown))[0], t("there is no such field in a rulebook file"))
    if not isinstance(content["rules"], list) or len(content["rules"]) > MOST_RULES:
        raise _refused("rules", t("a rulebook file holds a list of at most {MOST_RULES} rules", MOST_RULES=MOST_RULES))


def parse(text: bytes) -> Any:
    """JSON or YAML 1.2 content. Raises NotReadable, also for what is too large or too deep, or has YAML aliases."""
    if len(text) > LARGEST:
        raise _refused("", t("the file is larger than {size} MB", size=LARGEST // 1_000_000))
    try:
        decoded = text.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise _refused("", t("the file is not UTF-8 (byte {start})", start=error.start)) from error
    try:
        content = reading.content(decoded) if decoded.lstrip().startswith(("{", "[")) else _yaml(decoded)
    except json.JSONDecodeError as error:
        raise _refused(t("line {lineno}", lineno=error.lineno), f"not JSON: {error.msg}") from error
    except reading.NotReadable as error:
        raise _refused("", t("the file cannot be read: {error}", error=error)) from error
    except RecursionError as error:
        raise _refused("", t("the file is nested too deeply")) from error
    if depth(content) > DEEPEST:
        raise _refused("", t("the file is nested too deeply"))
    return content


def _yaml(text: str) -> Any:
    if len(text) > LARGEST_YAML:
        raise _refused(
            "", t("YAML is read up to {size} MB; larger rulebooks are written as JSON", size=LARGEST_YAML // 1_000_000)
        )
    try:
        for event in YAML(typ="safe", pure=True).parse(text):
            if isinstance(event, AliasEvent):
                raise _refused(t("line {number}", number=event.start_mark.line + 1), t("YAML aliases are not read"))
        return YAML(typ="safe", pure=True).load(text)
    except NotReadable:
        raise
    except YAMLError as error:
        mark = getattr(error, "problem_mark", None)
        where = t("line {number}", number=mark.line + 1) if mark else ""
        raise _refused(where, f"not YAML: {getattr(error, 'problem', error)}") from error
    except (ValueError, RecursionError) as error:
        raise _refused("", f"not YAML: {error}") from error


def _refused(path: str, message: str) -> NotReadable:
    return NotReadable([Problem(path=path, message=message)])


#: What is bound to what here: by what it names and the id in the file, the id here.
Bindings = Mapping[tuple[str, str], str]
UNBOUND: Bindings = {}


def rebound(document: RuleDocument, facts: Facts, bindings: Bindings = UNBOUND) -> RuleDocument:
    """The document with references that this site does not have bound as somebody said, or else to what bears the same name
    here, where there is exactly one."""
    content = document.to_json()
    for path, what, ref in document.refs():
        chosen = bindings.get((what, ref.id))
        if chosen is not None:
            _put(content, path.split("."), {"id": chosen, "name": facts.name_of(what, chosen) or ""})
            continue
        here = facts.name_of(what, ref.id)
        # A person's number is another's elsewhere: it stands for whoever bears the name as well.
        stranger = what == "person" and here not in (None, ref.name)
        if what == "mode" or (here is not None and not stranger) or not ref.name:
            continue
        known = facts.named(what, ref.name)
        if len(known) == 1:
            _put(content, path.split("."), {"id": known[0], "name": ref.name})
        elif stranger:
            _put(content, path.split("."), {"id": f"elsewhere-{ref.id}", "name": ref.name})
    return RuleDocument.model_validate(content)


def missing(document: RuleDocument, facts: Facts) -> list[tuple[str, Ref]]:
    """What a document names that this site does not have, each once, as (what it names, reference)."""
    found = {
        (what, ref.id): ref
        for _, what, ref in document.refs()
        if what != "mode" and facts.name_of(what, ref.id) is None
    }
    return [(what, ref) for (what, _), ref in found.items()]


def _put(content: Any, path: list[str], value: Any) -> None:
    for step in path[:-1]:
        content = content[int(step)] if isinstance(content, list) else content[step]
    content[int(path[-1]) if isinstance(content, list) else path[-1]] = value


def json_schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of a rule document."""
    schema = RuleDocument.model_json_schema(by_alias=True)
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "$id": f"urn:{FORMAT.replace('/', ':')}",
        **schema,
        "title": FORMAT,
    }
