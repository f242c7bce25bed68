"""Lengths that the wall gives."""

from __future__ import annotations

import itertools

from gumboot.core.figure import Figure
from gumboot.core.installation import Circuit
from gumboot.core.plan.derive import Plan


def wall_length_m(plan: Plan, circuit: Circuit) -> float | None:
    """One-way length between two boxes on one wall, m: along and up from middle to middle. None where an end is not on that wall."""
    ends = list(dict.fromkeys(end.place for core in circuit.cores if core.role != "earth" for end in core.ends))
    boxes = next((all_here for wall in plan.walls if ends[0] in (all_here := {b.id: b.rect for b in wall.boxes})), {})
    if circuit.kind == "interlink" or any(place not in boxes for place in ends) or len(ends) < 2:
        return None
    return sum(boxes[a].along_to_m(boxes[b]) for a, b in itertools.pairwise(ends))


def wall_route(plan: Plan, circuit: Circuit) -> Figure | None:
    """The wall's length of a run as a figure."""
    length = wall_length_m(plan, circuit)
    if length is None:
        return None
    return Figure(
        f"route.{circuit.id}",
        "L_wall",
        f"{circuit.title} along the wall",
        length,
        "m",
        source="arith",
        limits="Along and up between the middles of its boxes; bends and slack are not in it.",
    )
