"""What is read of each bank on the way: its voltage once it is on, and its state of charge at both ends of its bus."""

from __future__ import annotations

from collections.abc import Iterable

from gumboot.core.plan.bank import OneBank, bank_of
from gumboot.core.plan.power_up.parts import Ready, Step
from gumboot.core.plan.prove import Check, read_when_on
from gumboot.core.seats import InverterSeat


def measured(bank: OneBank, check: Check) -> Step:
    """The step that reads a bank whose terminals cannot be reached before it is on."""
    docked, see = bank.is_docked, "A whole number of modules"
    title = "Read the battery's voltage on the display" if docked else "Measure the battery before anything is joined to it"
    return Step(
        id=f"bank-volts{bank.mark}", title=bank.of(title), see=f"{see}." if docked else f"{see}, the right way round.", measure=check
    )


def on_display(r: Ready, inverter: InverterSeat) -> Iterable[Step]:
    """The reading of a docked bank, once the first of its inverters is on."""
    bank = bank_of(r.ledger, inverter)
    check = read_when_on(bank)
    if check is not None and bank.is_docked and inverter is bank.inverters[0]:
        yield measured(bank, check)


def agrees(r: Ready, at: str) -> Iterable[Step]:
    """Each bank that has a bus says the same at both of its ends."""
    for bank in r.linked:
        title, see = bank.of(f"State of charge at the {at} equals the battery's"), "Same figure at both displays, read after 10 s."
        yield Step(id=f"soc-agrees{bank.mark}", title=title, see=see, needs=("links",))
