"""The reference of the rule language's parts, as Markdown: printed from the descriptions that draw the editor."""

from collections.abc import Iterator

from dromikon.core.rules.form import REGISTRIES, Field, Form, all_parts, form_of

TITLES = {"cause": "Causes", "condition": "Conditions", "step": "Steps"}
#: Fields that every step has besides its own.
EVERY_STEP = ("anchor", "after", "provided", "hours")


def reference() -> Iterator[str]:
    """Lines of the whole reference."""
    parts = all_parts()
    registered = set()
    for what, (tag, known) in REGISTRIES.items():
        yield from (f"## {TITLES[what]}", "")
        for name in known.names():
            registered.add(known[name].__name__)
            yield from _part(f"`{tag}`: `{name}`", form_of(known[name]), EVERY_STEP if what == "step" else ())
    yield from ("## Parts inside", "")
    for name, part in parts.items():
        if name not in registered:
            yield from _part(name, form_of(part), ())


def _part(title: str, form: Form, skipped: tuple[str, ...]) -> Iterator[str]:
    yield from (f"### {title}", "")
    if form.about:
        yield from (form.about, "")
    fields = [f for f in form.fields if f.name not in skipped]
    if not fields:
        return
    yield from ("| field | on the page | takes | default |", "|---|---|---|---|")
    for field in fields:
        yield f"| `{field.name}` | {_shown(field)} | {_takes(field)} | {_default(field)} |"
    yield ""


def _shown(field: Field) -> str:
    when = field.control.when
    if when is None:
        return field.control.label
    values = " or ".join(f"`{v}`" for v in when.values)
    return f"{field.control.label}, {'unless' if when.negated else 'when'} `{when.field}` is {values}"


def _takes(field: Field) -> str:
    if field.choices:
        said = ", ".join(f"`{c}`" for c in field.choices)
    elif field.part:
        said = field.part
    else:
        said = {"pick": "reference", "words": "text", "clock": "HH:MM", "flag": "true or false"}.get(
            field.control.widget, field.control.widget
        )
    several = "several: " if field.many else ""
    limits = _limits(field) if field.control.widget in ("number", "words") or field.many else ""
    return f"{several}{said}{limits}"


def _limits(field: Field) -> str:
    least = f"{field.least:g}" if field.least is not None else ""
    most = f"{field.most:,.0f}" if field.most is not None else ""
    unit = getattr(field.control, "unit", "") or ("characters" if field.control.widget == "words" else "")
    if not least and not most:
        return f" ({unit})" if unit and field.control.widget == "number" else ""
    return f" ({least or '…'} to {most or '…'}{' ' + unit if unit else ''})"


def _default(field: Field) -> str:
    if field.required:
        return "needed"
    return "none" if field.default in (None, "", [], {}) else f"`{field.default}`"
