"""Housekeeping between turns: checkpoints where rehearsals begin, and deleting what is past keeping."""

from collections.abc import Mapping

from dromikon.core.rules.evaluate import Evaluator
from dromikon.core.rules.state import STATE_FORMAT
from dromikon.daybook.models import CheckpointRow, Feed

DAY = 86_400_000
#: How often evaluator rows are kept as a checkpoint, and for how long; how long what pages were told is, in ms.
CHECKPOINT_EVERY, CHECKPOINTS_KEPT = DAY // 2, 40 * DAY
KEEP_FEED = 3_600_000
#: So many feed rows are deleted at a time.
GROUP = 500


def checkpoint(sites: Mapping[str, Evaluator], seq: int, at: int) -> None:
    """Keep all evaluator rows once in a while, where a rehearsal may begin; forget those past keeping."""
    for site, evaluator in sites.items():
        last = CheckpointRow.objects.filter(site=site).order_by("-at").first()
        if at and (last is None or at - last.at >= CHECKPOINT_EVERY):
            rows = [[rule, key, row] for (rule, key), row in evaluator.state.all_rows()]
            CheckpointRow.objects.create(site=site, seq=seq, at=at, format=STATE_FORMAT, rows=rows)
    CheckpointRow.objects.filter(at__lt=at - CHECKPOINTS_KEPT).delete()


def tidy(now: int) -> None:
    """Delete what pages were told and have long heard, in small groups."""
    old = list(Feed.objects.filter(at__lt=now - KEEP_FEED).order_by("id").values_list("id", flat=True)[:GROUP])
    Feed.objects.filter(id__in=old).delete()
