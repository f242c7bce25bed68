"""In what order is this system first switched on, and what holds each step?"""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import BankPlan
from gumboot.core.plan.prove import Check
from gumboot.core.sim.switch_line import Line, Switch


@dataclass(frozen=True)
class Step:
    """One act with what must be seen, what it makes live, and the checks it waits for."""

    id: str
    title: str
    see: str
    move: str = ""
    holds: tuple[str, ...] = ()
    figure: Figure | None = None
    caution: str = ""
    measure: Check | None = None


@dataclass(frozen=True)
class PowerUpPlan:
    """The sequence and the board it is played on."""

    school: str
    steps: tuple[Step, ...]
    line: Line
    off_order: tuple[str, ...]


def switch_line(ledger: Ledger) -> Line:
    """The switching network of this job."""
    units = tuple(Switch(u.id, f"{u.id} breaker and power", f"{u.id}-cells", "dc-bus") for u in ledger.job.bank.units)
    switches = (
        *units,
        Switch("precharge", "Pre-charge button", "dc-bus", "inverter-dc"),
        Switch("battery-switch", "Battery switch-fuse", "dc-bus", "inverter-dc"),
        Switch("inverter", "Inverter on", "inverter-dc", "inverter-load"),
        Switch("sub-main", "Backed-up board main", "inverter-load", "backed-up-board"),
        Switch("grid-breaker", "Grid breaker in the main board", "main-board", "inverter-grid"),
        Switch("pv-switch", "PV switch", "pv-strings", "inverter-pv"),
    )
    if ledger.job.backup.bypass != "none":
        switches = (*switches, Switch("bypass", "Bypass from the main board", "main-board", "backed-up-board"))
    sources = (*((f"{u.id}-cells", "battery") for u in ledger.job.bank.units), ("main-board", "grid"), ("pv-strings", "PV"))
    return Line(switches, sources, ledger.job.backup.bypass == "interlocked")


def _output_check(ledger: Ledger) -> Check:
    volts = ledger.read(ledger.card("inverter"), "output_v", "V_ac", "Voltage between legs", "V")
    low = ledger.work("power.out.low", "V_lo", "Island output at least", 0.95 * volts.value, "V", "cp.voltage", "0.95 * V_ac", (volts,))
    high = ledger.work("power.out.high", "V_hi", "Island output at most", 1.05 * volts.value, "V", "cp.voltage", "1.05 * V_ac", (volts,))
    return Check(
        "island-volts",
        "power-up",
        "Island output, L1 to L2",
        "V",
        "Measured at the terminals before it may feed the house.",
        low,
        high,
        volts,
        True,
        "Live AC: 120 V from each leg to neutral as well.",
    )


def plan_power_up(ledger: Ledger, bank: BankPlan, checks: tuple[Check, ...]) -> PowerUpPlan:
    """The island-first order with its holds. Other orders are taken from the card when it asks for them."""
    inverter = ledger.card("inverter")
    ledger.verdict(
        "POWER-ORDER",
        inverter.start_order == "island first",
        "order",
        f"The inverter's card asks for '{inverter.start_order}'; this plan holds island first only.",
        "Follow the maker's order with a licence holder present.",
    )
    dead = tuple(c.id for c in checks if c.life and not c.id.startswith(("pack", "voc", "polarity", "iso")))
    packs = tuple(c.id for c in checks if c.id.startswith("pack"))
    pv = tuple(c.id for c in checks if c.id.startswith(("voc", "polarity", "iso")))
    units = ledger.job.bank.units
    steps = [
        Step(
            "start-dead",
            "Everything open, locked and proved dead",
            "Each dead measurement stands in its band.",
            holds=dead,
            caution="A PV string is live in daylight and a battery cannot be switched off at its cells.",
        ),
        *(
            Step(
                f"on-{u.id}",
                f"Switch on {u.id}" + (", the leader" if i == 0 else ""),
                "Its lamp says ready; no alarm.",
                u.id,
                packs if i == 0 else (),
                caution="Join batteries only inside the maker's voltage window." if i == 0 else "",
            )
            for i, u in enumerate(units)
        ),
        Step(
            "precharge",
            f"Hold pre-charge for {bank.precharge_s.value:.0f} s or longer",
            "Voltage across the open battery switch falls under 1 V.",
            "precharge",
            figure=bank.precharge_s,
            caution="The resistor is hot afterwards.",
        ),
        Step(
            "battery-switch",
            "Close the battery switch-fuse",
            "No spark, no alarm.",
            "battery-switch",
            caution="Never without pre-charge; never open it under load.",
        ),
        Step("inverter-on", "Turn the inverter on", "It starts within 5 minutes; the screen says island.", "inverter"),
        Step("soc-agrees", "State of charge at the inverter equals the battery's", "Same figure at both displays, read after 10 s."),
        Step(
            "island-volts",
            "Measure the island output",
            "120 / 120 / 240 V at the LOAD terminals.",
            measure=_output_check(ledger),
            caution="Live AC at the terminals. Insulating gloves.",
        ),
        Step("sub-main", "Close the backed-up board's main", "Board live; nothing trips.", "sub-main", ("island-volts",)),
        Step("small-load", "Small load, then the largest motor", "Voltage holds; no overload."),
        Step("grid-breaker", "Close the grid breaker", "The inverter counts down, then passes the grid through.", "grid-breaker"),
        Step("pv-switch", "Close the PV switch", "Power rises tracker by tracker.", "pv-switch", pv),
        Step("export", "Allow export, last of all", "Export stays at or under the limit."),
    ]
    off = (
        "Inverter off",
        "Grid breaker open",
        "Backed-up main open",
        "PV switch open",
        "Battery switch open",
        *(f"{u.id} off" for u in reversed(units)),
    )
    return PowerUpPlan(inverter.start_order, tuple(steps), switch_line(ledger), off)
