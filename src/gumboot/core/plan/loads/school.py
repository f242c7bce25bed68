"""Is the stated school of backing up true of this house: its equipment, and which circuits are backed up?"""

from __future__ import annotations

from gumboot.core.figure import BY_VALUE, Figure
from gumboot.core.installation import House
from gumboot.core.ledger import Ledger
from gumboot.core.plan.group import summed
from gumboot.core.rulebook.books import book
from gumboot.core.rules import loads as rules


def _passes(ledger: Ledger) -> Figure | None:
    """What passes to the backed-up side: the gateway's rating where there is one, else what the inverters on one leg pass together."""
    house, gateways = ledger.house, [t for t in ledger.seats.transfers if t.card.style == "gateway"]
    if not house.joins_grid:
        return None
    if gateways:
        return min([ledger.read(t.card, "rated_a") for t in gateways], key=BY_VALUE)
    on = [house.units_on(leg) for leg in house.legs]
    fewest = min(on, key=len)
    if not fewest:
        return None
    parts = [ledger.read(i.card, "pass_through_a") for i in fewest]
    return summed(ledger, "loads.passes_a", "I_pt_all", "Pass-through of all inverters on one leg", parts)


def check_school(ledger: Ledger) -> None:
    """Manual transfer with something to throw; a whole house with all its circuits and enough passing."""
    job, school = ledger.job, ledger.job.backup.school
    switches = [t.id for t in ledger.seats.transfers if t.card.style == "manual"]
    if job.backup.bypass == "interlocked":
        switches.append("interlocked bypass")
    left_out = [x.title for x in job.loads if x.side == "house"]
    whole = school == "whole house"
    main = ledger.decided("site.service_main_a") if whole and job.site.service_main_a is not None else None
    facts = rules.Schooled(school=school, switches=switches, left_out=left_out, passes=_passes(ledger) if whole else None, main=main)
    ledger.ask(rules.thrown_by_hand, facts)
    ledger.ask(rules.whole_house, facts)


def is_single_line(house: House) -> bool:
    """Whether one line feeds a board that may have been built for two, where the book asks about it."""
    most = book(house.job.rule_book).boards.multiwire_v
    return most is not None and house.output == "single phase" and house.lead.card.leg_v <= most


def check_single_line(ledger: Ledger) -> None:
    """Multiwire circuits behind a single line: both halves load one neutral."""
    if not is_single_line(ledger.house):
        return
    there = ledger.job.backup.multiwire
    if there is None:
        waits = "Whether a single 120 V line may feed it"
        ledger.gap("backup.multiwire", "loads", "Do multiwire branch circuits hang on the backed-up board?", waits)
    ledger.ask(rules.no_multiwire, rules.SingleLine(multiwire=there))
