"""Which ways lead from a source to every place on the AC side?"""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from gumboot.core.installation.parts import Circuit

Way = tuple[Circuit, ...]
# Ports of one thing that are never joined to each other: a switch stands on one side or the other, an inverter takes one or the other.
NEVER_JOINED = (frozenset(("GRID", "GEN")),)
NEVER_IN_A_SWITCH = (*NEVER_JOINED, frozenset(("GRID", "INV")))


def _at(circuit: Circuit, place: str) -> str:
    """The port at which a circuit meets a place."""
    first, last = circuit.cores[0].ends[0], circuit.cores[0].ends[-1]
    return first.port if first.place == place else last.port


def ways_from(start: str, circuits: Iterable[Circuit], switches: frozenset[str]) -> dict[str, tuple[Way, ...]]:
    """Every way without a turn back from ``start`` along AC circuits, by the place that it leads to; the start itself by no circuit.

    ``switches`` are the manual transfer switches: what comes in at one of their sides does not leave by the other.
    """
    joined: dict[str, list[tuple[Circuit, str]]] = {}
    for circuit in circuits:
        joined.setdefault(circuit.source, []).append((circuit, circuit.load))
        joined.setdefault(circuit.load, []).append((circuit, circuit.source))
    found: dict[str, list[Way]] = {}
    for place, way in _walked(start, joined, switches):
        found.setdefault(place, []).append(way)
    return {place: tuple(ways) for place, ways in found.items()}


def _walked(start: str, joined: dict[str, list[tuple[Circuit, str]]], switches: frozenset[str]) -> Iterator[tuple[str, Way]]:
    waiting: list[tuple[str, Way, frozenset[str]]] = [(start, (), frozenset((start,)))]
    while waiting:
        place, way, been = waiting.pop()
        yield place, way
        never = NEVER_IN_A_SWITCH if place in switches else NEVER_JOINED
        came = _at(way[-1], place) if way else ""
        for circuit, onward in joined.get(place, ()):
            if onward not in been and frozenset((came, _at(circuit, place))) not in never:
                waiting.append((onward, (*way, circuit), been | {onward}))
