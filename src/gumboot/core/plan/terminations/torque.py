"""Which torque has a terminal, with which band: the maker's, or the fallback of a table?"""

from __future__ import annotations

from gumboot.core.card import Terminal
from gumboot.core.errors import NotInTable
from gumboot.core.figure import Figure
from gumboot.core.installation import End
from gumboot.core.ledger import Ledger
from gumboot.core.rulebook.north_american.terminations import fallback_torque_nm
from gumboot.core.rules import terminations as rules
from gumboot.core.seats import Enclosed


def _fallback_nm(terminal: Terminal, size: str) -> float | None:
    """Torque by NEC Annex I for the kind of screw; None where the table is silent too."""
    if terminal.torque_nm is not None or not terminal.screw:
        return None
    try:
        return fallback_torque_nm(size, terminal.screw)
    except NotInTable:
        return None


def _figures(card: Enclosed, end: End, terminal: Terminal, torque_nm: float, band_source: str, *, size: str) -> tuple[Figure, ...]:
    """Torque of a card's terminal with its band: the figures of every landing there, whatever the job.

    A torque by the table is that of a ``size``, and is called by it: two boxes of one card may take two.
    """
    key, source = f"torque.{card.id}.{end.port}.{end.terminal}", f"card:{card.id}:ports.{end.port}.{end.terminal}"
    name, pct, own = f"{card.title}, {end.port} {end.terminal}", terminal.torque_tolerance_pct, terminal.torque_nm is not None
    if not own:
        key, name = f"{key}.{size.replace(' ', '-')}", f"{name}, {size}"
    torque = Figure(key, "M", f"Torque, {name}", torque_nm, "N m", source=f"{source}.torque_nm" if own else "nec.annex.i")
    allowed, of_band = f"torque.{card.id}.band.{pct:g}", f"card:{card.id}:torque_tolerance_pct"
    band = Figure(allowed, "b", f"Band allowed, {card.title}", pct, "%", source=of_band)
    low = Figure(f"{key}.low", "M_low", f"Lowest torque in band, {name}", torque * (1 - band / 100), "N m", source=band_source)
    high = Figure(f"{key}.high", "M_high", f"Highest torque in band, {name}", torque * (1 + band / 100), "N m", source=band_source)
    return torque, low, high, band


def torque_of(ledger: Ledger, card: Enclosed, end: End, terminal: Terminal, size: str) -> tuple[Figure, ...]:
    """Torque of a card's terminal, its band's ends, and the band; nothing where nothing gives one.

    Alike terminals of alike boxes share their figures.
    """
    torque_nm, own = terminal.torque_nm, terminal.torque_nm is not None
    if not own:
        torque_nm, where = _fallback_nm(terminal, size), f"{end.place} {end.port} {end.terminal}"
        facts = rules.Torqued(where=where, size=size, from_card=False, has_screw=bool(terminal.screw), fallback_nm=torque_nm)
        ledger.ask(rules.torque_of_the_maker, facts)
    if torque_nm is None:
        return ()
    band_source, known = ledger.book.torque_source, card.read_so_far.torques
    asked = (end.port, end.terminal, band_source if own else f"{band_source} {size}")
    found = known.get(asked)
    if found is None:
        found = known[asked] = _figures(card, end, terminal, torque_nm, band_source, size=size)
    return found
