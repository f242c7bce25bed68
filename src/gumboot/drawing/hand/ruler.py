"""The band of a value as a scale: hatched green where it may stand, oxide beyond."""

from __future__ import annotations

from markupsafe import Markup

from gumboot.drawing.svg import Canvas

WIDE, HIGH = 358.0, 26.0
# How far the scale goes on beyond the band, as a share of the band's width.
BEYOND = 0.7


def ruler(name: str, low: float | None, high: float | None, expected: float | None) -> Markup:
    """The scale of a band. An end that is not given is open: the green goes on to the edge."""
    ends = [end for end in (low, high, expected) if end is not None]
    if not ends:
        return Markup("")
    span = max(ends) - min(ends) or abs(max(ends)) or 1.0
    left = low - BEYOND * span if low is not None else min(ends) - BEYOND * span
    right = high + BEYOND * span if high is not None else max(ends) + BEYOND * span

    def x(value: float) -> float:
        return 2 + (WIDE - 4) * (value - left) / (right - left)

    c = Canvas(name, WIDE, HIGH, "The band on a scale")
    begins, ends_at = x(low) if low is not None else 2.0, x(high) if high is not None else WIDE - 2
    c.rect(begins, 4, ends_at - begins, 12, "hatch-green", None)
    if low is not None:
        c.rect(2, 4, begins - 2, 12, "hatch-oxide", None)
        c.line(begins, 1, begins, 22, "ink", 1.6)
    if high is not None:
        c.rect(ends_at, 4, WIDE - 2 - ends_at, 12, "hatch-oxide", None)
        c.line(ends_at, 1, ends_at, 22, "ink", 1.6)
    c.line(2, 19, WIDE - 2, 19, "ink", 1.6)
    for k in range(6):
        at = 2 + (WIDE - 4) * k / 5
        c.line(at, 19, at, 24, "ink", 1.4)
    if expected is not None:
        at = x(expected)
        c.path([(at - 6, 3), (at + 6, 3), (at, 17)], "ink", 1, "ink", closed=True)
    return Markup(c.picture())  # noqa: S704 - drawn here
