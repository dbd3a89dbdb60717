"""`python -m bench [NAME …]`: run the measures and say which keep their limit."""

import sys

from bench import (
    acknowledge,
    archive,
    backup,
    change,
    delivery,
    desk,
    evaluation,
    frames,
    inbox_writes,
    intakes,
    language,
    latency,
    outages,
    records,
    rehearsal,
    scene,
    sessions,
    throughput,
    traps,
    truth,
    webhooks,
)
from bench.report import Result

MEASURES = {
    "evaluation": evaluation.measure,
    "language": language.measure,
    "rehearsal": rehearsal.measure,
    "records": records.measure,
    "archive": archive.measure,
    "inbox": inbox_writes.measure,
    "frames": frames.measure,
    "scene": scene.measure,
    "truth": truth.measure,
    "change": change.measure,
    "acknowledge": acknowledge.measure,
    "sessions": sessions.measure,
    "throughput": throughput.measure,
    "delivery": delivery.measure,
    "outages": outages.measure,
    "latency": latency.measure,
    "desk": desk.measure,
    "webhooks": webhooks.measure,
    "intakes": intakes.measure,
    "traps": traps.measure,
    "backup": backup.measure,
}


def main(names: list[str]) -> int:
    unknown = [n for n in names if n not in MEASURES]
    if unknown:
        print(f"there is no measure {', '.join(unknown)}; there are {', '.join(MEASURES)}", file=sys.stderr)
        return 2
    results: list[Result] = []
    for name in names or list(MEASURES):
        for result in MEASURES[name]():
            print(result.line(), flush=True)
            results.append(result)
    return 0 if all(r.kept for r in results) else 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
