"""Does what holds a box hold it where it sits: far enough from edges and its neighbours, and does what stands on the floor stay up?"""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule

TAPE_MM = 0.5


class Near(Facts):
    """Distance of an anchor from the nearest edge, or from its nearest neighbour, against what its values hold from; None: not stated."""

    box: str
    hole: str
    what: str
    apart: Figure
    least: Figure | None
    anchor: str


def _near(n: Near, kind: str, act: str) -> Breach | None:
    if n.least is None:
        text = f"The card of {n.anchor} gives no {kind}: what its anchors bear holds for none."
        return Breach(n.box, text, "Complete the card from the maker's data, or choose another anchor.", field="equipment.anchor")
    if n.apart.value >= n.least.value - TAPE_MM:
        return None
    text = f"Hole {n.hole} of {n.box} stands {n.apart.value:.0f} mm from {n.what}; {n.least.value:.0f} mm is asked."
    return Breach(n.box, text, act, n.apart, n.least, f".placements.{n.box}.x_mm")


@rule("WALL-ANCHOR-EDGE")
def far_from_edges(n: Near) -> Breach | None:
    """An anchor sits as far from an edge of the masonry as its values hold from."""
    return _near(n, "edge distance", "Move the box away from the edge, or choose an anchor for it.")


@rule("WALL-ANCHOR-SPACING")
def far_apart(n: Near) -> Breach | None:
    """Anchors sit as far apart as their values hold from."""
    return _near(n, "spacing", "Move one box, or choose an anchor that may stand closer.")


class Tips(Facts):
    """The push at its top that tips what stands on the floor, against one that may come, and whether it is fixed to the wall."""

    box: str
    title: str
    push: Figure
    least: Figure
    held: bool


@rule("WALL-TIP")
def stays_up(t: Tips) -> Breach | None:
    """What a person can tip over is held by the wall."""
    if t.held or t.push.value >= t.least.value:
        return None
    text = f"{t.title} tips over by a push of {t.push.value:.0f} N at its top, and no fixing holds it to the wall."
    act = "Fix its bracket to studs or masonry, or stand it where nobody can push it."
    return Breach(t.box, text, act, t.push, t.least, f".placements.{t.box}.x_mm")
