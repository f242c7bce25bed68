"""The steps of the island-first order: what each makes live, what must be seen, what it waits for."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from gumboot.core.card import InverterCard
from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import BankPlan
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.plan.power_up.board import battery_switches
from gumboot.core.plan.prove import Check, read_when_on

Need = Literal["links", "settings", "meter"]


@dataclass(frozen=True, kw_only=True)
class Step:
    """One act with what must be seen, what it makes live, and what it waits for.

    ``lands`` are the circuits that it makes live: each of their terminations waits on record. ``needs`` names what else must be done:
    the link ritual, the settings as left, the meter test with PV off.
    """

    id: str
    title: str
    see: str
    move: str = ""
    holds: tuple[str, ...] = ()
    figure: Figure | None = None
    caution: str = ""
    measure: Check | None = None
    lands: tuple[str, ...] = ()
    needs: tuple[Need, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Ready:
    """What the steps are made from: the bank, the dead checks, what each kind of step makes live, and what there is."""

    ledger: Ledger
    bank: BankPlan
    checks: tuple[Check, ...]
    plan: CircuitsPlan

    def live(self, *kinds: str) -> tuple[str, ...]:
        """Circuits of these kinds."""
        return tuple(cid for cid, sized in self.plan.sized.items() if sized.circuit.kind in kinds)

    @property
    def battery(self) -> tuple[str, ...]:
        """Circuits that a battery makes live."""
        return self.live("battery-unit", "interlink", "battery")

    def proving(self, of: str) -> tuple[str, ...]:
        """Checks that prove the batteries or the array; with nothing named, what guards life beside them."""
        return tuple(c.id for c in self.checks if c.of == of and (of or c.life))

    @property
    def linked(self) -> bool:
        """Whether there is a battery bus to prove."""
        return any(c.code == "READ-BUS" for c in self.checks)

    @property
    def grid(self) -> bool:
        """Whether there is a grid."""
        return self.ledger.job.site.supply != "none"

    @property
    def metered(self) -> tuple[Need, ...]:
        """The meter test, where the inverter looks at the grid through CTs."""
        seats = self.ledger.seats
        return ("meter",) if self.grid and seats.inverter.ct_channels and seats.ct is not None else ()


def seen_volts(inverter: InverterCard) -> str:
    """What a meter shows at the island's terminals."""
    leg, whole = f"{inverter.leg_v:g}", f"{inverter.output_v:g}"
    if inverter.output == "split phase":
        return f"{leg} / {leg} / {whole} V at the LOAD terminals."
    return f"{whole} V at the LOAD terminals." if inverter.output == "single phase" else f"{leg} V to neutral and {whole} V between lines."


def output_check(ledger: Ledger) -> Check:
    """The island's output before it may feed the house."""
    inverter = ledger.seats.inverter
    volts = ledger.read(inverter, "output_v")
    low = ledger.work("power.out.low", "V_lo", "Island output at least", 0.95 * volts, "V", "cp.voltage")
    high = ledger.work("power.out.high", "V_hi", "Island output at most", 1.05 * volts, "V", "cp.voltage")
    between = {"single phase": "L to N", "split phase": "L1 to L2", "three phase": "each line to the next"}[inverter.output]
    each = f"Live AC: {inverter.leg_v:g} V from each line to neutral as well."
    return Check(
        id="island-volts",
        station="power-up",
        title=f"Island output, {between}",
        unit="V",
        why="Measured at the terminals before it may feed the house.",
        low=low,
        high=high,
        expected=volts,
        life=True,
        caution="Live AC." if inverter.output == "single phase" else each,
        code="READ-ISLAND",
    )


def _batteries(r: Ready) -> Iterable[Step]:
    switched, packs = battery_switches(r.ledger), r.proving("battery")
    for i, (uid, title) in enumerate(switched):
        first, several = i == 0, len(switched) > 1
        yield Step(
            id=f"on-{uid}",
            title=f"Switch on {title[0].lower() + title[1:]}" + (", the leader" if first and several else ""),
            see="Its lamp says ready; no alarm.",
            move=uid,
            holds=packs if first else (),
            caution="Join batteries only inside the maker's voltage window." if first and several else "",
            lands=r.battery,
            needs=("links",) if r.linked else (),
        )


