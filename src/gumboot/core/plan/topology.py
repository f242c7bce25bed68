"""Which circuits does this system have, and where does each core land? The ports of the chosen cards say so."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from gumboot.core.card.model import AcLeg, Tracker
from gumboot.core.card.parts import Role
from gumboot.core.errors import WrongCard
from gumboot.core.ledger import Ledger
from gumboot.core.seats import Converter, Enclosed

Kind = Literal["pv", "battery", "battery-unit", "interlink", "grid", "through", "backup", "generator", "pv-ac"]
LINE_ROLES: dict[AcLeg, Role] = {"L1": "line1", "L2": "line2", "L3": "line3"}


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

    @property
    def is_dc(self) -> bool:
        """Whether it carries direct current."""
        return self.kind in ("pv", "battery", "battery-unit", "interlink")

    @property
    def lines(self) -> int:
        """Live AC conductors, the neutral not counted."""
        return sum(core.role.startswith("line") for core in self.cores)

    @property
    def has_earth(self) -> bool:
        """Whether an earth conductor runs with it."""
        return any(core.role == "earth" for core in self.cores)


SINGLE_PLACES = {
    "roof": "roof_box",
    "inverter": "inverter",
    "pv-inverter": "pv_inverter",
    "transfer": "transfer",
    "generator": "generator",
    "switch-fuse": "switch_fuse",
    "busbar": "busbar_box",
    "sub-board": "sub_board",
    "main-board": "main_board",
}


def instances(ledger: Ledger) -> dict[str, str]:
    """Every placed thing by instance id, with its equipment role."""
    places = ledger.places
    if not places:
        places |= {place: role for place, role in SINGLE_PLACES.items() if getattr(ledger.seats, role) is not None}
        places.update({unit.id: "battery" for unit in ledger.job.bank.units})
    return places


def card_at(ledger: Ledger, place: str) -> Enclosed:
    """The card of a placed thing. Raises WrongCard for a place whose card has no terminals."""
    found = ledger.enclosed.get(place)
    if found is not None:
        return found
    role = instances(ledger)[place]
    card = getattr(ledger.seats, role)
    if not isinstance(card, Enclosed):
        raise WrongCard(f"Nothing lands at {place}: its card has no terminals. Choose another card at equipment.{role}.")
    ledger.enclosed[place] = card
    return card


@dataclass(frozen=True, slots=True)
class Input:
    """A PV input with the place and the card that hold it."""

    place: str
    converter: Converter
    tracker: Tracker


def inputs(ledger: Ledger) -> list[Input]:
    """Every PV input: the battery inverter's, then the PV inverter's."""
    seats = ledger.seats
    rows = [Input("inverter", seats.inverter, t) for t in seats.inverter.trackers]
    if seats.pv_inverter is not None:
        rows += [Input("pv-inverter", seats.pv_inverter, t) for t in seats.pv_inverter.trackers]
    return rows


def _pv(place: str, tracker: str, port: str) -> Circuit:
    pair: tuple[tuple[Role, str], ...] = (("positive", "+"), ("negative", "-"))
    cores = tuple(Core(role, (End("roof", tracker, t), End(place, port, t))) for role, t in pair)
    earth = Core("earth", (End("roof", "EARTH", tracker), End(place, "EARTH", port)))
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


def _ac(
    ledger: Ledger, circuit: str, title: str, kind: Kind, source: tuple[str, str], load: tuple[str, str], lines: Sequence[AcLeg]
) -> Circuit:
    """An AC circuit from its source's port to its load's. A board keeps neutrals and earths on its bars."""

    def end(place: str, port: str, terminal: str) -> End:
        if card_at(ledger, place).kind == "board":
            return End(place, "BARS", f"{terminal} {circuit}") if terminal in ("N", "E") else End(place, port, terminal)
        return End(place, "EARTH", port) if terminal == "E" else End(place, port, terminal)

    def core(role: Role, terminal: str) -> Core:
        return Core(role, (end(*source, terminal), end(*load, terminal)))

    return Circuit(
        circuit,
        title,
        kind,
        (*(core(LINE_ROLES[line], line) for line in lines), core("neutral", "N"), core("earth", "E")),
    )


def _battery(ledger: Ledger) -> list[Circuit]:
    units, card, inverter = ledger.job.bank.units, ledger.seats.battery, ledger.seats.inverter
    if card.arrangement == "docked" or inverter.bank_internal:
        return []
    boxed = ledger.seats.busbar_box is not None
    plus = End("busbar", "MAIN", "+") if boxed else End(units[0].id, "BATTERY", "+")
    minus = End("busbar", "MAIN", "-") if boxed else End(units[-1 if card.arrangement == "blocks" else 0].id, "BATTERY", "-")
    fuse = (End("switch-fuse", "LINE", "+"), End("switch-fuse", "LOAD", "+")) if ledger.seats.switch_fuse is not None else ()
    earth = End("busbar", "EARTH", "main") if boxed else End(units[0].id, "CASE", "E")
    main = Circuit(
        "bat-main",
        "Battery main",
        "battery",
        (
            Core("positive", (plus, *fuse, End("inverter", "BATTERY", "+"))),
            Core("negative", (minus, End("inverter", "BATTERY", "-"))),
            *(() if card.arrangement == "blocks" else (Core("earth", (earth, End("inverter", "EARTH", "BATTERY"))),)),
        ),
    )
    if card.arrangement == "blocks" and len(units) > 1:
        joints = tuple(Core("positive", (End(a.id, "BATTERY", "-"), End(b.id, "BATTERY", "+"))) for a, b in itertools.pairwise(units))
        return [Circuit("interlinks", "Links between the blocks", "interlink", joints), main]
    return [*(_unit(u.id) for u in units), main] if boxed else [main]


def circuits(ledger: Ledger) -> tuple[Circuit, ...]:
    """All circuits: PV runs, battery, grid, what passes the transfer equipment, backed-up feed, generator, AC-coupled PV."""
    inverter = ledger.seats.inverter
    used = {s.tracker for s in ledger.job.strings}
    found = [
        _pv(i.place, i.tracker.id, i.tracker.port) for i in inputs(ledger) if i.tracker.id in used and ledger.seats.roof_box is not None
    ]
    found += _battery(ledger)
    lines, ports = inverter.phases, {port.id for port in inverter.ports}
    grid = ledger.job.site.supply != "none" and ledger.seats.main_board is not None
    style = ledger.seats.transfer.style if ledger.seats.transfer is not None else ""
    board, feed = ("main-board", "BREAKER"), ("sub-board", "MAIN")
    if style == "gateway":
        if grid:
            found.append(_ac(ledger, "grid", "Grid feed", "grid", board, ("transfer", "GRID"), lines))
        found.append(_ac(ledger, "through", "Gateway to inverter", "through", ("transfer", "INV"), ("inverter", "AC"), lines))
        found.append(_ac(ledger, "backup", "Backed-up feed", "backup", ("transfer", "LOAD"), feed, lines))
    elif style == "manual":
        if grid:
            found.append(_ac(ledger, "grid", "Grid feed", "grid", board, ("inverter", "GRID"), lines))
            found.append(
                _ac(ledger, "through", "Grid to transfer switch", "through", ("main-board", "TRANSFER"), ("transfer", "GRID"), lines)
            )
        found.append(
            _ac(ledger, "inverter-out", "Inverter to transfer switch", "through", ("inverter", "LOAD"), ("transfer", "INV"), lines)
        )
        found.append(_ac(ledger, "backup", "Backed-up feed", "backup", ("transfer", "LOAD"), feed, lines))
    else:
        if grid and "GRID" in ports:
            found.append(_ac(ledger, "grid", "Grid feed", "grid", board, ("inverter", "GRID"), lines))
        found.append(_ac(ledger, "backup", "Backed-up feed", "backup", ("inverter", "LOAD"), feed, lines))
    if ledger.seats.generator is not None:
        found.append(_ac(ledger, "generator-feed", "Generator feed", "generator", ("generator", "OUT"), ("inverter", "GEN"), lines))
    if ledger.seats.pv_inverter is not None:
        pv_lines = ledger.seats.pv_inverter.phases
        found.append(_ac(ledger, "pv-ac", "PV inverter feed", "pv-ac", ("pv-inverter", "AC"), ("sub-board", "PV"), pv_lines))
    return tuple(found)
