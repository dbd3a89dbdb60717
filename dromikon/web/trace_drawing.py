"""A trace's picture in units of its drawing: rules as rows; left of zero what each asked, right of it what was done."""

from typing import Any

from dromikon.authoring.trace_picture import Deed, Path, Picture
from dromikon.core.words import t

#: The drawing is so wide; what is asked stands left of zero.
WIDE, ZERO, RIGHT = 560, 170, 26
ROW, LINE, HEAD = 36, 16, 20
#: A label behind this place stands left of its mark.
TURN = 400


def drawing_of(picture: Picture) -> dict[str, Any]:
    """What the template draws."""
    rows, y = [], HEAD
    for path in picture.paths:
        row = _row(path, y)
        rows.append(row)
        y += ROW + LINE * max(0, len(row["deeds"]) - 1) + 8
    return {
        "height": y,
        "zero": ZERO,
        "ticks": [{"x": _x(x), "words": _span(seconds)} for seconds, x in picture.ticks],
        "rows": rows,
    }


def _x(share: float) -> float:
    return round(ZERO + share * (WIDE - ZERO - RIGHT), 1)


def _row(path: Path, y: int) -> dict[str, Any]:
    gates = path.gates[: path.stopped + 1] if path.stopped is not None else path.gates
    apart = min(36.0, (ZERO - 40) / max(1, len(gates)))
    placed: list[dict[str, Any]] = [
        {"x": round(12 + i * apart, 1), "look": _look(g.held), "words": f"{g.label}: {g.said}"}
        for i, g in enumerate(gates)
    ]
    stops = path.stopped is not None
    deeds = [_deed(deed, i) for i, deed in enumerate(path.deeds)]
    return {
        "y": y,
        "name": _short(path.name, 70),
        "gates": placed,
        "stopped": stops,
        "end": placed[-1]["x"] if stops and placed else ZERO,
        "deeds": deeds,
        "why": ""
        if path.outcome == "fired"
        else _short(f"{gates[-1].label}: {gates[-1].said}" if stops else path.words, 62),
        "why_x": (placed[-1]["x"] + 14) if placed else 14,
    }


def _look(held: bool | None) -> str:
    return "waits" if held is None else "yes" if held else "no"


def _deed(deed: Deed, i: int) -> dict[str, Any]:
    x, y = _x(deed.x), 24 + i * LINE
    end = _x(deed.until) if deed.until is not None else x
    left = end > TURN
    return {
        "x": x, "y": y, "bar": y - 3, "width": round(end - x, 1), "base": y + 4, "look": deed.status,
        "at": x - 10 if left else end + 10, "anchor": "end" if left else "start",
        "words": f"{deed.words}: {_span(deed.seconds)}, {t(deed.status)}", "short": _short(deed.words, 34),
    }  # fmt: skip


def _span(seconds: float) -> str:
    """Seconds as an axis names them."""
    if seconds < 60:
        return f"{seconds:.3g} s"
    if seconds < 3600:
        return f"{seconds / 60:.3g} min"
    return f"{seconds / 3600:.3g} h"


def _short(words: str, most: int) -> str:
    return words if len(words) <= most else f"{words[: most - 1]}…"
