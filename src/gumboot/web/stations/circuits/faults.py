"""Fault currents in words: what stands where, from which sources."""

from __future__ import annotations

from typing import NamedTuple

from gumboot.core.figure import Figure
from gumboot.core.plan.faults import FaultAt
from gumboot.drawing import show
from gumboot.web.view import Bench


class FaultRow(NamedTuple):
    """Places of one side with one fault current, and where it comes from, in words."""

    places: str
    side: str
    amps: Figure | None
    sources: str
    silent: str


def _place(view: Bench, place: str) -> str:
    """A place as a line of a table begins: a name of the job without its hyphens; a battery, an input and the network go by their own."""
    if place not in {seat.id for seat in view.plan.seats.all()}:
        return place
    words = show.place_words(view.plan.house, place)
    words = words.replace("-", " ").replace("pv ", "PV ") if words == place else words
    return words[:1].upper() + words[1:]


def faults_of(view: Bench) -> list[FaultRow]:
    """The fault current at each place; places that share a figure stand in one row."""
    rows: dict[tuple[str, str, tuple[str, ...]], list[FaultAt]] = {}
    for fault in view.plan.faults.at:
        rows.setdefault((fault.side, fault.amps.key if fault.amps else fault.place, fault.silent), []).append(fault)
    found = []
    for (side, _, _), same in rows.items():
        names, first = [_place(view, fault.place) for fault in same], same[0]
        called = ", ".join(names) if len(names) < 4 else f"{names[0]} to {names[-1]}"
        sources, silent = (", ".join(_place(view, name) for name in group) for group in (first.sources, first.silent))
        found.append(FaultRow(called, side, first.amps, sources, silent))
    return found
