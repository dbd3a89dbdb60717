"""Check on scripts: a step names one that is not there."""

from collections.abc import Iterator

from dromikon.core.rules.actions.script import ScriptAction
from dromikon.core.rules.checks.base import Finding, Reading
from dromikon.core.words import t

NO_SCRIPT = "no-script"


def no_script(reading: Reading) -> Iterator[Finding]:
    """A script that cannot be run now. It may be put there later, so the rule may go live."""
    known = reading.known.scripts
    if known is None:
        return
    hint = t("An administrator puts it into the folder DROMIKON_SCRIPTS and makes it executable.")
    for i, step in enumerate(reading.document.response):
        if isinstance(step, ScriptAction) and step.script not in known:
            reason = t("The scripts folder has nothing called “{script}” that may be run.", script=step.script)
            yield Finding(NO_SCRIPT, "warning", f"response.{i}.script", reason, hint)
