"""What is measured of each bank before anything is joined, and what only once it is on?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.figure import constant
from gumboot.core.job.bank import BatteryUnit
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import OneBank, banks_of
from gumboot.core.plan.prove.check import DAY_H, Check, Lasts

PROVED_DEAD = Lasts(hours=DAY_H, moves=True)
DEAD = constant("U_dead", "Dead bus at most", 5.0, "V", "cp.dead")


def pack_id(unit: str) -> str:
    """The check of a battery's own voltage; one that is called as a check of the whole bank gets another word before its name."""
    return f"pack-unit-{unit}" if unit.startswith(("spread", "stack", "unit")) else f"pack-{unit}"


def _pack(bank: OneBank, unit: str) -> Check:
    """The voltage of one battery at its terminals, or of one of several stacks on its display: no hand reaches its terminals."""
    ledger, card, stacked = bank.ledger, bank.card, bank.card.arrangement == "stack"
    of_battery = f"Voltage of {unit}" + (", breaker open" if card.breaker_a else ", links open")
    return Check(
        id=pack_id(unit),
        station="prove",
        title=f"Voltage of the stack of {unit} on its display, its output open" if stacked else of_battery,
        unit="V",
        why="Batteries at unlike voltages drive a large current into each other when joined.",
        low=bank.volts("v_min") if stacked else ledger.read(card, "v_min"),
        high=bank.volts("v_max") if stacked else ledger.read(card, "v_max"),
        life=True,
        caution="Cells cannot be switched off. Insulated tools, no jewellery.",
        code="READ-PACK",
        measures="polarity",
        of="battery",
        places=(unit,),
        lasts=Lasts(hours=DAY_H, moves=True, rests=card.title),
    )


def _spread(bank: OneBank, each: Sequence[BatteryUnit]) -> Check:
    return Check(
        id=f"pack-spread{bank.mark}",
        station="prove",
        title=bank.of("Largest difference between battery voltages"),
        unit="V",
        why="Above the maker's window they may not be joined.",
        high=bank.ledger.read(bank.card, "join_window_v"),
        life=True,
        code="READ-SPREAD",
        of="battery",
        spread_of=tuple(pack_id(unit.id) for unit in each),
    )


def bank_checks(ledger: Ledger) -> list[Check]:
    """Each battery's own voltage, and how far those of a bank stand apart; nothing of terminals that cannot be reached before it is on.

    Stacks that are to meet are read on their displays first: joined unlike, they drive a large current into each other.
    """
    found: list[Check] = []
    for bank in banks_of(ledger):
        if bank.is_docked or (bank.card.arrangement == "stack" and len(bank.heads) == 1):
            continue
        each = bank.heads if bank.card.arrangement == "stack" else bank.units
        found += [*(_pack(bank, u.id) for u in each), *([_spread(bank, each)] if len(each) > 1 else [])]
    return found


def read_when_on(bank: OneBank) -> Check | None:
    """The voltage of a bank whose terminals cannot be reached: of a stack once its breaker is closed, of docked modules on the display."""
    docked = bank.is_docked
    if bank.card.arrangement != "stack" and not docked:
        return None
    of_stack = "Voltage of the whole stack, its breaker closed and the inverter off"
    return Check(
        id=f"pack-stack{bank.mark}",
        station="power-up",
        title=bank.of("Battery voltage as the display shows it" if docked else of_stack),
        unit="V",
        why="A module that is not seated shows as a missing voltage.",
        low=bank.volts("v_min"),
        high=bank.volts("v_max"),
        life=True,
        caution="" if docked else "High DC voltage. Insulating gloves, eye protection.",
        code="READ-PACK",
        measures="polarity",
        of="battery",
        places=(bank.inverters[0].id,) if docked else (bank.heads[0].id,),
        lasts=Lasts(rests=f"{len(bank.units)} × {bank.card.title}"),
    )


def _dead(bank: OneBank) -> Check | None:
    card = bank.card
    switched = card.breaker_a is not None or card.arrangement == "stack"
    if bank.is_docked or (not switched and not bank.switch_fuses):
        return None
    beyond = "" if switched else " The side of the switch towards the cells stays live."
    at_bars = bank.box is not None and switched
    return Check(
        id=f"dead-dc{bank.mark}",
        station="prove",
        title=bank.of("DC busbars, positive to negative" if at_bars else "Inverter BATTERY terminals, positive to negative"),
        unit="V",
        why=f"Capacitors may hold charge for minutes: wait, then measure.{beyond}",
        high=DEAD,
        life=True,
        code="READ-DEAD",
        measures="magnitude",
        places=(bank.box.id if at_bars and bank.box is not None else bank.inverters[0].id,),
        lasts=PROVED_DEAD,
    )


def dead_dc(ledger: Ledger) -> list[Check]:
    """The DC side that can be made dead: what cells hold live, no check may ask to be dead."""
    return [check for bank in banks_of(ledger) if (check := _dead(bank)) is not None]
