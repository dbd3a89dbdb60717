"""What is logged: lines for people on the console, and one JSON object a line in a file for each part (`logs/engine.log` in
the data folder), rotated.

A message that came in has one id, from its storing to the last step that it set off. Lines about what became of it carry it
as `correlation`, with the event's number, the run and the step; they go to the files alone.
"""

import logging
import os
from pathlib import Path
from typing import Any

import structlog

#: Each part's file is begun anew at this size, and so many old ones are kept.
LARGEST, KEPT = 10_000_000, 5
#: Which part this process is; it has no file while it is none.
PART = "DROMIKON_PART"

flow = logging.getLogger("dromikon.flow")


def tell(what: str, message: int | None, event: int | None, **more: Any) -> None:
    """A line about what became of a message, or of an event that came of none."""
    correlation = f"m{message}" if message is not None else f"e{event}"
    flow.info(what, extra={"correlation": correlation, "event_number": event, **more})


def part() -> str:
    return os.environ.get(PART, "")


def be(name: str) -> None:
    """Say which part this process is. Call before anything is logged."""
    os.environ[PART] = name


def configuration(folder: str) -> dict[str, Any]:
    """The logging of this process, for `logging.config`."""
    before = [
        structlog.stdlib.add_log_level,
        structlog.stdlib.add_logger_name,
        structlog.stdlib.ExtraAdder(),
        structlog.processors.TimeStamper(fmt="iso", utc=True),
    ]
    handlers: dict[str, Any] = {"stderr": {"class": "logging.StreamHandler", "formatter": "line"}}
    if part():
        Path(folder).mkdir(mode=0o700, parents=True, exist_ok=True)
        handlers["file"] = {
            "class": "logging.handlers.RotatingFileHandler", "formatter": "json", "filename": f"{folder}/{part()}.log",
            "maxBytes": LARGEST, "backupCount": KEPT, "delay": True, "encoding": "utf-8",
        }  # fmt: skip
    flowing = [name for name in handlers if name != "stderr"]
    level = os.environ.get("DROMIKON_LOG", "INFO").upper()
    return {
        "version": 1,
        "disable_existing_loggers": False,
        "formatters": {
            "line": {"format": "%(asctime)s %(levelname)s %(name)s %(message)s"},
            "json": {
                "()": structlog.stdlib.ProcessorFormatter,
                "foreign_pre_chain": before,
                "processors": [
                    structlog.stdlib.ProcessorFormatter.remove_processors_meta,
                    structlog.processors.format_exc_info,
                    structlog.processors.JSONRenderer(sort_keys=False),
                ],
            },
        },
        "handlers": handlers,
        "root": {"handlers": list(handlers), "level": "WARNING"},
        "loggers": {
            "dromikon": {"level": level if level in ("DEBUG", "INFO", "WARNING", "ERROR") else "INFO"},
            "dromikon.flow": {"handlers": flowing, "propagate": False},
        },
    }
