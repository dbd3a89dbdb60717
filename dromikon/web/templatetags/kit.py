"""Template tags of the component kit."""

from json import dumps
from typing import Any
from urllib.parse import urlencode

from django import template
from django.template import Context
from django.templatetags.static import static
from django.urls import reverse
from django.utils import dateformat
from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString, mark_safe

from dromikon.clock import now_ms
from dromikon.core.alarms.states import OUTCOMES
from dromikon.core.hours import wall_clock
from dromikon.core.instants import iso
from dromikon.core.modbus.registers import TABLES
from dromikon.core.point_kinds import POINT_KINDS
from dromikon.core.readings.chart import Chart
from dromikon.core.rules.actions import ACTIONS
from dromikon.core.rules.parts import Phrase
from dromikon.core.words import N_, t, tn
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.situation import situation_of
from dromikon.web.statics import imported

register = template.Library()

RUNGS = {"critical": 4, "high": 3, "medium": 2, "low": 1}


@register.simple_tag
def icon(name: str, label: str = "") -> SafeString:
    """An icon of the one family; decorative unless it has a label."""
    hidden = format_html('role="img" aria-label="{}"', label) if label else mark_safe('aria-hidden="true"')
    return format_html(
        '<svg class="icon-svg" {}><use href="{}#{}"/></svg>', hidden, static("vendor/icons/tabler.svg"), name
    )


@register.simple_tag(takes_context=True)
def at(context: Context, name: str, *places: Any, **query: Any) -> str:
    """The address of a page of this site; what is named goes behind the question mark."""
    return reverse(name, args=(context["access"].site.id, *places)) + _asked(query)


@register.simple_tag(takes_context=True)
def api(context: Context, name: str, **given: Any) -> str:
    """The address of an API operation for this site. `in_<name>` go behind the question mark, others into the path."""
    query = {name.removeprefix("in_"): value for name, value in given.items() if name.startswith("in_")}
    places = {name: value for name, value in given.items() if not name.startswith("in_")}
    return reverse(f"api:{name}", kwargs=places) + _asked({"site": context["access"].site.id, **query})


def _asked(query: dict[str, Any]) -> str:
    return f"?{urlencode(query)}" if query else ""


@register.simple_tag
def state(look: str, words: str) -> SafeString:
    """A state: a mark and a word. `look`: good, wait, bad or off."""
    return format_html('<span class="state {}">{}</span>', look, words)


@register.simple_tag
def week(counts: list[int]) -> SafeString:
    """How often something came on each of the last days, today last, as small bars."""
    most = max(counts, default=0) or 1
    bars = format_html_join(
        "",
        '<rect x="{}" y="{}" width="5" height="{}"{}/>',
        (
            (8 * i, 18 - tall, tall, "" if count else mark_safe(' opacity=".3"'))
            for i, count in enumerate(counts)
            for tall in (max(1, round(17 * count / most)),)
        ),
    )
    words = tn("{count} in seven days", "{count} in seven days", sum(counts))
    return format_html('<svg class="week" viewBox="0 0 53 18" role="img" aria-label="{}">{}</svg>', words, bars)


@register.simple_tag(takes_context=True)
def module(context: Context, name: str) -> SafeString:
    """A script, and word of all that it imports, so that a browser asks for them at once instead of one after another."""
    told: set[str] = context.render_context.dicts[0].setdefault("modules", set())  # type: ignore[assignment, arg-type]
    fresh = [path for path in imported(f"js/{name}.js") if path not in told]
    told.update(fresh)
    links = format_html_join("", '<link rel="modulepreload" href="{}">', ((static(path),) for path in fresh))
    return format_html('{}<script type="module" src="{}"></script>', links, static(f"js/{name}.js"))


@register.simple_tag
def styles(name: str) -> SafeString:
    """A screen's styles."""
    return format_html('<link rel="stylesheet" href="{}">', static(f"css/screens/{name}.css"))


@register.simple_tag
def priority(name: str) -> SafeString:
    """A priority: a mast with one to four rungs, a colour and a word."""
    rungs = "".join(f'<rect x="4" y="{14 - 4 * i}" width="9" height="2.6"/>' for i in range(RUNGS.get(name, 1)))
    drawing = mark_safe(
        f'<svg viewBox="0 0 15 18" fill="currentColor" aria-hidden="true"><rect x="1" y="1" width="2" height="16"/>{rungs}</svg>'
    )
    return format_html('<span class="mark {}">{}{}</span>', name, drawing, t(name))


@register.simple_tag
def when(instant: int | None, zone: str, style: str = "relative") -> SafeString:
    """A time: relative when fresh, absolute on hover. The script keeps it up to date."""
    if not instant:
        return mark_safe("")
    wall = wall_clock(instant, zone)
    absolute = dateformat.format(wall, "D d M Y, H:i:s")
    shown = dateformat.format(wall, "H:i:s" if style == "clock" else "d M H:i")
    return format_html(
        '<time datetime="{}" data-at="{}" data-style="{}" title="{}">{}</time>',
        iso(instant),
        instant,
        style,
        absolute,
        shown,
    )


