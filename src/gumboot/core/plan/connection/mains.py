"""What does the bar of a second main board see of its own main device and of the sources that join there?"""

from __future__ import annotations

from gumboot.core.ledger import Ledger
from gumboot.core.plan.connection.boards import FEEDS, JUDGES
from gumboot.core.plan.sources import joining, sources_of
from gumboot.core.rules import bonds
from gumboot.core.rules import connection as rules
from gumboot.core.seats import BoardSeat


def other_mains(ledger: Ledger) -> None:
    """Every main board but the first, which the survey tells of: its bar and its main are those of its card."""
    for seat in ledger.seats.mains[1:]:
        bar, main = ledger.read(seat.card, "busbar_a"), ledger.read(seat.card, "main_device_a")
        ahead = rules.Ahead(where=seat.id, rated=bar, device=main, field=f"things.{seat.id}.card")
        ledger.ask(rules.behind_its_device, ahead)
        _sources(ledger, seat)


def _sources(ledger: Ledger, seat: BoardSeat) -> None:
    clauses, (units, others), key = ledger.book.boards, joining(ledger, seat.id), f"circuits.{seat.id}"
    if not units and not others:
        return
    bar, main = ledger.read(seat.card, "busbar_a"), ledger.read(seat.card, "main_device_a")
    sources = sources_of(ledger, units, others, seat.id)
    if seat.thing.fed_from is not None:
        name = f"{clauses.panel_name}, back along the feeder of {seat.id}"
        back = ledger.work(f"{key}.back_a", "I_back", name, clauses.panel_demand(sources), "A", source=clauses.panel_source)
        ledger.ask(rules.feeder_takes_it_back, rules.Against(found=back, most=main, where=seat.id))
    seen = clauses.demand(main, sources)
    fed = ledger.work(f"{key}.sum_a", "I_sum", f"{clauses.demand_name}, {seat.id}", seen, "A", source=clauses.source)
    allowed = clauses.limit(bar, "opposite ends" if seat.thing.opposite_ends else "sum")
    limit = ledger.work(f"{key}.limit_a", "I_lim", f"{clauses.limit_name}, {seat.id}", allowed, "A", source=clauses.source)
    facts = rules.Bar(
        where=seat.id,
        total=fed,
        limit=limit,
        feeds=FEEDS[clauses.rule],
        bar=clauses.bar,
        act=clauses.act,
        field=f"things.{seat.id}.opposite_ends",
    )
    ledger.ask(JUDGES[clauses.rule], facts)


def bonds_behind(ledger: Ledger) -> None:
    """No main board that another feeds bonds the neutral a second time."""
    for seat in ledger.seats.mains:
        if seat.thing.fed_from is None:
            continue
        if seat.thing.bonded is None:
            question = f"Is the neutral bonded to earth in {seat.name} as well?"
            ledger.gap(f"things.{seat.id}.bonded", "survey", question, "One bond in every mode")
        ledger.ask(bonds.bond_ahead_alone, bonds.Behind(board=seat.id, bonded=seat.thing.bonded))
