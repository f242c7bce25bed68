"""What does each circuit carry, and may the inverter be joined to the main board?"""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.figure import Figure
from gumboot.core.job.model import Run
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import BankSupply
from gumboot.core.plan.loads import LoadsPlan
from gumboot.core.plan.sizing import Demand, Sized, size_circuit
from gumboot.core.plan.strings import StringsPlan
from gumboot.core.plan.topology import Circuit, circuits, instances
from gumboot.core.rulebook.north_american import photovoltaic as pv
from gumboot.core.rulebook.north_american.connection import busbar_demand_a, busbar_limit_a


@dataclass(frozen=True)
class CircuitsPlan:
    """All circuits; ``sized`` lacks those whose answers are missing."""

    all: tuple[Circuit, ...]
    sized: dict[str, Sized]
    busbar_sum: Figure | None
    busbar_limit: Figure | None


def _continuous(ledger: Ledger, cid: str, design: Figure, source: str = "nec.210.19") -> Figure:
    return ledger.work(
        f"circuits.{cid}.continuous_a",
        "I_c",
        "125 % of the design current",
        1.25 * design.value,
        "A",
        source,
        f"1.25 * {design.symbol}",
        (design,),
    )


def _pv_demand(ledger: Ledger, circuit: Circuit, plan: StringsPlan) -> Demand | None:
    tracker = next((t for t in plan.trackers if f"pv-{t.tracker.id.lower()}" == circuit.id), None)
    if tracker is None:
        return None
    continuous = ledger.work(
        f"circuits.{circuit.id}.continuous_a",
        "I_c",
        "125 % of the maximum circuit current",
        pv.conductor_current_a(tracker.maximum_a.value),
        "A",
        "nec.690.8b",
        "1.25 * I_max",
        (tracker.maximum_a,),
    )
    return Demand(
        tracker.maximum_a,
        continuous,
        tracker.hot_v,
        tracker.operating_a,
        "",
        "",
        None,
        False,
        "none: one string cannot feed a fault with more than its own current (690.9(A) exception)",
    )


def _unit_demand(ledger: Ledger, circuit: Circuit) -> Demand:
    card = ledger.card("battery")
    design = ledger.read(card, "discharge_a", "I_1", "Continuous discharge of one battery", "A")
    nominal = ledger.read(card, "nominal_v", "V_n", "Nominal voltage", "V")
    return Demand(
        design,
        _continuous(ledger, circuit.id, design),
        nominal,
        design,
        card.lead_min,
        f"card:{card.id}:lead_min",
        ledger.read(card, "breaker_a", "I_br", "Battery's own breaker", "A"),
        True,
        "in the battery",
    )


def _main_demand(ledger: Ledger, circuit: Circuit, supply: BankSupply) -> Demand:
    card, inverter, fuse = ledger.card("battery"), ledger.card("inverter"), ledger.card("switch_fuse")
    low = ledger.read(card, "v_low_operating", "V_low", "Lowest voltage in operation", "V")
    return Demand(
        supply.design_a,
        _continuous(ledger, circuit.id, supply.design_a),
        low,
        supply.design_a,
        inverter.battery.conductor_min,
        f"card:{inverter.id}:battery.conductor_min",
        ledger.read(fuse, "rated_a", "I_f", "Fuse rating", "A"),
        True,
        "in the switch-fuse",
    )


def _leg_current(ledger: Ledger, cid: str, loads: LoadsPlan) -> Figure:
    inverter = ledger.card("inverter")
    leg = max(loads.running.values(), key=lambda f: f.value)
    volts = ledger.read(inverter, "leg_v", "V_leg", "Voltage of one leg", "V")
    return ledger.work(
        f"circuits.{cid}.leg_a",
        "I_leg",
        "Heavier leg of the backed-up side",
        leg.value / volts.value,
        "A",
        "physics",
        f"{leg.symbol} / V_leg",
        (leg, volts),
    )


