"""Housekeeping between turns: checkpoints where rehearsals begin, and deleting what is past keeping."""

from collections.abc import Mapping

from dromikon.core.rules.evaluate import Evaluator
from dromikon.core.rules.state import STATE_FORMAT
from dromikon.daybook.models import CheckpointRow, Feed
from dromikon.sources.models import Unclaimed

DAY = 86_400_000
#: How often evaluator rows are kept as a checkpoint, and for how long; how long what pages were told is, in ms.
CHECKPOINT_EVERY, CHECKPOINTS_KEPT = DAY // 2, 40 * DAY
KEEP_FEED = 3_600_000
#: So many feed rows are deleted at a time.
GROUP = 500
#: So many unclaimed messages of a site are kept, the newest.
MOST_UNCLAIMED = 10_000


def checkpoint(sites: Mapping[str, Evaluator], seq: int, at: int) -> None:
    """Keep all evaluator rows once in a while, where a rehearsal may begin; forget those past keeping."""
    for site, evaluator in sites.items():
        last = CheckpointRow.objects.filter(site=site).order_by("-at").first()
        if at and (last is None or at - last.at >= CHECKPOINT_EVERY):
            rows = [[rule, key, row] for (rule, key), row in evaluator.state.all_rows()]
            CheckpointRow.objects.create(site=site, seq=seq, at=at, format=STATE_FORMAT, rows=rows)
    CheckpointRow.objects.filter(at__lt=at - CHECKPOINTS_KEPT).delete()


def tidy(now: int) -> None:
    """Delete, in small groups, what pages were told and have long heard, and messages that nobody understood beyond as many as
    anybody looks at: a sender that nobody knows must not fill the disk."""
    old = list(Feed.objects.filter(at__lt=now - KEEP_FEED).order_by("id").values_list("id", flat=True)[:GROUP])
    Feed.objects.filter(id__in=old).delete()
    for site in Unclaimed.objects.order_by().values_list("site", flat=True).distinct():
        too_many = (
            Unclaimed.objects.filter(site=site)
            .order_by("-inbox")
            .values_list("inbox", flat=True)[MOST_UNCLAIMED:][:GROUP]
        )
        Unclaimed.objects.filter(inbox__in=list(too_many)).delete()
