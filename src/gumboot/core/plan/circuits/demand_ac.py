"""What do the grid feed, the backed-up feed, the transfer circuits, the generator feed and AC-coupled PV carry?"""

from __future__ import annotations

from gumboot.core.expression import Expression, largest, root_three
from gumboot.core.figure import Figure
from gumboot.core.installation import Circuit
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank.supply import bank_volts
from gumboot.core.plan.circuits.demand_dc import continuous
from gumboot.core.plan.circuits.parts import Demand
from gumboot.core.plan.loads import LoadsPlan
from gumboot.core.rulebook.common.conductors import Circuit as Flow
from gumboot.core.rules import connection as rules

FLOWS: dict[str, Flow] = {"single phase": "single-phase", "split phase": "split-phase", "three phase": "three-phase"}


def leg_current(ledger: Ledger, cid: str, loads: LoadsPlan) -> Figure:
    """Current of the heavier leg of the backed-up side."""
    leg = max(loads.running.values(), key=lambda f: f.value)
    name = "Heavier leg of the backed-up side" if len(loads.running) > 1 else "Current of the backed-up side"
    return ledger.work(f"circuits.{cid}.leg_a", "I_leg", name, leg / ledger.read(ledger.seats.inverter, "leg_v"), "A", "physics")


def _by_root(amps: Expression, output: str) -> Expression:
    return amps / root_three(amps) if output == "three phase" else amps


def charging(ledger: Ledger, cid: str) -> Figure:
    """AC current while the battery is charged from the grid."""
    inverter = ledger.seats.inverter
    watts = ledger.decided("settings.grid_charge_a") * bank_volts(ledger, "v_max")
    amps = watts / (ledger.read(inverter, "battery.efficiency") * ledger.read(inverter, "output_v"))
    return ledger.work(f"circuits.{cid}.charging_a", "I_ch", "Charging, AC side", _by_root(amps, inverter.output), "A", "physics")


def output(ledger: Ledger) -> Figure:
    """The inverter's output current."""
    return ledger.read(ledger.seats.inverter, "output_current_a")


def of_grid(ledger: Ledger, circuit: Circuit, loads: LoadsPlan) -> Demand:
    """The grid feed: backed-up loads and charging together, or the inverter's own output."""
    inverter = ledger.seats.inverter
    most = largest(leg_current(ledger, "grid", loads) + charging(ledger, "grid"), output(ledger))
    limits = "Backed-up loads and charging together, or the inverter's own output."
    design = ledger.work("circuits.grid.design_a", "I_b", "Design current of the grid feed", most, "A", "physics", limits=limits)
    ledger.ask(rules.pass_through, rules.Through(design=design, most=ledger.read(inverter, "pass_through_a")))
    return Demand(
        design_a=design,
        continuous_a=continuous(ledger, circuit, design),
        volts=ledger.read(inverter, "output_v"),
        maker_min=inverter.grid_conductor_min,
        maker_source=f"card:{inverter.id}:grid_conductor_min",
        device_place="main board",
        flow=FLOWS[inverter.output],
    )


def of_through(ledger: Ledger, circuit: Circuit, loads: LoadsPlan) -> Demand:
    """What passes the transfer equipment: the inverter's output, its charging, or the grid feeding the backed-up side."""
    inverter, cid = ledger.seats.inverter, circuit.id
    most = largest(leg_current(ledger, cid, loads), charging(ledger, cid), output(ledger))
    design = ledger.work(f"circuits.{cid}.design_a", "I_b", f"Design current, {circuit.title.lower()}", most, "A", "physics")
    return Demand(
        design_a=design,
        continuous_a=continuous(ledger, circuit, design),
        volts=ledger.read(inverter, "output_v"),
        maker_min=inverter.load_conductor_min,
        maker_source=f"card:{inverter.id}:load_conductor_min",
        device_place="at its source",
        flow=FLOWS[inverter.output],
    )


def _backup_device(ledger: Ledger, upstream: list[Figure]) -> Figure:
    """The device the backed-up feed must bear: its own main, or the breaker that feeds it in pass-through, whichever is larger."""
    main = ledger.read(ledger.seats.sub_board, "main_device_a")
    if not upstream:
        return main
    feeding = max(upstream, key=lambda f: f.value)
    return ledger.work(
        "circuits.backup.upstream",
        "I_up",
        "Larger of main and grid breaker",
        largest(main, feeding),
        "A",
        ledger.book.wiring.protection_source,
        limits="In pass-through the grid breaker feeds this conductor through the inverter or the transfer equipment.",
    )


def of_backup(ledger: Ledger, circuit: Circuit, loads: LoadsPlan, upstream: list[Figure]) -> Demand:
    """The backed-up feed; ``upstream`` are the devices that feed it in pass-through."""
    inverter, leg = ledger.seats.inverter, leg_current(ledger, "backup", loads)
    return Demand(
        design_a=leg,
        continuous_a=continuous(ledger, circuit, leg),
        volts=ledger.read(inverter, "output_v"),
        maker_min=inverter.load_conductor_min,
        maker_source=f"card:{inverter.id}:load_conductor_min",
        fixed_device_a=_backup_device(ledger, upstream),
        device_place="backed-up board",
        flow=FLOWS[inverter.output],
    )


def of_generator(ledger: Ledger, circuit: Circuit) -> Demand | None:
    """The generator feed."""
    card, inverter = ledger.seats.generator, ledger.seats.inverter
    if card is None:
        return None
    volts = ledger.read(card, "voltage_v")
    amps = _by_root(ledger.read(card, "power_w") / volts, inverter.output)
    design = ledger.work("circuits.generator-feed.design_a", "I_b", "Generator's full current", amps, "A", "physics")
    return Demand(
        design_a=design,
        continuous_a=continuous(ledger, circuit, design),
        volts=volts,
        fixed_device_a=ledger.read(card, "device_a"),
        device_place="on the generator",
        flow=FLOWS[inverter.output],
    )


def of_pv_inverter(ledger: Ledger, circuit: Circuit) -> Demand | None:
    """AC-coupled PV."""
    card = ledger.seats.pv_inverter
    if card is None:
        return None
    design = ledger.read(card, "output_current_a")
    return Demand(
        design_a=design,
        continuous_a=continuous(ledger, circuit, design),
        volts=ledger.read(card, "output_v"),
        maker_min=card.conductor_min,
        maker_source=f"card:{card.id}:conductor_min",
        device_place="backed-up board",
        flow=FLOWS[card.output],
    )
