"""What does each circuit carry?"""

from __future__ import annotations

from dataclasses import dataclass, replace

from gumboot.core.figure import Figure
from gumboot.core.job.model import Run
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import BankSupply, bank_nominal_v, bank_volts
from gumboot.core.plan.loads import LoadsPlan
from gumboot.core.plan.sizing import Demand, Sized, size_circuit
from gumboot.core.plan.strings import StringsPlan
from gumboot.core.plan.topology import Circuit, circuits, instances
from gumboot.core.rulebook.common.conductors import Circuit as Flow
from gumboot.core.sizes import area_mm2

FLOWS: dict[str, Flow] = {"single phase": "single-phase", "split phase": "split-phase", "three phase": "three-phase"}


@dataclass(frozen=True)
class CircuitsPlan:
    """All circuits; ``sized`` lacks those whose answers are missing."""

    all: tuple[Circuit, ...]
    sized: dict[str, Sized]
    busbar_sum: Figure | None = None
    busbar_limit: Figure | None = None


def _continuous(ledger: Ledger, circuit: Circuit, design: Figure) -> Figure:
    """125 % of the design current by NEC unless device and enclosure are listed for 100 %; the design current itself by IEC."""
    if ledger.book.family == "iec" or run_for(ledger, circuit).fully_rated:
        return design
    return ledger.work(
        f"circuits.{circuit.id}.continuous_a",
        "I_c",
        "125 % of the design current",
        1.25 * design.value,
        "A",
        "nec.210.19",
        f"1.25 * {design.symbol}",
        (design,),
    )


def _pv_demand(ledger: Ledger, circuit: Circuit, plan: StringsPlan) -> Demand | None:
    tracker = next((t for t in plan.trackers if f"pv-{t.tracker.id.lower()}" == circuit.id), None)
    if tracker is None:
        return None
    continuous = tracker.maximum_a
    if (found := ledger.book.strings.conductor_current(tracker.maximum_a)) is not None:
        key, name = f"circuits.{circuit.id}.continuous_a", "125 % of the maximum circuit current"
        continuous = ledger.work(key, "I_c", name, found[0], "A", found[1])
    why = (
        "none: one string cannot feed a fault with more than its own current"
        if len(tracker.strings) == 1
        else "string fuses where others can feed a fault"
    )
    return Demand(tracker.maximum_a, continuous, tracker.hot_v, tracker.operating_a, "", "", None, False, why)


def _unit_demand(ledger: Ledger, circuit: Circuit) -> Demand:
    card = ledger.card("battery")
    design = ledger.read(card, "discharge_a", "I_1", "Continuous discharge of one battery", "A")
    nominal = ledger.read(card, "nominal_v", "V_n", "Nominal voltage", "V")
    own = ledger.read(card, "breaker_a", "I_br", "Battery's own breaker", "A") if card.breaker_a is not None else None
    return Demand(
        design,
        _continuous(ledger, circuit, design),
        nominal,
        design,
        card.lead_min,
        f"card:{card.id}:lead_min",
        own,
        own is not None,
        "in the battery",
    )


def _main_device(ledger: Ledger) -> Figure | None:
    card = ledger.card("battery")
    if ledger.has("switch_fuse"):
        return ledger.read(ledger.card("switch_fuse"), "rated_a", "I_f", "Fuse rating", "A")
    if card.breaker_a is not None:
        return ledger.read(card, "breaker_a", "I_f", "Battery's own breaker", "A")
    return None


def _main_demand(ledger: Ledger, circuit: Circuit, supply: BankSupply) -> Demand:
    inverter = ledger.card("inverter")
    low = bank_volts(ledger, "v_low_operating")
    device = _main_device(ledger)
    ledger.verdict(
        "BANK-DEVICE",
        device is not None,
        "bat-main",
        "No overcurrent device stands between the bank and the inverter.",
        "Fit a DC fuse or breaker at the bank.",
        field="equipment.switch_fuse",
    )
    return Demand(
        supply.design_a,
        _continuous(ledger, circuit, supply.design_a),
        low,
        supply.design_a,
        inverter.battery.conductor_min,
        f"card:{inverter.id}:battery.conductor_min",
        device,
        device is not None,
        "in the switch-fuse" if ledger.has("switch_fuse") else "in the battery",
    )


def _leg_current(ledger: Ledger, cid: str, loads: LoadsPlan) -> Figure:
    inverter = ledger.card("inverter")
    leg = max(loads.running.values(), key=lambda f: f.value)
    volts = ledger.read(inverter, "leg_v", "V_leg", "Voltage of one leg", "V")
    return ledger.work(
        f"circuits.{cid}.leg_a",
        "I_leg",
        "Heavier leg of the backed-up side" if len(loads.running) > 1 else "Current of the backed-up side",
        leg.value / volts.value,
        "A",
        "physics",
        f"{leg.symbol} / V_leg",
        (leg, volts),
    )


