"""Does the hydrogen of a lead-acid bank leave its room?"""

from __future__ import annotations

from gumboot.core.expression import named
from gumboot.core.figure import constant
from gumboot.core.plan.bank import OneBank, banks_of
from gumboot.core.plan.wall.parts import At
from gumboot.core.rulebook.common.hydrogen import GAS, air_m3_h, opening_cm2
from gumboot.core.rules import place as rules

CELL_V = 2.0
FLOW = "0.05 x {0} cells x {1} mA/Ah x {2} / 1000"


def _here(at: At, bank: OneBank) -> bool:
    """Whether a lead-acid bank stands at this wall, or may yet: at the first of all while it stands at none."""
    if not bank.card.is_lead_acid:
        return False
    names = {unit.id for unit in bank.units}
    walls = [wall for wall in at.ledger.job.walls if any(p.id in names for p in wall.placements)] or at.ledger.job.walls[:1]
    return at.wall in walls


def check_air(at: At) -> None:
    """The openings of a room indoors against what every lead-acid bank there wants on boost."""
    if at.wall.room == "outdoor":
        return
    ledger = at.ledger
    for bank in [bank for bank in banks_of(ledger) if _here(at, bank)]:
        kind = "vented" if bank.card.chemistry == "lead-acid flooded" else "sealed"
        gas = ledger.keep(constant(f"i_g_{kind}", f"Gas current of {kind} cells on boost, mA for each Ah", GAS[kind][1], "", "cp.hydrogen"))
        (number, series, parallel), volts = bank.counts(), bank.volts("nominal_v")
        cells = bank.work("air.cells", "n", "Cells in series", named("{0} at 2 V a cell", volts.value / CELL_V, volts), "", source="arith")
        hours = ledger.read(bank.card, "energy_wh") / ledger.read(bank.card, "nominal_v") * parallel
        charge = bank.work("air.capacity", "Q", "Capacity of the bank", hours, "Ah", source="arith")
        name, holds = "Air for its hydrogen, m3/h", f"{number.value:.0f} blocks, {series.value:.0f} in series; boost charge."
        air = bank.work(
            "air.flow",
            "q",
            name,
            named(FLOW, float(air_m3_h(cells.value, gas.value, charge.value)), cells, gas, charge),
            "",
            source="cp.hydrogen",
            limits=holds,
        )
        wants = bank.work(
            "air.opening",
            "A",
            "Each of two openings at least",
            named("28 cm2 for each of {0} m3/h", float(opening_cm2(air.value)), air),
            "cm2",
            source="cp.hydrogen",
        )
        rests = at.asked("vent_cm2")
        at.ask(rules.hydrogen_leaves, rules.Aired(where=at.room, has=rests, wants=wants))
