"""In what order is this system first switched on, and what holds each step?"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from gumboot.core.card import InverterCard
from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import BankPlan
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.plan.prove import Check, read_when_on
from gumboot.core.sim.switch_line import Line, Switch

Need = Literal["links", "settings", "meter"]


@dataclass(frozen=True)
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


@dataclass(frozen=True)
class PowerUpPlan:
    """The sequence and the board it is played on. Without steps ``unplanned`` says why there are none."""

    school: str
    steps: tuple[Step, ...]
    line: Line
    off_order: tuple[str, ...]
    unplanned: str = ""


def switch_line(ledger: Ledger) -> Line:
    """The switching network of this job, from what it has: battery, inverter, backed-up board, grid, PV, generator."""
    job, fused = ledger.job, ledger.has("switch_fuse")
    wired = _battery_switches(ledger)
    dc = "dc-bus" if fused else "inverter-dc"
    switches = [Switch(uid, f"{title} breaker and power", f"{uid}-cells", dc) for uid, title in wired]
    if fused:
        switches += [
            Switch("precharge", "Pre-charge button", "dc-bus", "inverter-dc"),
            Switch("battery-switch", "Battery switch-fuse", "dc-bus", "inverter-dc"),
        ]
    switches += [
        Switch("inverter", "Inverter on", "inverter-dc", "inverter-load"),
        Switch("sub-main", "Backed-up board main", "inverter-load", "backed-up-board"),
    ]
    sources = [(f"{uid}-cells", "battery") for uid, _ in wired]
    if job.site.supply != "none":
        switches.append(Switch("grid-breaker", "Grid breaker in the main board", "main-board", "inverter-grid"))
        sources.append(("main-board", "grid"))
    if job.strings:
        switches.append(Switch("pv-switch", "PV switch", "pv-strings", "inverter-pv"))
        sources.append(("pv-strings", "PV"))
    if ledger.has("generator"):
        switches.append(Switch("generator-breaker", "Generator breaker", "generator", "inverter-generator"))
        sources.append(("generator", "generator"))
    if job.backup.bypass != "none":
        switches.append(Switch("bypass", "Bypass from the main board", "main-board", "backed-up-board"))
    return Line(tuple(switches), tuple(sources), job.backup.bypass == "interlocked")


def _battery_switches(ledger: Ledger) -> list[tuple[str, str]]:
    """What a hand switches on of the bank: each parallel battery, or the stack, the blocks or the cabinet as one."""
    card, units = ledger.card("battery"), ledger.job.bank.units
    if card.arrangement == "parallel" and not ledger.card("inverter").bank_internal:
        return [(u.id, u.id) for u in units]
    return [(units[0].id, {"stack": "Battery stack", "blocks": "Battery bank"}.get(card.arrangement, "Battery cabinet"))]


def _output_check(ledger: Ledger) -> Check:
    inverter = ledger.card("inverter")
    volts = ledger.read(inverter, "output_v", "V_ac", "Voltage between lines", "V")
    low = ledger.work("power.out.low", "V_lo", "Island output at least", 0.95 * volts.value, "V", "cp.voltage", "0.95 * V_ac", (volts,))
    high = ledger.work("power.out.high", "V_hi", "Island output at most", 1.05 * volts.value, "V", "cp.voltage", "1.05 * V_ac", (volts,))
    between = {"single phase": "L to N", "split phase": "L1 to L2", "three phase": "each line to the next"}[inverter.output]
    return Check(
        "island-volts",
        "power-up",
        f"Island output, {between}",
        "V",
        "Measured at the terminals before it may feed the house.",
        low,
        high,
        volts,
        True,
        "Live AC." if inverter.output == "single phase" else f"Live AC: {inverter.leg_v:g} V from each line to neutral as well.",
        "READ-ISLAND",
    )


def _live_with(plan: CircuitsPlan) -> dict[str, tuple[str, ...]]:
    """Circuits that each kind of step makes live. What hangs on a board that is closed on counts as live with it."""

    def of(*kinds: str) -> tuple[str, ...]:
        return tuple(cid for cid, sized in plan.sized.items() if sized.circuit.kind in kinds)

    return {
        "battery": of("battery-unit", "interlink", "battery"),
        "inverter": of("backup", "through"),
        "board": of("backup", "pv-ac"),
        "grid": of("grid", "through"),
        "pv": of("pv"),
        "generator": of("generator"),
    }


def _steps(ledger: Ledger, bank: BankPlan, checks: tuple[Check, ...], plan: CircuitsPlan) -> Iterable[Step]:
    inverter, live = ledger.card("inverter"), _live_with(plan)
    dead = tuple(c.id for c in checks if c.life and not c.id.startswith(("pack", "voc", "polarity", "iso")))
    packs = tuple(c.id for c in checks if c.id.startswith("pack"))
    pv = tuple(c.id for c in checks if c.id.startswith(("voc", "polarity", "iso")))
    switched, fused = _battery_switches(ledger), ledger.has("switch_fuse")
    grid, strings, generator = ledger.job.site.supply != "none", bool(ledger.job.strings), ledger.has("generator")
    linked = any(c.id == "bus-pair" for c in checks)
    meter: tuple[Need, ...] = ("meter",) if grid and inverter.ct_channels and ledger.has("ct") else ()
    on_bank = read_when_on(ledger)
    docked = on_bank is not None and ledger.card("battery").arrangement != "stack"
    yield Step(
        "start-dead",
        "Everything open, locked and proved dead",
        "Each dead measurement stands in its band.",
        holds=dead,
        caution="A PV string is live in daylight and a battery cannot be switched off at its cells.",
    )
    for i, (uid, title) in enumerate(switched):
        first, several = i == 0, len(switched) > 1
        yield Step(
            f"on-{uid}",
            f"Switch on {title[0].lower() + title[1:]}" + (", the leader" if first and several else ""),
            "Its lamp says ready; no alarm.",
            uid,
            packs if first else (),
            caution="Join batteries only inside the maker's voltage window." if first and several else "",
            lands=live["battery"],
            needs=("links",) if linked else (),
        )
    if on_bank and not docked:
        yield Step(
            "bank-volts",
            "Measure the battery before anything is joined to it",
            "A whole number of modules, the right way round.",
            measure=on_bank,
        )
    if fused:
        yield from _fuse_steps(bank, live["battery"])
    yield Step(
        "inverter-on",
        "Turn the inverter on",
        "It starts within 5 minutes; the screen says island.",
        "inverter",
        lands=(*live["battery"], *live["inverter"]),
    )
    if on_bank and docked:
        yield Step("bank-volts", "Read the battery's voltage on the display", "A whole number of modules.", measure=on_bank)
    if linked:
        yield Step(
            "soc-agrees",
            "State of charge at the inverter equals the battery's",
            "Same figure at both displays, read after 10 s.",
            needs=("links",),
        )
    yield Step(
        "island-volts",
        "Measure the island output",
        _seen_volts(inverter),
        measure=_output_check(ledger),
        caution="Live AC at the terminals. Insulating gloves.",
    )
    yield Step(
        "sub-main", "Close the backed-up board's main", "Board live; nothing trips.", "sub-main", ("island-volts",), lands=live["board"]
    )
    yield Step("small-load", "Small load, then the largest motor", "Voltage holds; no overload.")
    if grid:
        yield Step(
            "grid-breaker",
            "Close the grid breaker",
            "The inverter counts down, then takes the grid in.",
            "grid-breaker",
            lands=live["grid"],
            needs=("settings",),
        )
    if strings:
        yield Step(
            "pv-switch",
            "Close the PV switch",
            "Power rises tracker by tracker.",
            "pv-switch",
            pv,
            lands=live["pv"],
            needs=("settings", *meter),
        )
    if generator:
        yield Step(
            "generator-breaker",
            "Start the generator, then close its breaker",
            "Voltage and frequency steady; charging begins slowly.",
            "generator-breaker",
            caution="Exhaust kills: outdoors only, away from openings.",
            lands=live["generator"],
            needs=("settings",),
        )
    if grid and inverter.role != "off-grid":
        yield Step("export", "Allow export, last of all", "Export stays at or under the limit.", needs=("settings", *meter))


def plan_power_up(ledger: Ledger, bank: BankPlan, checks: tuple[Check, ...], plan: CircuitsPlan) -> PowerUpPlan:
    """The island-first order with its holds. An order that is not planned has no steps: a wrong order under a trusted title misleads."""
    school = ledger.card("inverter").start_order
    ledger.verdict(
        "POWER-ORDER",
        school == "island first",
        "order",
        f"The inverter's card asks for '{school}'; only island first is planned, so no steps are given.",
        "Follow the maker's order with a licence holder present.",
    )
    switched, fused = _battery_switches(ledger), ledger.has("switch_fuse")
    off = (
        "Inverter off",
        *(("Generator off, its breaker open",) if ledger.has("generator") else ()),
        *(("Grid breaker open",) if ledger.job.site.supply != "none" else ()),
        "Backed-up main open",
        *(("PV switch open",) if ledger.job.strings else ()),
        *(("Battery switch open",) if fused else ()),
        *(f"{title} off" for _, title in reversed(switched)),
    )
    if school != "island first":
        said = f"The card asks for '{school}'. That order is not planned here: follow the maker's manual, with a licence holder present."
        return PowerUpPlan(school, (), switch_line(ledger), off, said)
    return PowerUpPlan(school, tuple(_steps(ledger, bank, checks, plan)), switch_line(ledger), off)


def _seen_volts(inverter: InverterCard) -> str:
    leg, whole = f"{inverter.leg_v:g}", f"{inverter.output_v:g}"
    if inverter.output == "split phase":
        return f"{leg} / {leg} / {whole} V at the LOAD terminals."
    return f"{whole} V at the LOAD terminals." if inverter.output == "single phase" else f"{leg} V to neutral and {whole} V between lines."


def _fuse_steps(bank: BankPlan, lands: tuple[str, ...]) -> tuple[Step, ...]:
    return (
        Step(
            "precharge",
            f"Hold pre-charge for {bank.precharge_s.value:.0f} s or longer",
            "Voltage across the open battery switch falls under 1 V.",
            "precharge",
            figure=bank.precharge_s,
            caution="The resistor is hot afterwards.",
            lands=lands,
        ),
        Step(
            "battery-switch",
            "Close the battery switch-fuse",
            "No spark, no alarm.",
            "battery-switch",
            caution="Never without pre-charge; never open it under load.",
            lands=lands,
        ),
    )