def _grid_demand(ledger: Ledger, circuit: Circuit, loads: LoadsPlan) -> Demand:
    inverter, card = ledger.card("inverter"), ledger.card("battery")
    leg = _leg_current(ledger, "grid", loads)
    amps = ledger.decided("settings.grid_charge_a", "I_gc", "Charge current from the grid", "A")
    top = ledger.read(card, "v_max", "V_max", "Highest battery voltage", "V")
    eta = ledger.read(inverter, "battery.efficiency", "eta", "Conversion efficiency", "")
    volts = ledger.read(inverter, "output_v", "V_ac", "Voltage between legs", "V")
    charging = ledger.work(
        "circuits.grid.charging_a",
        "I_ch",
        "Charging, AC side",
        amps.value * top.value / (eta.value * volts.value),
        "A",
        "physics",
        "I_gc * V_max / (eta * V_ac)",
        (amps, top, eta, volts),
    )
    output = ledger.read(inverter, "output_current_a", "I_out", "Inverter's output current", "A")
    design = ledger.work(
        "circuits.grid.design_a",
        "I_b",
        "Design current of the grid feed",
        max(leg.value + charging.value, output.value),
        "A",
        "physics",
        "max(I_leg + I_ch, I_out)",
        (leg, charging, output),
        limits="Backed-up loads and charging together, or the inverter's own output.",
    )
    through = ledger.read(inverter, "pass_through_a", "I_pt", "Pass-through current the inverter carries", "A")
    ledger.verdict(
        "GRID-PASS-THROUGH",
        design.value <= through.value,
        "grid",
        f"The grid feed would carry {design.value:.1f} A; the inverter passes {through.value:g} A.",
        "Back up fewer loads or charge more slowly from the grid.",
        found=design,
        limit=through,
        field="settings.grid_charge_a",
    )
    return Demand(
        design,
        _continuous(ledger, circuit.id, design),
        volts,
        design,
        inverter.grid_conductor_min,
        f"card:{inverter.id}:grid_conductor_min",
        None,
        True,
        "main board",
    )


def _backup_device(ledger: Ledger, grid: Sized | None) -> Figure:
    """The device the backed-up feed must bear: its own main, or the grid breaker that feeds it in pass-through, whichever is larger."""
    main = ledger.read(ledger.card("sub_board"), "main_device_a", "I_main", "Backed-up board's main device", "A")
    if grid is None or grid.device is None:
        return main
    return ledger.work(
        "circuits.backup.upstream",
        "I_up",
        "Larger of main and grid breaker",
        max(main.value, grid.device.value),
        "A",
        "nec.240.4b",
        "max(I_main, I_n)",
        (main, grid.device),
        limits="In pass-through the grid breaker feeds this conductor through the inverter.",
    )


def _backup_demand(ledger: Ledger, circuit: Circuit, loads: LoadsPlan, grid: Sized | None) -> Demand:
    inverter = ledger.card("inverter")
    leg = _leg_current(ledger, "backup", loads)
    volts = ledger.read(inverter, "output_v", "V_ac", "Voltage between legs", "V")
    return Demand(
        leg,
        _continuous(ledger, circuit.id, leg),
        volts,
        leg,
        inverter.load_conductor_min,
        f"card:{inverter.id}:load_conductor_min",
        _backup_device(ledger, grid),
        True,
        "sub-board main; the grid breaker also feeds it in pass-through",
    )


def _busbar(ledger: Ledger) -> tuple[Figure | None, Figure | None]:
    main = ledger.asked(
        "site.service_main_a",
        "I_main",
        "Main device of the supply",
        "A",
        "survey",
        "Main device of the supply?",
        "Whether the inverter may be joined to the main board",
    )
    bar = ledger.asked(
        "site.busbar_a",
        "I_bus",
        "Busbar of the main board",
        "A",
        "survey",
        "Busbar rating of the main board?",
        "Whether the inverter may be joined to the main board",
    )
    if main is None or bar is None:
        return None, None
    output = ledger.read(ledger.card("inverter"), "output_current_a", "I_out", "Inverter's output current", "A")
    opposite = ledger.job.site.busbar_opposite_end
    total = ledger.work(
        "circuits.busbar_sum",
        "I_sum",
        "Main device and 125 % of the inverter",
        busbar_demand_a(main.value, output.value),
        "A",
        "nec.705.12",
        "I_main + 1.25 * I_out",
        (main, output),
    )
    factor = 1.2 if opposite else 1.0
    limit = ledger.work(
        "circuits.busbar_limit",
        "I_lim",
        "What the busbar allows",
        busbar_limit_a(bar.value) if opposite else bar.value,
        "A",
        "nec.705.12",
        f"{factor} * I_bus",
        (bar,),
        limits="120 % only with the two feeds at opposite ends; otherwise the plain rating.",
    )
    ledger.verdict(
        "BUS-120",
        total.value <= limit.value,
        "main board",
        f"Main device and inverter add to {total.value:.1f} A; the busbar allows {limit.value:.1f} A.",
        "Move the breaker to the far end, reduce the main device, or connect on the supply side.",
        found=total,
        limit=limit,
        field="site.busbar_a",
    )
    fault = ledger.asked(
        "site.grid_fault_a",
        "I_kg",
        "Prospective fault current at the main board",
        "A",
        "survey",
        "Fault current at the main board?",
        "Whether the breakers can break a grid fault",
    )
    if fault:
        rating = ledger.decided("site.main_board_interrupting_a", "I_cu", "Interrupting rating of the breakers fitted", "A")
        ledger.verdict(
            "GRID-INTERRUPT",
            fault.value <= rating.value,
            "main board",
            f"The grid can push {fault.value:.0f} A; the breakers break {rating.value:.0f} A.",
            "Fit breakers of a higher interrupting rating.",
            found=fault,
            limit=rating,
            field="site.main_board_interrupting_a",
        )
    return total, limit


