"""Lines and areas drawn on a picture. Corners are shares of its width and height, from its left and from its top."""

from collections.abc import Sequence

from dromikon.core.words import t

Corner = tuple[float, float]
#: A line is at least so long, and an area at least so large a share of the picture; an area has at most so many corners.
SHORTEST, SMALLEST, MOST_CORNERS = 0.02, 0.0004, 40


def checked_line(corners: Sequence[Corner]) -> tuple[Corner, ...]:
    """A line from one end to the other. Raises ValueError with what is wrong."""
    found = _inside(corners)
    if len(found) != 2:
        raise ValueError(t("A line has two ends."))
    (ax, ay), (bx, by) = found
    if (bx - ax) ** 2 + (by - ay) ** 2 < SHORTEST**2:
        raise ValueError(t("Draw the line longer: nothing can be told to cross a point."))
    return found


def checked_area(corners: Sequence[Corner]) -> tuple[Corner, ...]:
    """An area by its corners. Raises ValueError with what is wrong."""
    found = _inside(corners)
    if not 3 <= len(found) <= MOST_CORNERS:
        raise ValueError(t("An area has 3 to {most} corners.", most=MOST_CORNERS))
    if crosses_itself(found):
        raise ValueError(t("The area crosses itself: move a corner so that its edges do not meet."))
    if abs(signed_area(found)) < SMALLEST:
        raise ValueError(t("The area is too small for anything to be in it."))
    return found


def _inside(corners: Sequence[Corner]) -> tuple[Corner, ...]:
    found = tuple((float(x), float(y)) for x, y in corners)
    if any(not (0 <= x <= 1 and 0 <= y <= 1) for x, y in found):
        raise ValueError(t("A corner lies outside the picture."))
    return found


def signed_area(corners: Sequence[Corner]) -> float:
    """The share of the picture (the shoelace formula); its sign tells which way round the corners go."""
    pairs = zip(corners, (*corners[1:], corners[0]), strict=True)
    return sum(ax * by - bx * ay for (ax, ay), (bx, by) in pairs) / 2


def crosses_itself(corners: Sequence[Corner]) -> bool:
    """Whether two edges that are no neighbours meet."""
    count = len(corners)
    edges = [(corners[i], corners[(i + 1) % count]) for i in range(count)]
    return any(
        meet(*edges[i], *edges[j]) for i in range(count) for j in range(i + 2, count) if not (i == 0 and j == count - 1)
    )


def meet(a: Corner, b: Corner, c: Corner, d: Corner) -> bool:
    """Whether the segments a–b and c–d have a point in common."""
    one, two, three, four = side(a, b, c), side(a, b, d), side(c, d, a), side(c, d, b)
    if one * two < 0 and three * four < 0:
        return True
    return any(
        turn == 0 and _between(ends, place)
        for turn, ends, place in ((one, (a, b), c), (two, (a, b), d), (three, (c, d), a), (four, (c, d), b))
    )


def side(a: Corner, b: Corner, place: Corner) -> float:
    """Positive to the right of the way from a to b as one sees it in the picture, negative to the left."""
    return (b[0] - a[0]) * (place[1] - a[1]) - (b[1] - a[1]) * (place[0] - a[0])


def _between(ends: tuple[Corner, Corner], place: Corner) -> bool:
    (ax, ay), (bx, by) = ends
    return min(ax, bx) <= place[0] <= max(ax, bx) and min(ay, by) <= place[1] <= max(ay, by)
