"""Do anchors hold a box in masonry, and how many people lift it?"""

from __future__ import annotations

from gumboot.core.errors import OutOfRange
from gumboot.core.expression import named
from gumboot.core.figure import Figure
from gumboot.core.plan.wall.fixing import Hung, loads
from gumboot.core.plan.wall.parts import ONE_PERSON
from gumboot.core.rules import lifting
from gumboot.core.rules import wall as rules
from gumboot.core.sums.ask import Ask, count, quantity, told
from gumboot.core.workbook import Workbook


class MasonryAnchor(Ask):
    """Use of the anchors that hold a box on masonry."""

    mass: float = quantity("kg", "Weight of the box", symbol="m", gt=0, le=2000)
    depth: float = quantity("mm", "Depth of the box", symbol="d", gt=0, le=2000)
    height: float = quantity("mm", "Top row above the box's lower edge", symbol="h_t", gt=0, le=4000)
    anchors: int = count("Anchors that carry", symbol="n", ge=1, le=64)
    top: int = count("Of these in the top row", symbol="n_t", ge=1, le=64)
    pull: float = quantity("N", "Pull that one anchor bears in this masonry", symbol="T_a", gt=0, le=100000)
    shear: float = quantity("N", "Shear that one anchor bears", symbol="V_a", gt=0, le=100000)

    def unfit(self, family: str) -> tuple[str, str] | None:
        """The top row is part of all."""
        return ("top", "the top row has no more anchors than there are.") if self.top > self.anchors else None


def masonry_anchor(w: Workbook, q: MasonryAnchor) -> Figure:
    """Use, 1 at most; hollow units and plaster bear far less than solid ones."""
    hung = Hung(
        mass=told(w, q, "mass"), depth=told(w, q, "depth"), arm=told(w, q, "height"), n_all=told(w, q, "anchors"), n_top=told(w, q, "top")
    )
    shear, pull = loads(w, "anchor", hung, "anchor")
    used = shear / told(w, q, "shear") + pull / told(w, q, "pull")
    holds = "Linear sum of shear and pull. Plasterboard counts as nothing."
    ratio = w.work("ratio", "u", "Use of the top anchors", used, "", source="cp.anchor", limits=holds)
    w.ask(rules.anchors_hold, rules.Held(box="box", used=ratio, base="this masonry"))
    # What as many anchors would hold at full use, all else alike.
    w.work("mass_most", "m_max", "Weight that these anchors hold", hung.mass / ratio, "kg", source="cp.anchor")
    return ratio


class TeamLift(Ask):
    """How many people lift a weight."""

    mass: float = quantity("kg", "Weight", symbol="m", gt=0, le=1000)


def team_lift(w: Workbook, q: TeamLift) -> Figure:
    """People; beyond four a lifting table or a hoist."""
    one, mass = w.keep(ONE_PERSON), told(w, q, "mass")
    people = lifting.people_for(mass, one)
    if people > lifting.MOST_HANDS:
        most = f"up to {lifting.MOST_HANDS * one.value:g} kg by hand"
        raise OutOfRange("weight", f"{q.mass:g} kg", most, "common practice", "Use a lifting table or a hoist.")
    holds = "27 kg for one, close to the body; a back belt and a clear way."
    return w.work(
        "people", "n", "People", named("whole people of {1} for {0}", float(people), mass, one), "", source="cp.lift", limits=holds
    )
