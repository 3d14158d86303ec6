"""Clips lines and polygons to the view before they are painted. Free of Qt."""

Point = tuple[float, float]
_RIM = 8.0
"""Pixels beyond the window that stay, for the width of lines."""


def clipped_area(corners: list[Point], width: float, height: float) -> list[Point]:
    """What lies in a window of a convex or concave area; empty where nothing does (Sutherland and Hodgman 1974)."""
    if all(-_RIM <= x <= width + _RIM and -_RIM <= y <= height + _RIM for x, y in corners):
        return corners
    for axis, bound, keeps_above in (
        (0, -_RIM, True),
        (0, width + _RIM, False),
        (1, -_RIM, True),
        (1, height + _RIM, False),
    ):
        found: list[Point] = []
        for k, end in enumerate(corners):
            start = corners[k - 1]
            inside, was_inside = ((each[axis] >= bound) == keeps_above for each in (end, start))
            if inside != was_inside:
                share = (bound - start[axis]) / (end[axis] - start[axis])
                found.append((start[0] + share * (end[0] - start[0]), start[1] + share * (end[1] - start[1])))
            if inside:
                found.append(end)
        corners = found
        if not corners:
            break
    return corners


def clipped_line(start: Point, end: Point, width: float, height: float) -> tuple[Point, Point] | None:
    """What lies in a window of a line; None where nothing does (Liang and Barsky 1984)."""
    (x, y), (dx, dy) = start, (end[0] - start[0], end[1] - start[1])
    first, last = 0.0, 1.0
    for run, room in ((-dx, x + _RIM), (dx, width + _RIM - x), (-dy, y + _RIM), (dy, height + _RIM - y)):
        if run == 0.0:
            if room < 0.0:
                return None
        elif run < 0.0:
            first = max(first, room / run)
        else:
            last = min(last, room / run)
    if first > last:
        return None
    return (x + first * dx, y + first * dy), (x + last * dx, y + last * dy)