def _check_sources(ledger: Ledger) -> None:
    inverter, job = ledger.card("inverter"), ledger.job
    ledger.verdict(
        "GRID-NO-INTERLOCK",
        job.backup.bypass != "breaker without interlock",
        "backed-up board",
        "A bypass breaker can close the grid onto the board that the inverter feeds: two sources meet out of step and the inverter is destroyed.",
        "Take the bypass out, or fit an interlock or transfer switch.",
        field="backup.bypass",
    )
    bonds = {"main board": 1, "both boards": 2, "none": 0}[job.site.neutral_bond]
    ledger.verdict(
        "BOND-GRID",
        bonds == 1,
        "neutral",
        f"{bonds} neutral-earth bonds while the grid is present.",
        "Keep exactly one, at the main board.",
        field="site.neutral_bond",
    )
    island = (1 if inverter.neutral_bond == "relay" else 0) + (1 if job.site.neutral_bond == "both boards" else 0)
    ledger.verdict(
        "BOND-ISLAND",
        island == 1,
        "neutral",
        f"{island} neutral-earth bonds on the backed-up side in an outage.",
        "Exactly one: the inverter's relay, or a fixed bond, never both.",
        field="site.neutral_bond",
    )


def terminal_ratings_c(ledger: Ledger, circuit: Circuit) -> list[int]:
    """Temperature ratings of every terminal the circuit lands on."""
    places = instances(ledger)
    return [ledger.card(places[e.place]).terminal(e.port, e.terminal).rated_c for core in circuit.cores for e in core.ends]


def run_for(ledger: Ledger, circuit: Circuit) -> Run:
    """The route answers of a circuit; battery leads take their length from the bank."""
    found = next((r for r in ledger.job.runs if r.id == circuit.id), None)
    return found or Run(id=circuit.id)


def plan_circuits(ledger: Ledger, strings: StringsPlan | None, supply: BankSupply, loads: LoadsPlan) -> CircuitsPlan:
    """Work out the Circuits station."""
    everything = circuits(ledger)
    sized: dict[str, Sized] = {}
    for circuit in everything:
        if not any(r.id == circuit.id for r in ledger.job.runs):
            ledger.gap(f"runs.{circuit.id}", "circuits", f"How does {circuit.title.lower()} run?", f"Size of {circuit.id}")
            continue
        demand: Demand | None
        if circuit.kind == "pv":
            demand = _pv_demand(ledger, circuit, strings) if strings else None
        elif circuit.kind == "battery-unit":
            demand = _unit_demand(ledger, circuit)
        elif circuit.kind == "battery":
            demand = _main_demand(ledger, circuit, supply)
        elif circuit.kind == "grid":
            demand = _grid_demand(ledger, circuit, loads)
        else:
            demand = _backup_demand(ledger, circuit, loads, sized.get("grid"))
        if demand and (done := size_circuit(ledger, circuit, run_for(ledger, circuit), demand, terminal_ratings_c(ledger, circuit))):
            sized[circuit.id] = done
    grid = sized.get("grid")
    if grid and grid.device:
        most = ledger.read(ledger.card("inverter"), "grid_device_max_a", "I_gmax", "Largest device at the inverter's grid port", "A")
        ledger.verdict(
            "DEVICE-OVER-MAKER",
            grid.device.value <= most.value,
            "grid",
            f"The grid breaker is {grid.device.value:.0f} A; the inverter's grid port allows {most.value:.0f} A.",
            f"Fit {most.value:.0f} A or less.",
            found=grid.device,
            limit=most,
            field="runs.grid.device_a",
        )
    _check_sources(ledger)
    return CircuitsPlan(everything, sized, *_busbar(ledger))
