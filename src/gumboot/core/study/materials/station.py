"""The whole list of a plan."""

from __future__ import annotations

from gumboot.core.plan.derive import Plan
from gumboot.core.rulebook.books import book
from gumboot.core.study.materials.boxes import boxes_of, devices_of
from gumboot.core.study.materials.cuts import cable_of, cuts_of, ends_of, entries_of
from gumboot.core.study.materials.parts import Item, Materials
from gumboot.core.workbook import Workbook, with_parts


def materials(plan: Plan) -> Materials:
    """Cut list and material list of a plan. Circuits that are not sized yet are named, not guessed."""
    w = Workbook(book(plan.job.rule_book))
    cuts = cuts_of(plan, w)
    labels = [Item("Labels", x.text, 1, "", x.place) for x in plan.labels]
    strings = [Item("Labels", f"String label {s.label_top}", 2, "", "roof and inverter") for s in plan.job.strings if s.label_top]
    items = [*boxes_of(plan), *cable_of(cuts), *ends_of(plan), *entries_of(plan), *devices_of(plan), *labels, *strings]
    waits = tuple(f"{c.title} is not sized: it is not in the list." for c in plan.circuits.all if c.id not in plan.circuits.sized)
    order = ("Equipment", "Cable", "Lugs and ferrules", "Glands and fittings", "Raceway", "Devices", "Data", "Fixing", "Labels")
    return Materials(tuple(cuts), tuple(sorted(items, key=lambda x: order.index(x.group))), waits, with_parts(w.figures))
