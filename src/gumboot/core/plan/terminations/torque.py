"""Which torque has a terminal, with which band: the maker's, or the fallback of a table?"""

from __future__ import annotations

from gumboot.core.card import Terminal
from gumboot.core.errors import NotInTable
from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.topology import End
from gumboot.core.rulebook.north_american.terminations import screw_torque_nm
from gumboot.core.rules import terminations as rules
from gumboot.core.seats import Enclosed

Torque = tuple[Figure | None, Figure | None, Figure | None]


def _fallback_nm(terminal: Terminal, size: str) -> float | None:
    """Torque by NEC Annex I for the kind of screw; None where the table is silent too."""
    if terminal.torque_nm is not None or not terminal.screw:
        return None
    try:
        return screw_torque_nm(size, terminal.screw)
    except NotInTable:
        return None


def torque_of(ledger: Ledger, card: Enclosed, end: End, terminal: Terminal, size: str) -> Torque:
    """Torque of a card's terminal with its band; alike terminals of alike boxes share their figures."""
    where, own = f"{end.place} {end.port} {end.terminal}", terminal.torque_nm is not None
    fallback = _fallback_nm(terminal, size)
    facts = rules.Torqued(where=where, size=size, from_card=own, has_screw=bool(terminal.screw), fallback_nm=fallback)
    ledger.ask(rules.torque_of_the_maker, facts)
    torque_nm = terminal.torque_nm if own else fallback
    if torque_nm is None:
        return None, None, None
    key, source = f"torque.{card.id}.{end.port}.{end.terminal}", f"card:{card.id}:ports.{end.port}.{end.terminal}"
    if key in ledger.figures:
        return ledger.figures[key], ledger.figures[f"{key}.low"], ledger.figures[f"{key}.high"]
    name, pct, band_source = f"{card.title}, {end.port} {end.terminal}", terminal.torque_tolerance_pct, ledger.book.torque_source
    torque = ledger.work(key, "M", f"Torque, {name}", torque_nm, "N m", f"{source}.torque_nm" if own else "nec.annex.i")
    allowed = f"torque.{card.id}.band.{pct:g}"
    band = ledger.work(allowed, "b", f"Band allowed, {card.title}", pct, "%", f"{source}.torque_tolerance_pct")
    low = ledger.work(f"{key}.low", "M_low", f"Lowest torque in band, {name}", torque * (1 - band / 100), "N m", band_source)
    high = ledger.work(f"{key}.high", "M_high", f"Highest torque in band, {name}", torque * (1 + band / 100), "N m", band_source)
    return torque, low, high