@register.simple_tag
def upcoming(instant: int, zone: str) -> str:
    """A moment to come: 17:30 today, else with its day."""
    wall = wall_clock(instant, zone)
    today = wall_clock(now_ms(), zone).date()
    return dateformat.format(wall, "H:i" if wall.date() == today else "D d M H:i")


@register.filter
def json(value: Any) -> str:
    """A value as an attribute of an element carries it for a script."""
    return dumps(value)


@register.simple_tag
def wall(instant: int, zone: str, over: str) -> str:
    """The site's time on the axis of a chart that reaches over a day, or longer."""
    return dateformat.format(wall_clock(instant, zone), "H:i" if over == "day" else "d M")


@register.simple_tag
def spots(line: list[tuple[float, float]]) -> str:
    """The places of a line, as SVG has them."""
    return " ".join(f"{x},{y}" for x, y in line)


@register.simple_tag
def spark(drawn: Chart) -> SafeString:
    """A chart of the last day, as large as a word, with its limits."""
    limits = format_html_join("", '<line x1="0" x2="96" y1="{}" y2="{}"/>', ((y, y) for y, _ in drawn.limits))
    lines = format_html_join("", '<polyline points="{}"/>', ((spots(line),) for line in drawn.lines))
    words = t("the last 24 hours")
    return format_html(
        '<svg class="spark" viewBox="0 0 96 22" role="img" aria-label="{}">{}{}</svg>', words, limits, lines
    )


@register.simple_tag
def sentence(phrases: list[Phrase], base: str = "") -> SafeString:
    """A rule's sentence; its phrases are links to the part they describe."""

    def piece(p: Phrase) -> SafeString:
        text = format_html("<b>{}</b>", p.text) if p.name else format_html("{}", p.text)
        return (
            format_html('<a href="{}#part-{}" data-part="{}">{}</a>', base, p.part.replace(".", "-"), p.part, text)
            if p.part and base is not None and base != "-"
            else text
        )

    return format_html_join("", "{}", ((piece(p),) for p in phrases))


@register.simple_tag
def situation(access: Access) -> dict[str, Any]:
    """The site's mode, the modes there are, and whether this person may set them."""
    return {**situation_of(access.site), "may_set": access.may(May.SET_MODE)}


#: What is made besides steps of rules.
_BESIDES = {"evidence": N_("Still of an alarm")}
#: How a step's status looks; those that are left out wait.
STEP_LOOKS = {"done": "good", "failed": "bad", "unconfirmed": "bad", "expired": "off", "dropped": "off"}


@register.filter
def figure(value: float) -> str:
    """A number without the noughts that say nothing."""
    return f"{value:.6g}"


@register.filter
def register_table(name: str) -> str:
    """What a table of a Modbus device is called."""
    return TABLES.get(name, name)


@register.filter
def step_look(status: str) -> str:
    return STEP_LOOKS.get(status, "wait")


@register.filter
def step_words(action: str) -> str:
    """What a step is called; steps of earlier releases by the name they are kept under."""
    return t(ACTIONS[action].label) if action in ACTIONS.names() else t(_BESIDES.get(action, action))


@register.filter
def at_key(known: dict[str, Any], key: str) -> Any:
    """What a table has for a key; the key itself where it has nothing."""
    return known.get(key, key)


@register.filter
def trace_key(event: int) -> str:
    """What opens an event's sheet in the Daybook."""
    return f"event-{event}"


@register.filter
def share(part: float) -> str:
    """A part of the whole in percent: 3 %, 0.4 %."""
    percent = part * 100
    return f"{percent:.1f} %" if 0 < percent < 1 else f"{percent:.0f} %"


@register.filter
def day_words(instant: int, zone: str) -> str:
    """A day by its name and number: Tue 3."""
    return dateformat.format(wall_clock(instant, zone), "D j")


@register.filter
def span_words(ms: int) -> str:
    """How long something took: 35 ms, 1.2 s, 4 min."""
    if ms < 1000:
        return f"{ms} ms"
    return f"{ms / 1000:.1f} s" if ms < 120_000 else f"{round(ms / 60_000)} min"


@register.filter
def words_of(bookmark: Any) -> str:
    """Title, note and tags, as an element carries them for a script."""
    return dumps({"title": bookmark.title, "note": bookmark.note, "tags": bookmark.tags})


@register.filter
def same(one: Any, other: Any) -> str:
    """Whether two are the same, as ARIA says it."""
    return "true" if one == other else "false"


@register.filter
def role_label(role: str) -> str:
    return role.replace("_", " ")


@register.filter
def point_kind(kind: str) -> str:
    """What a sort of point is called."""
    return t(POINT_KINDS.get(kind, kind))


@register.filter
def spoken(words: str) -> str:
    """A message of ours in the language that is spoken."""
    return t(words)


@register.filter
def lookup(mapping: dict[str, Any], key: str) -> Any:
    return mapping.get(key, "")


@register.filter
def seconds_of(ms: int) -> str:
    """Milliseconds as signed seconds: −10 s, 0, +3 s."""
    if not ms:
        return "0"
    return f"{'−' if ms < 0 else '+'}{abs(ms) / 1000:g} s"


@register.filter
def outcome_words(outcome: str) -> str:
    """What an alarm was, as somebody has said."""
    return t(OUTCOMES.get(outcome, outcome))
