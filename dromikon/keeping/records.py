"""The index of records follows every minute, also while nobody searches, so that a search finds it done."""

from dromikon.records.follow import follow

EVERY = 60_000
#: So long it is followed at a time, in seconds: other jobs wait meanwhile.
AT_A_TIME = 20.0


def records_every() -> int:
    return EVERY


def follow_records() -> str:
    """Take up what is new. How much is left, in words."""
    left = follow(AT_A_TIME)
    return f"{left} rows are still to be taken up" if left else "everything is taken up"
