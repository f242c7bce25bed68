"""Rectangles on the wall."""

from __future__ import annotations

from typing import NamedTuple


class Rect(NamedTuple):
    """A rectangle on the wall, mm from datum and floor."""

    x: float
    y: float
    w: float
    h: float

    def meets(self, other: Rect) -> bool:
        """Whether two rectangles overlap by more than touching."""
        return self.x < other.x + other.w and other.x < self.x + self.w and self.y < other.y + other.h and other.y < self.y + self.h

    def inside(self, other: Rect) -> bool:
        """Whether this rectangle lies within the other."""
        return other.x <= self.x and other.y <= self.y and self.x + self.w <= other.x + other.w and self.y + self.h <= other.y + other.h

    def beneath(self, other: Rect) -> bool:
        """Whether this rectangle lies below the other, at least in part under it."""
        return self.x < other.x + other.w and other.x < self.x + self.w and self.y < other.y

    @property
    def middle(self) -> tuple[float, float]:
        """Its middle, mm from datum and floor."""
        return self.x + self.w / 2, self.y + self.h / 2

    def along_to_m(self, other: Rect) -> float:
        """Along and up from middle to middle, m: how a cable goes on a wall."""
        (x, y), (to_x, to_y) = self.middle, other.middle
        return (abs(x - to_x) + abs(y - to_y)) / 1000

    def gap_to(self, other: Rect) -> float:
        """Shortest distance between the two, 0 when they meet."""
        dx = max(other.x - self.x - self.w, self.x - other.x - other.w, 0.0)
        dy = max(other.y - self.y - self.h, self.y - other.y - other.h, 0.0)
        return float((dx * dx + dy * dy) ** 0.5)
