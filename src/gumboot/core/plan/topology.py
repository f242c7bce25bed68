"""Which circuits does this system have, and where does each core land?"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from gumboot.core.card.parts import Role
from gumboot.core.ledger import Ledger

Kind = Literal["pv", "battery", "battery-unit", "grid", "backup"]


@dataclass(frozen=True)
class End:
    """A landing place: an instance of a card, its port and terminal."""

    place: str
    port: str
    terminal: str


@dataclass(frozen=True)
class Core:
    """One conductor of a circuit: its role and the ends it joins, in order."""

    role: Role
    ends: tuple[End, ...]


@dataclass(frozen=True)
class Circuit:
    """A circuit before it is sized."""

    id: str
    title: str
    kind: Kind
    cores: tuple[Core, ...]


def instances(ledger: Ledger) -> dict[str, str]:
    """Every placed thing by instance id, with its equipment role."""
    places = ledger.places
    if places:
        return places
    places |= {
        "roof": "roof_box",
        "inverter": "inverter",
        "switch-fuse": "switch_fuse",
        "busbar": "busbar_box",
        "sub-board": "sub_board",
        "main-board": "main_board",
    }
    places.update({unit.id: "battery" for unit in ledger.job.bank.units})
    return places


def _pv(tracker: str, port: str) -> Circuit:
    pair: tuple[tuple[Role, str], ...] = (("positive", "+"), ("negative", "-"))
    cores = tuple(Core(role, (End("roof", tracker, t), End("inverter", port, t))) for role, t in pair)
    earth = Core("earth", (End("roof", "EARTH", tracker), End("inverter", "EARTH", port)))
    return Circuit(f"pv-{tracker.lower()}", f"PV run, {tracker}", "pv", (*cores, earth))


def _unit(unit: str) -> Circuit:
    return Circuit(
        unit,
        f"Battery lead, {unit}",
        "battery-unit",
        (
            Core("positive", (End(unit, "BATTERY", "+"), End("busbar", "BATTERIES", f"{unit} +"))),
            Core("negative", (End(unit, "BATTERY", "-"), End("busbar", "BATTERIES", f"{unit} -"))),
            Core("earth", (End(unit, "CASE", "E"), End("busbar", "EARTH", unit))),
        ),
    )


def _ac(circuit: str, title: str, kind: Kind, far: str, far_port: str, port: str, away: bool) -> Circuit:
    def ends(terminal: str, far_terminal: str, far_p: str) -> tuple[End, ...]:
        pair = (End(far, far_p, far_terminal), End("inverter", port, terminal))
        return tuple(reversed(pair)) if away else pair

    earth = (End(far, "BARS", f"E {circuit}"), End("inverter", "EARTH", port))
    return Circuit(
        circuit,
        title,
        kind,
        (
            Core("line1", ends("L1", "L1", far_port)),
            Core("line2", ends("L2", "L2", far_port)),
            Core("neutral", ends("N", f"N {circuit}", "BARS")),
            Core("earth", tuple(reversed(earth)) if away else earth),
        ),
    )


def circuits(ledger: Ledger) -> tuple[Circuit, ...]:
    """All circuits of a K4 system: PV runs, battery leads and main, grid and backup."""
    used = {s.tracker for s in ledger.job.strings}
    pv = tuple(_pv(t.id, t.port) for t in ledger.card("inverter").trackers if t.id in used)
    units = tuple(_unit(u.id) for u in ledger.job.bank.units)
    main = Circuit(
        "bat-main",
        "Battery main",
        "battery",
        (
            Core(
                "positive",
                (
                    End("busbar", "MAIN", "+"),
                    End("switch-fuse", "LINE", "+"),
                    End("switch-fuse", "LOAD", "+"),
                    End("inverter", "BATTERY", "+"),
                ),
            ),
            Core("negative", (End("busbar", "MAIN", "-"), End("inverter", "BATTERY", "-"))),
            Core("earth", (End("busbar", "EARTH", "main"), End("inverter", "EARTH", "BATTERY"))),
        ),
    )
    grid = _ac("grid", "Grid feed", "grid", "main-board", "BREAKER", "GRID", away=False)
    backup = _ac("backup", "Backed-up feed", "backup", "sub-board", "MAIN", "LOAD", away=True)
    return (*pv, *units, main, grid, backup)