def _charging(ledger: Ledger, cid: str) -> Figure:
    inverter = ledger.card("inverter")
    amps = ledger.decided("settings.grid_charge_a", "I_gc", "Charge current from the grid", "A")
    top = bank_volts(ledger, "v_max")
    eta = ledger.read(inverter, "battery.efficiency", "eta", "Conversion efficiency", "")
    volts = ledger.read(inverter, "output_v", "V_ac", "Voltage between lines", "V")
    root = 3**0.5 if inverter.output == "three phase" else 1.0
    return ledger.work(
        f"circuits.{cid}.charging_a",
        "I_ch",
        "Charging, AC side",
        amps.value * top.value / (eta.value * volts.value * root),
        "A",
        "physics",
        "I_gc * V_max / (eta * V_ac" + (" * 3 ** 0.5)" if root > 1 else ")"),
        (amps, top, eta, volts),
    )


def _output(ledger: Ledger) -> Figure:
    return ledger.read(ledger.card("inverter"), "output_current_a", "I_out", "Inverter's output current", "A")


def _flow(ledger: Ledger) -> Flow:
    return FLOWS[ledger.card("inverter").output]


def _volts(ledger: Ledger) -> Figure:
    return ledger.read(ledger.card("inverter"), "output_v", "V_ac", "Voltage between lines", "V")


def _grid_demand(ledger: Ledger, circuit: Circuit, loads: LoadsPlan) -> Demand:
    inverter = ledger.card("inverter")
    leg, charging, output = _leg_current(ledger, "grid", loads), _charging(ledger, "grid"), _output(ledger)
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
        _continuous(ledger, circuit, design),
        _volts(ledger),
        design,
        inverter.grid_conductor_min,
        f"card:{inverter.id}:grid_conductor_min",
        None,
        True,
        "main board",
        _flow(ledger),
    )


def _through_demand(ledger: Ledger, circuit: Circuit, loads: LoadsPlan) -> Demand:
    """What passes the transfer equipment: the inverter's output, its charging, or the grid feeding the backed-up side."""
    inverter, cid = ledger.card("inverter"), circuit.id
    leg, charging, output = _leg_current(ledger, cid, loads), _charging(ledger, cid), _output(ledger)
    design = ledger.work(
        f"circuits.{cid}.design_a",
        "I_b",
        f"Design current, {circuit.title.lower()}",
        max(leg.value, charging.value, output.value),
        "A",
        "physics",
        "max(I_leg, I_ch, I_out)",
        (leg, charging, output),
    )
    return Demand(
        design,
        _continuous(ledger, circuit, design),
        _volts(ledger),
        design,
        inverter.load_conductor_min,
        f"card:{inverter.id}:load_conductor_min",
        None,
        True,
        "at its source",
        _flow(ledger),
    )


def _backup_device(ledger: Ledger, upstream: list[Figure]) -> Figure:
    """The device the backed-up feed must bear: its own main, or the breaker that feeds it in pass-through, whichever is larger."""
    main = ledger.read(ledger.card("sub_board"), "main_device_a", "I_main", "Backed-up board's main device", "A")
    if not upstream:
        return main
    feeding = max(upstream, key=lambda f: f.value)
    return ledger.work(
        "circuits.backup.upstream",
        "I_up",
        "Larger of main and grid breaker",
        max(main.value, feeding.value),
        "A",
        "nec.240.4b" if ledger.book.family == "nec" else "iec.43.433",
        "max(I_main, I_n)",
        (main, feeding),
        limits="In pass-through the grid breaker feeds this conductor through the inverter or the transfer equipment.",
    )


def _backup_demand(ledger: Ledger, circuit: Circuit, loads: LoadsPlan, upstream: list[Figure]) -> Demand:
    inverter = ledger.card("inverter")
    leg = _leg_current(ledger, "backup", loads)
    return Demand(
        leg,
        _continuous(ledger, circuit, leg),
        _volts(ledger),
        leg,
        inverter.load_conductor_min,
        f"card:{inverter.id}:load_conductor_min",
        _backup_device(ledger, upstream),
        True,
        "backed-up board",
        _flow(ledger),
    )


