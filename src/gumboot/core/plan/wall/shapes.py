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

    def gap_to(self, other: Rect) -> float:
        """Shortest distance between the two, 0 when they meet."""
        dx = max(other.x - self.x - self.w, self.x - other.x - other.w, 0.0)
        dy = max(other.y - self.y - self.h, self.y - other.y - other.h, 0.0)
        return float((dx * dx + dy * dy) ** 0.5)
