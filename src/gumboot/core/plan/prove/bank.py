"""What is measured of the bank before anything is joined, and what only once it is on?"""

from __future__ import annotations

from gumboot.core.figure import constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import bank_volts
from gumboot.core.plan.prove.check import Check

DEAD = constant("U_dead", "Dead bus at most", 5.0, "V", "cp.dead")


def _is_docked(ledger: Ledger) -> bool:
    return ledger.seats.battery.arrangement == "docked" or ledger.seats.inverter.bank_internal


def _pack(ledger: Ledger, unit: str) -> Check:
    card = ledger.seats.battery
    return Check(
        id=f"pack-{unit}",
        station="prove",
        title=f"Voltage of {unit}" + (", breaker open" if card.breaker_a else ", links open"),
        unit="V",
        why="Batteries at unlike voltages drive a large current into each other when joined.",
        low=ledger.read(card, "v_min"),
        high=ledger.read(card, "v_max"),
        life=True,
        caution="Cells cannot be switched off. Insulated tools, no jewellery.",
        code="READ-PACK",
        measures="polarity",
        of="battery",
    )


def _spread(ledger: Ledger) -> Check:
    return Check(
        id="pack-spread",
        station="prove",
        title="Largest difference between battery voltages",
        unit="V",
        why="Above the maker's window they may not be joined.",
        high=ledger.read(ledger.seats.battery, "join_window_v"),
        life=True,
        code="READ-SPREAD",
        of="battery",
    )


def bank_checks(ledger: Ledger) -> list[Check]:
    """Each battery's own voltage, and how far they stand apart; nothing of terminals that cannot be reached before it is on."""
    units = ledger.job.banks[0].units
    if ledger.seats.battery.arrangement == "stack" or _is_docked(ledger):
        return []
    return [*(_pack(ledger, u.id) for u in units), *([_spread(ledger)] if len(units) > 1 else [])]


def read_when_on(ledger: Ledger) -> Check | None:
    """The voltage of a bank whose terminals cannot be reached: of a stack once its breaker is closed, of docked modules on the display."""
    docked = _is_docked(ledger)
    if ledger.seats.battery.arrangement != "stack" and not docked:
        return None
    of_stack = "Voltage of the whole stack, its breaker closed and the inverter off"
    return Check(
        id="pack-stack",
        station="power-up",
        title="Battery voltage as the display shows it" if docked else of_stack,
        unit="V",
        why="A module that is not seated shows as a missing voltage.",
        low=bank_volts(ledger, "v_min"),
        high=bank_volts(ledger, "v_max"),
        life=True,
        caution="" if docked else "High DC voltage. Insulating gloves, eye protection.",
        code="READ-PACK",
        measures="polarity",
        of="battery",
    )


def dead_dc(ledger: Ledger) -> list[Check]:
    """The DC side that can be made dead: what cells hold live, no check may ask to be dead."""
    card, seats = ledger.seats.battery, ledger.seats
    switched = card.breaker_a is not None or card.arrangement == "stack"
    if _is_docked(ledger) or (not switched and seats.switch_fuse is None):
        return []
    at_bars = seats.busbar_box is not None and switched
    beyond = "" if switched else " The side of the switch towards the cells stays live."
    return [
        Check(
            id="dead-dc",
            station="prove",
            title="DC busbars, positive to negative" if at_bars else "Inverter BATTERY terminals, positive to negative",
            unit="V",
            why=f"Capacitors may hold charge for minutes: wait, then measure.{beyond}",
            high=DEAD,
            life=True,
            code="READ-DEAD",
            measures="magnitude",
        )
    ]