def _generator_demand(ledger: Ledger, circuit: Circuit) -> Demand:
    card, inverter = ledger.card("generator"), ledger.card("inverter")
    watts = ledger.read(card, "power_w", "P_gen", "Generator power", "W")
    volts = ledger.read(card, "voltage_v", "V_gen", "Generator voltage", "V")
    root = 3**0.5 if inverter.output == "three phase" else 1.0
    design = ledger.work(
        "circuits.generator-feed.design_a",
        "I_b",
        "Generator's full current",
        watts.value / volts.value / root,
        "A",
        "physics",
        "P_gen / V_gen" + (" / 3 ** 0.5" if root > 1 else ""),
        (watts, volts),
    )
    device = ledger.read(card, "device_a", "I_g", "Generator's own device", "A")
    return Demand(design, _continuous(ledger, circuit, design), volts, design, "", "", device, True, "on the generator", _flow(ledger))


def _pv_ac_demand(ledger: Ledger, circuit: Circuit) -> Demand:
    card = ledger.card("pv_inverter")
    design = ledger.read(card, "output_current_a", "I_pv", "PV inverter's output current", "A")
    volts = ledger.read(card, "output_v", "V_pv", "PV inverter's voltage", "V")
    return Demand(
        design,
        _continuous(ledger, circuit, design),
        volts,
        design,
        card.conductor_min,
        f"card:{card.id}:conductor_min",
        None,
        True,
        "backed-up board",
        FLOWS[card.output],
    )


def terminal_ratings_c(ledger: Ledger, circuit: Circuit) -> list[int]:
    """Temperature ratings of every terminal the circuit lands on."""
    places = instances(ledger)
    return [ledger.card(places[e.place]).terminal(e.port, e.terminal).rated_c for core in circuit.cores for e in core.ends]


def _with_terminals(ledger: Ledger, circuit: Circuit, demand: Demand) -> Demand:
    """The demand with the smallest conductor that every terminal of the run can clamp."""
    places, least, source = instances(ledger), "", ""
    for core in circuit.cores:
        for end in core.ends if core.role != "earth" else ():
            card = ledger.card(places[end.place])
            smallest = card.terminal(end.port, end.terminal).size_min
            if not least or area_mm2(smallest) > area_mm2(least):
                least, source = smallest, f"card:{card.id}:ports.{end.port}.{end.terminal}.size_min"
    return replace(demand, terminal_min=least, terminal_source=source)


def run_for(ledger: Ledger, circuit: Circuit) -> Run:
    """The route answers of a circuit; an empty run while none are entered."""
    found = next((r for r in ledger.job.runs if r.id == circuit.id), None)
    return found or Run(id=circuit.id)


def _demand(
    ledger: Ledger, circuit: Circuit, strings: StringsPlan | None, supply: BankSupply, loads: LoadsPlan, sized: dict[str, Sized]
) -> Demand | None:
    match circuit.kind:
        case "pv":
            return _pv_demand(ledger, circuit, strings) if strings else None
        case "battery-unit":
            return _unit_demand(ledger, circuit)
        case "battery" | "interlink":
            return _main_demand(ledger, circuit, supply)
        case "grid":
            return _grid_demand(ledger, circuit, loads)
        case "through":
            return _through_demand(ledger, circuit, loads)
        case "backup":
            manual = ledger.has("transfer") and ledger.card("transfer").style == "manual"
            feeders = ("through", "inverter-out") if manual else ("grid",)
            return _backup_demand(ledger, circuit, loads, [d for name in feeders if name in sized and (d := sized[name].device)])
        case "generator":
            return _generator_demand(ledger, circuit)
        case "pv-ac":
            return _pv_ac_demand(ledger, circuit)


def plan_circuits(ledger: Ledger, strings: StringsPlan | None, supply: BankSupply, loads: LoadsPlan) -> CircuitsPlan:
    """Size every circuit whose answers are there."""
    everything = circuits(ledger)
    sized: dict[str, Sized] = {}
    if ledger.job.strings and not ledger.has("roof_box"):
        ledger.gap("equipment.roof_box", "circuits", "Where do the strings come down to: which box or isolator?", "Size of the PV runs")
    for circuit in everything:
        if not any(r.id == circuit.id for r in ledger.job.runs):
            ledger.gap(f"runs.{circuit.id}", "circuits", f"How does {circuit.title.lower()} run?", f"Size of {circuit.id}")
            continue
        demand = _demand(ledger, circuit, strings, supply, loads, sized)
        demand = demand and _with_terminals(ledger, circuit, demand)
        if demand and (done := size_circuit(ledger, circuit, run_for(ledger, circuit), demand, terminal_ratings_c(ledger, circuit))):
            sized[circuit.id] = done
    bank_nominal_v(ledger)
    return CircuitsPlan(everything, sized)
