"""What to do about an alarm: text, and steps in it that are ticked off. A line that begins with "- ", "[ ]" or a number
is a step."""

import re
from dataclasses import dataclass

_STEP = re.compile(r"^\s*(?:[-*•]|\[ ?\]|- \[ ?\]|\d{1,2}[.)])\s+(?P<words>\S.*)$")
#: So many steps are told apart; further ones are text.
MOST_STEPS = 30


@dataclass(frozen=True, slots=True)
class Line:
    """A line of an instruction; `step`: its number from 0 where it is one to tick off."""

    words: str
    step: int | None = None


def lines_of(instruction: str) -> list[Line]:
    """An instruction line by line, without empty ones."""
    found: list[Line] = []
    steps = 0
    for text in instruction.splitlines():
        step = _STEP.match(text)
        if step and steps < MOST_STEPS:
            found.append(Line(step["words"].strip(), steps))
            steps += 1
        elif text.strip():
            found.append(Line(text.strip()))
    return found


def steps_of(instruction: str) -> list[str]:
    """The steps alone, in order."""
    return [line.words for line in lines_of(instruction) if line.step is not None]
