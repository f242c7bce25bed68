"""What is isolated and proved dead before a conductor is landed there: every source that can be switched off.

What cannot be, as a string in daylight or cells without a breaker, is landed by the method of its card, and no zero is asked for.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator

from gumboot.core.ledger import Ledger
from gumboot.core.plan.prove.bank import DEAD, PROVED_DEAD
from gumboot.core.plan.prove.check import Check

STATION = "wire"
TESTER = "Prove the tester on a known source before and after."
# What stays live ahead of a main switch, and nobody on site can switch off.
TAILS = "The service conductors ahead of the main switch stay live: they are shrouded, or the network switches them off."


def _isolated(place: str, title: str, why: str, prepare: str, caution: str = "") -> Check:
    return Check(
        id=f"isolated-{place}",
        station=STATION,
        title=title,
        unit="V",
        why=why,
        high=DEAD,
        life=True,
        caution=" ".join(words for words in (TESTER, caution) if words),
        code="READ-DEAD",
        measures="magnitude",
        prepare=prepare,
        places=(place,),
        lasts=PROVED_DEAD,
    )


def _every(ledger: Ledger) -> Iterator[Check]:
    seats = ledger.seats
    for board in seats.mains:
        how = "Main switch off, locked and tagged. Every line to each other, to neutral and to earth."
        yield _isolated(board.id, f"{board.name} isolated and dead", "Its outgoing side is where conductors are landed.", how, TAILS)
    for generator in seats.generators:
        how = "Stopped, its start locked out, its lead out of the inlet. Every line to each other and to earth."
        yield _isolated(
            generator.id, f"{generator.name} cannot start, its terminals dead", "It may start by itself when the house calls it.", how
        )
    for bank in seats.banks:
        if bank.card.breaker_a is None and bank.card.arrangement != "stack":
            continue
        for unit in ledger.house.heads(bank.id):
            how = "Its breaker open and locked, its output off. Positive to negative, and each to its case."
            yield _isolated(unit.id, f"{unit.id} isolated, its terminals dead", "Its cells stay live behind the breaker.", how)


def isolated_checks(ledger: Ledger, landed: Collection[str]) -> tuple[Check, ...]:
    """A measurement at each source that can be switched off and at which something is landed. ``landed`` are those places."""
    return tuple(check for check in _every(ledger) if check.places[0] in landed)
