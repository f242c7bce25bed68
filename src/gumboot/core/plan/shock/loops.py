"""The earth-fault loop from the origin to each board, the heat of a fault, and a fault in island mode."""

from __future__ import annotations

from gumboot.core.errors import OutOfRange
from gumboot.core.expression import square_root
from gumboot.core.figure import Figure, constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits import CircuitsPlan, Sized
from gumboot.core.rulebook.books.wiring_iec import bare, insulation_of
from gumboot.core.rulebook.iec_family import conductors as iec
from gumboot.core.rulebook.iec_family.earthing import disconnection_time_s, factor_k, loop_impedance_max_ohm
from gumboot.core.rulebook.iec_family.overcurrent import instant_trip_a, mean_trip_a
from gumboot.core.rules import shock as rules

TRIP_S = constant("t_trip", "Time of an instantaneous trip, at most", 0.1, "s", "iec.60898")


def _volts(ledger: Ledger) -> Figure:
    return ledger.read(ledger.seats.inverter, "leg_v")


def _earth_ohm_km(ledger: Ledger, sized: Sized) -> Figure:
    limit_c = iec.LIMIT_C[insulation_of(sized.run.insulation)]
    value = iec.resistance_ohm_per_km(bare(sized.earth_size), sized.run.material, limit_c)
    name = f"Resistance of the {sized.earth_size} earth conductor at {limit_c:g} °C"
    return ledger.work(f"circuits.{sized.circuit.id}.earth_ohm_per_km", "r_e", name, value, "ohm/km", source="iec.60228")


def _loop(ledger: Ledger, sized: Sized, before: Figure) -> Figure:
    """Loop impedance at the far end of a circuit: what lies before it, its line and its earth conductor."""
    ohm = before + sized.length / 1000 * (sized.pole_ohm_per_km + _earth_ohm_km(ledger, sized))
    name = f"Earth-fault loop impedance at the end of {sized.circuit.title.lower()}"
    holds = "Impedances added as numbers, warm conductors: the safe side."
    return ledger.work(f"circuits.{sized.circuit.id}.loop_ohm", "Z_s", name, ohm, "ohm", source="iec.41.411", limits=holds)


def trip_a(ledger: Ledger, sized: Sized) -> Figure | None:
    """Current that surely trips the device at once; None for a fuse, whose time comes from its maker's curve."""
    if sized.device is None or sized.run.device_kind != "breaker":
        return None
    name = f"Current that trips the device at once, curve {sized.run.curve}"
    amps = instant_trip_a(sized.device, sized.run.curve)
    return ledger.work(f"circuits.{sized.circuit.id}.trip_a", "I_a", name, amps, "A", source="iec.60898")


def _loop_trip_a(ledger: Ledger, sized: Sized) -> Figure | None:
    """Current that a loop must let flow: what surely trips the device, or what does on average where the book says so."""
    if ledger.book.loop_trips == "surely" or sized.device is None or sized.run.device_kind != "breaker":
        return trip_a(ledger, sized)
    name, amps = f"Mean tripping current, curve {sized.run.curve}", mean_trip_a(sized.device, sized.run.curve)
    return ledger.work(f"circuits.{sized.circuit.id}.trip_mean_a", "I_a", name, amps, "A", source=ledger.book.loop_trips_source)


def _check_loop(ledger: Ledger, sized: Sized, loop: Figure) -> None:
    trip, margin, cid, most = _loop_trip_a(ledger, sized), ledger.book.loop_margin, sized.circuit.id, None
    if trip is not None:
        ohm, source = loop_impedance_max_ohm(_volts(ledger), trip, margin), "bs.7671.zs" if margin < 1 else "iec.41.411"
        name = "Loop impedance at which the device still trips"
        most = ledger.work(f"circuits.{cid}.loop_most", "Z_max", name, ohm, "ohm", source=source)
    guarded, field = sized.run.residual_ma is not None, f"runs.{sized.run.id}.residual_ma"
    ledger.ask(rules.trips_in_time, rules.Loop(circuit=cid, loop=loop, most=most, guarded=guarded, field=field))


def _check_heat(ledger: Ledger, sized: Sized, before: Figure) -> None:
    """Whether the earth conductor bears the heat of a fault at the near end of its circuit, until the device has tripped."""
    if sized.earth is None or sized.run.device_kind != "breaker":
        return
    cid, insulation, volts = sized.circuit.id, insulation_of(sized.run.insulation), _volts(ledger)
    symbol, name = f"k_{insulation}_{sized.run.material}", "Heat constant of the earth conductor"
    bears = constant(symbol, name, factor_k(sized.run.material, insulation), "A s^0.5/mm2", "iec.54.543")
    area = square_root((volts / before) ** 2 * ledger.keep(TRIP_S)) / ledger.keep(bears)
    holds = "Fault at the near end; breakers limit the energy further."
    heat = ledger.work(f"circuits.{cid}.earth_heat", "S_k", "Earth conductor by heat", area, "mm2", source="iec.54.543", limits=holds)
    fault_a, field = volts.value / before.value, f"runs.{sized.run.id}.installed_earth"
    ledger.ask(rules.bears_the_heat, rules.Heat(circuit=cid, earth=sized.earth, heat=heat, fault_a=fault_a, field=field))


def check_loops(ledger: Ledger, plan: CircuitsPlan) -> None:
    """The loop of each AC circuit from the origin on, its device and its earth conductor."""
    origin, system = ledger.asked("site.loop_ohm"), ledger.job.site.earthing
    ledger.ask(rules.not_it, rules.Earthing(system=system))
    if origin is None or system in ("TT", "IT"):
        return
    for part in ledger.islands:
        if part.house.joins_grid:
            _check_ways(part, plan, origin)


def _check_ways(ledger: Ledger, plan: CircuitsPlan, origin: Figure) -> None:
    ahead: dict[str, Figure] = {}
    for way in ledger.house.ways:
        before = origin
        for cid in way:
            sized = plan.sized.get(cid)
            if sized is None or sized.earth is None or (cid.startswith("inverter-out") and ledger.seats.transfers):
                continue
            if cid not in ahead:
                _check_heat(ledger, sized, before)
                ahead[cid] = _loop(ledger, sized, before)
                _check_loop(ledger, sized, ahead[cid])
            before = ahead[cid]


def _longest(ledger: Ledger, volts: Figure) -> Figure:
    try:
        seconds = disconnection_time_s(volts.value, "TN-S")
    except OutOfRange:
        seconds = 0.0
    found = constant("t_max", f"Longest disconnection time at {volts.value:g} V to earth", seconds, "s", "iec.41.411")
    # Islands of unlike voltage have times of their own.
    return ledger.keep(found.renamed(key=ledger.key(found.key)))


def check_island(ledger: Ledger, plan: CircuitsPlan) -> None:
    """What trips in island mode, where the inverter's fault current is small: each feed of a backed-up board."""
    for part in ledger.islands:
        for circuit in part.house.of_kind("backup", "feeder"):
            _check_island(part, plan.sized.get(circuit.id))


def _check_island(ledger: Ledger, sized: Sized | None) -> None:
    if sized is None or sized.device is None:
        return
    inverter = ledger.seats.inverter
    facts = rules.Island(
        device=sized.device,
        trip=trip_a(ledger, sized),
        fault=ledger.stated(inverter, "source.island_fault_a"),
        shutdown=ledger.stated(inverter, "source.island_shutdown_s"),
        longest=_longest(ledger, _volts(ledger)),
        guarded=sized.run.residual_ma is not None,
        circuit=sized.circuit.id,
    )
    ledger.ask(rules.island_trips, facts)
