"""How far a stand-in has told what happens, in a small file, so that it goes on from there after a restart."""

import json
from dataclasses import dataclass
from pathlib import Path

#: After a restart it makes up for at most this much, in ms: buffers are small.
BUFFER = 120_000


@dataclass(frozen=True, slots=True)
class Place:
    """The place of one stand-in."""

    file: Path

    def read(self, now: int) -> int:
        """The instant up to which everything was told."""
        try:
            kept = int(json.loads(self.file.read_text())["told"])
        except (OSError, ValueError, KeyError):
            kept = 0
        return max(kept, now - BUFFER)

    def keep(self, told: int) -> None:
        self.file.parent.mkdir(parents=True, exist_ok=True)
        self.file.write_text(json.dumps({"told": told}))
