"""Does a heavy box get to its wall: through the narrowest passage, over the steps?"""

from __future__ import annotations

from gumboot.core.figure import constant
from gumboot.core.job.wall import Wall
from gumboot.core.ledger import Ledger
from gumboot.core.plan.wall.parts import Box, WallPlan
from gumboot.core.rules import lifting as rules
from gumboot.core.wording import length_in_both

HANDS = constant("b_h", "Hands beside a box that is carried", 100, "mm", "cp.liftway")


def _heavy(plan: WallPlan) -> dict[str, Box]:
    """By their title the boxes that one person does not lift."""
    return {box.title: box for box in plan.boxes if box.lift_needs_two}


def check_way(ledger: Ledger, wall: Wall, plan: WallPlan) -> None:
    """Passage and steps of the way to one wall, as far as they are told."""
    at = f"walls.{wall.id}"
    for title, box in _heavy(plan).items():
        if wall.way_mm is not None:
            card = ledger.house.card_at(box.id)
            side = min(("width_mm", "height_mm", "depth_mm"), key=lambda name: getattr(box.body, name))
            through, way = ledger.read(card, f"body.{side}"), ledger.decided_of(wall, f"{at}.way_mm")
            key, name = f"wall.{box.id}.passage", f"Passage that {title} needs"
            needs = ledger.work(key, "b_p", name, through + ledger.keep(HANDS), "mm", source="cp.liftway")
            ledger.ask(rules.goes_through, rules.Carried(title=title, where=wall.title, needs=needs, way=way, field=f"{at}.way_mm"))
        if wall.way_steps is not None:
            steps = ledger.decided_of(wall, f"{at}.way_steps")
            ledger.ask(rules.climbs, rules.Climbed(title=title, where=wall.title, people=box.people, steps=steps, field=f"{at}.way_steps"))


def way_words(wall: Wall, box: Box) -> str:
    """The way of a heavy box to its wall, for who carries it."""
    if not box.lift_needs_two:
        return ""
    if wall.way_mm is None and wall.way_steps is None:
        return "Walk the way first: its narrowest passage, steps, and a floor that bears it."
    narrow = f"narrowest {length_in_both(wall.way_mm)}" if wall.way_mm is not None else ""
    steps = "" if wall.way_steps is None else f"{wall.way_steps} steps, on which no lift table goes" if wall.way_steps else "no steps"
    return f"The way: {', '.join(words for words in (narrow, steps) if words)}. Walk it first."
