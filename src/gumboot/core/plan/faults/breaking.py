"""Do the devices at each place of the AC side break what all sources together push there?"""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.faults.parts import FaultAt, FaultsPlan
from gumboot.core.rules import connection as rules
from gumboot.core.seats import AnySeat


def check_breaking(ledger: Ledger, faults: FaultsPlan) -> None:
    """Every main board, board, panel and transfer switch; and that each source says what it gives."""
    ac = {fault.place: fault for fault in faults.at if fault.side == "AC"}
    _sources_say(ledger, {name for fault in ac.values() for name in fault.silent})
    surveyed = ledger.seats.mains[0].id if ledger.seats.mains and ledger.job.site.supply != "none" else ""
    for seat in ledger.seats.boards:
        if seat.id == surveyed:
            _main_board(ledger, ac.get(seat.id))
        elif seat.id in ac:
            breaks = _stated(ledger, seat, "interrupting_a", "what fault current its devices break")
            _judge(ledger, ac[seat.id], breaks, seat, is_switch=False)
    for switch in ledger.seats.transfers:
        if switch.id in ac:
            withstands = _stated(ledger, switch, "withstand_a", "what fault current it withstands")
            _judge(ledger, ac[switch.id], withstands, switch, is_switch=True)


def _judge(ledger: Ledger, at: FaultAt, breaks: Figure | None, seat: AnySeat, *, is_switch: bool) -> None:
    if at.amps is not None and breaks is not None:
        facts = rules.Breaks(where=seat.id, fault=at.amps, breaks=breaks, field=f"things.{seat.id}.card", switch=is_switch)
        ledger.ask(rules.devices_break, facts)


def _main_board(ledger: Ledger, at: FaultAt | None) -> None:
    """The main board of the survey: its breakers are those that were read there."""
    if at is None or at.amps is None:
        return
    breaks = ledger.decided("site.main_board_interrupting_a")
    facts = rules.Fault(fault=at.amps, breaks=breaks, series=ledger.job.site.series_rating)
    ledger.ask(rules.board_breaks, facts)
    ledger.ask(rules.series_marked, facts)


def _stated(ledger: Ledger, seat: AnySeat, path: str, what: str) -> Figure | None:
    """A rated value of a card; its silence is a stop."""
    figure, waits = ledger.stated(seat.card, path), "whether a fault there is broken"
    facts = rules.Silent(stated=figure, where=seat.id, title=seat.name, path=path, what=what, waits=waits, field=f"things.{seat.id}.card")
    ledger.ask(rules.card_states, facts)
    return figure


def _sources_say(ledger: Ledger, silent: set[str]) -> None:
    """That each inverter and generator that reaches a board says what it pushes into a fault."""
    seats = ledger.seats
    sources: tuple[AnySeat, ...] = (*seats.inverters, *seats.pv_inverters, *seats.generators)
    for seat in sources:
        if seat.name in silent:
            path = "fault_a" if seat.card.kind == "generator" else "source.island_fault_a"
            _stated(ledger, seat, path, "what it pushes into a fault")