def _fuse(r: Ready) -> Iterable[Step]:
    yield Step(
        id="precharge",
        title=f"Hold pre-charge for {r.bank.precharge_s.value:.0f} s or longer",
        see="Voltage across the open battery switch falls under 1 V.",
        move="precharge",
        figure=r.bank.precharge_s,
        caution="The resistor is hot afterwards.",
        lands=r.battery,
    )
    yield Step(
        id="battery-switch",
        title="Close the battery switch-fuse",
        see="No spark, no alarm.",
        move="battery-switch",
        caution="Never without pre-charge; never open it under load.",
        lands=r.battery,
    )


def _measured(check: Check, title: str, see: str) -> Step:
    return Step(id="bank-volts", title=title, see=see, measure=check)


def _to_the_island(r: Ready) -> Iterable[Step]:
    """From everything dead to an island that feeds its board."""
    inverter, on_bank = r.ledger.seats.inverter, read_when_on(r.ledger)
    docked = on_bank is not None and r.ledger.seats.battery.arrangement != "stack"
    dead = "A PV string is live in daylight and a battery cannot be switched off at its cells."
    see = "Each dead measurement stands in its band."
    yield Step(id="start-dead", title="Everything open, locked and proved dead", see=see, holds=r.proving(""), caution=dead)
    yield from _batteries(r)
    if on_bank and not docked:
        yield _measured(on_bank, "Measure the battery before anything is joined to it", "A whole number of modules, the right way round.")
    if r.ledger.seats.switch_fuse is not None:
        yield from _fuse(r)
    see, lands = "It starts within 5 minutes; the screen says island.", (*r.battery, *r.live("backup", "through"))
    yield Step(id="inverter-on", title="Turn the inverter on", see=see, move="inverter", lands=lands)
    if on_bank and docked:
        yield _measured(on_bank, "Read the battery's voltage on the display", "A whole number of modules.")
    if r.linked:
        title, see = "State of charge at the inverter equals the battery's", "Same figure at both displays, read after 10 s."
        yield Step(id="soc-agrees", title=title, see=see, needs=("links",))
    output, gloves = output_check(r.ledger), "Live AC at the terminals. Insulating gloves."
    yield Step(id="island-volts", title="Measure the island output", see=seen_volts(inverter), measure=output, caution=gloves)
    # What hangs on a board that is closed on counts as live with it.
    board, see = r.live("backup", "pv-ac"), "Board live; nothing trips."
    yield Step(id="sub-main", title="Close the backed-up board's main", see=see, move="sub-main", holds=("island-volts",), lands=board)
    yield Step(id="small-load", title="Small load, then the largest motor", see="Voltage holds; no overload.")


def _grid(r: Ready) -> Step:
    return Step(
        id="grid-breaker",
        title="Close the grid breaker",
        see="The inverter counts down, then takes the grid in.",
        move="grid-breaker",
        lands=r.live("grid", "through"),
        needs=("settings",),
    )


def _pv(r: Ready) -> Step:
    return Step(
        id="pv-switch",
        title="Close the PV switch",
        see="Power rises tracker by tracker.",
        move="pv-switch",
        holds=r.proving("array"),
        lands=r.live("pv"),
        needs=("settings", *r.metered),
    )


def _generator(r: Ready) -> Step:
    return Step(
        id="generator-breaker",
        title="Start the generator, then close its breaker",
        see="Voltage and frequency steady; charging begins slowly.",
        move="generator-breaker",
        caution="Exhaust kills: outdoors only, away from openings.",
        lands=r.live("generator"),
        needs=("settings",),
    )


def island_first(r: Ready) -> Iterable[Step]:
    """The steps from everything dead to export."""
    yield from _to_the_island(r)
    if r.grid:
        yield _grid(r)
    if r.ledger.job.strings:
        yield _pv(r)
    if r.ledger.seats.generator is not None:
        yield _generator(r)
    if r.grid and r.ledger.seats.inverter.role != "off-grid":
        see = "Export stays at or under the limit."
        yield Step(id="export", title="Allow export, last of all", see=see, needs=("settings", *r.metered))
