"""The dead measurements in the order in which they are made."""

from __future__ import annotations

from gumboot.core.figure import Figure, constant
from gumboot.core.installation import Circuit
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits import CircuitsPlan, Sized
from gumboot.core.plan.links import LinksPlan
from gumboot.core.plan.prove.bank import DEAD, PROVED_DEAD, bank_checks, dead_dc
from gumboot.core.plan.prove.check import Check, Lasts
from gumboot.core.plan.prove.isolated import isolated_checks
from gumboot.core.plan.prove.strings import string_checks
from gumboot.core.plan.strings import StringsPlan

CONTINUITY = constant("R_max", "Earth continuity at most", 1.0, "ohm", "iec.60364.6", limits="Subtract the test leads.")
JOINTS = Check(
    id="look-joints",
    station="prove",
    title="Every joint looked at and pulled lightly",
    unit="",
    why="Factory joints come loose as well: look at the battery breaker's busbar bolts.",
)
OPEN = Check(
    id="look-open",
    station="prove",
    title="Every switch and breaker open and locked",
    unit="",
    why="Nothing may close by itself while hands are inside.",
    life=True,
    caution="Lock and tag. Eye protection, insulating gloves, safety shoes, no jewellery.",
    code="READ-LOCKED",
    lasts=PROVED_DEAD,
)
DEAD_AC = Check(
    id="dead-grid",
    station="prove",
    title="Inverter GRID and LOAD terminals, every pair",
    unit="V",
    why="No foreign voltage.",
    high=DEAD,
    life=True,
    caution="Prove the tester on a known source before and after.",
    code="READ-DEAD",
    measures="magnitude",
    lasts=PROVED_DEAD,
)
GLANDS = Check(
    id="look-glands",
    station="prove",
    title="Unused glands blanked, bars and shields in place",
    unit="",
    why="Water and fingers find an open gland.",
)


def _as_it_stands(circuit: Circuit) -> Check:
    """One look at a circuit between things that stay."""
    return Check(
        id=f"stands-{circuit.id}",
        station="prove",
        title=f"{circuit.title} is there already: as drawn, no mark of heat, every clamp holds",
        unit="",
        why="What stays was planned in; nobody has looked at it yet.",
    )


def _earth(sized: Sized) -> Check:
    return Check(
        id=f"earth-{sized.circuit.id}",
        station="prove",
        title=f"Earth continuity, {sized.circuit.title}",
        unit="ohm",
        why="A fault must find its way back.",
        high=CONTINUITY,
        life=True,
        code="READ-EARTH",
        places=tuple(dict.fromkeys((sized.circuit.source, sized.circuit.load))),
        lasts=Lasts(landed=(f"earth of {sized.circuit.id}",), rests=f"{sized.earth_size}, {sized.length.value:.4g} m"),
    )


def _electrode(ledger: Ledger) -> list[Check]:
    """The island's own earth, where it has one: nothing else ties it to the ground when the grid is gone."""
    site = ledger.job.site
    if not site.island_electrode:
        return []
    size = f"{site.electrode_size} {site.electrode_material}, " if site.electrode_size is not None else ""
    return [
        Check(
            id="electrode",
            station="prove",
            title=f"Earth electrode's conductor landed: {size}clamp tight on clean metal, its label on it",
            unit="",
            why="When the grid is gone the island's earth ends here: a loose clamp leaves every case at the voltage of a fault.",
            life=True,
            caution="Never take it off while anything is live.",
            code="READ-EARTH",
        )
    ]


def _dead_ac(ledger: Ledger) -> Check:
    inverters = ledger.seats.inverters
    dead = DEAD_AC.but(places=tuple(unit.id for unit in inverters))
    return dead if len(inverters) == 1 else dead.but(title="GRID and LOAD terminals of every inverter, every pair")


def _bus(ledger: Ledger, bus: str, pair: Figure, mark: str = "", of: str = "") -> Check:
    low = ledger.work("prove.bus.low", "R_lo", "Bus pair at least", 54.0, "ohm", source="cp.terminator", limits="60 ohm less a tenth.")
    high = ledger.work("prove.bus.high", "R_hi", "Bus pair at most", 66.0, "ohm", source="cp.terminator", limits="60 ohm and a tenth.")
    return Check(
        id=f"bus-pair{mark}",
        station="prove",
        title=f"Resistance across the dead {bus} pair{of}",
        unit="ohm",
        why="60: both terminators. 120: one missing. 40: one too many.",
        low=low,
        high=high,
        expected=pair,
        code="READ-BUS",
    )


def _between(ledger: Ledger, links: LinksPlan) -> list[Check]:
    """The dead pair of the link between the inverters of each group."""
    return [
        _bus(ledger, group.port.bus, group.pair_ohm).but(
            id=f"group-pair{group.mark}",
            title=f"Resistance across the dead {group.port.bus} pair between inverters{group.of}",
        )
        for group in links.groups
        if group.pair_ohm is not None
    ]


def _modbus(ledger: Ledger, links: LinksPlan) -> list[Check]:
    """The dead pair of each Modbus line."""
    return [
        _bus(ledger, "RS-485", line.pair_ohm).but(
            id=f"modbus-pair{line.mark}",
            title="Resistance across the dead Modbus pair" + (f" of {line.inverter.name}" if line.mark else ""),
        )
        for line in links.modbus
    ]


def plan_prove(ledger: Ledger, strings: StringsPlan | None, circuits: CircuitsPlan, links: LinksPlan) -> tuple[Check, ...]:
    """Dead measurements in the order they are made."""
    earths = [_earth(z) for z in circuits.sized.values() if z.circuit.kind != "battery-unit" and z.earth is not None]
    bus = [_bus(ledger, b.inverter_port.bus, b.pair_ohm, b.mark, b.of) for b in links.buses if b.inverter_port and b.pair_ohm]
    standing = ledger.house.standing()
    landed = {end.place for z in circuits.sized.values() if z.circuit.id not in standing for core in z.circuit.cores for end in core.ends}
    return (
        *isolated_checks(ledger, landed),
        JOINTS,
        OPEN,
        _dead_ac(ledger),
        *dead_dc(ledger),
        *earths,
        *_electrode(ledger),
        *(_as_it_stands(c) for c in circuits.all if c.id in standing),
        *bank_checks(ledger),
        *string_checks(ledger, strings),
        *bus,
        *_between(ledger, links),
        *_modbus(ledger, links),
        GLANDS,
    )
