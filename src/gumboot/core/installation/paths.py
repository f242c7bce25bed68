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


# Ways of a large house multiply: beyond so many steps nobody counts them, and nothing is held back along them.
MOST_STEPS = 1000
Joined = dict[str, list[tuple[Circuit, str]]]


def _joined(circuits: Iterable[Circuit]) -> Joined:
    joined: Joined = {}
    for circuit in circuits:
        joined.setdefault(circuit.source, []).append((circuit, circuit.load))
        joined.setdefault(circuit.load, []).append((circuit, circuit.source))
    return joined


def _onward(joined: Joined, place: str, came: Circuit | None, switches: frozenset[str]) -> Iterator[tuple[Circuit, str]]:
    """What leaves a place that was come to along a circuit, but for the way back."""
    never, port = NEVER_IN_A_SWITCH if place in switches else NEVER_JOINED, _at(came, place) if came is not None else ""
    return ((c, on) for c, on in joined.get(place, ()) if c is not came and frozenset((port, _at(c, place))) not in never)


def reached_from(start: str, circuits: Iterable[Circuit], switches: frozenset[str]) -> frozenset[str]:
    """The places that AC circuits lead to from ``start``, itself too. ``switches`` as of ``ways_from``."""
    waiting: list[tuple[str, Circuit | None]] = [(start, None)]
    joined, been = _joined(circuits), {(start, "")}
    while waiting:
        place, came = waiting.pop()
        for circuit, on in _onward(joined, place, came, switches):
            if (on, circuit.id) not in been:
                been.add((on, circuit.id))
                waiting.append((on, circuit))
    return frozenset(place for place, _ in been)


def ways_from(start: str, circuits: Iterable[Circuit], switches: frozenset[str]) -> dict[str, tuple[Way, ...]]:
    """Every way without a turn back from ``start`` along AC circuits, by the place that it leads to; the start itself by no circuit.

    ``switches`` are the manual transfer switches: what comes in at one of their sides does not leave by the other. Where there are more
    ways than anyone counts, each place is reached by a way of no circuit, which holds nothing back.
    """
    every, steps = tuple(circuits), 0
    joined, found = _joined(every), dict[str, list[Way]]()
    waiting: list[tuple[str, Way, frozenset[str]]] = [(start, (), frozenset((start,)))]
    while waiting:
        place, way, been = waiting.pop()
        found.setdefault(place, []).append(way)
        steps += 1
        if steps > MOST_STEPS:
            return dict.fromkeys(reached_from(start, every, switches), ((),))
        onward = _onward(joined, place, way[-1] if way else None, switches)
        waiting += [(on, (*way, c), been | {on}) for c, on in onward if on not in been]
    return {place: tuple(ways) for place, ways in found.items()}
