"""Measures that the diagrams share, in drawing units."""

from __future__ import annotations

WIDTH = 760.0
# Above each run stand its size, earth and drop; below it the rating and the state of its device.
ABOVE, BELOW, CAPTION = 48.0, 36.0, 27.0
LEFT, SWITCH_X = 4.0, 202.0
# A board behind another: its box and the feed above it.
BEHIND = 92.0
# A main board ahead of the one that the inverter joins: its box, and the feed below it.
AHEAD, FEED = 58.0, 50.0
