"""Does a fault to earth trip in time, with the grid and in island mode, and is there an earth to trip to?"""

from __future__ import annotations

from typing import Any

from gumboot.core import sizes
from gumboot.core.errors import OutOfRange
from gumboot.core.figure import Figure, constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.plan.circuits.parts import Sized
from gumboot.core.rulebook.books.wiring_iec import bare, insulation_of
from gumboot.core.rulebook.iec_family import conductors as iec
from gumboot.core.rulebook.iec_family.earthing import (
    FIRE_LIMIT_MA,
    TOUCH_VOLTAGE_V,
    adiabatic_area_mm2,
    disconnection_time_s,
    factor_k,
    loop_impedance_max_ohm,
    residual_resistance_max_ohm,
    residual_type,
)
from gumboot.core.rulebook.iec_family.overcurrent import instant_trip_a
from gumboot.core.rulebook.north_american.earthing import electrode_size

TOUCH = constant("U_touch", "Touch voltage that may stand", TOUCH_VOLTAGE_V, "V", "iec.41.tt")
FIRE = constant("I_fire", "Residual rating that still guards against fire", FIRE_LIMIT_MA, "mA", "iec.42.422")
# A device of a later type sees all that an earlier one sees.
TYPE_RANK = {"AC": 0, "A": 1, "F": 2, "B": 3}


def _earth_ohm_km(ledger: Ledger, sized: Sized) -> Figure:
    limit = iec.LIMIT_C[insulation_of(sized.run.insulation)]
    return ledger.work(
        f"circuits.{sized.circuit.id}.earth_ohm_per_km",
        "r_e",
        f"Resistance of the {sized.earth_size} earth conductor at {limit:g} °C",
        iec.resistance_ohm_per_km(bare(sized.earth_size), sized.run.material, limit),
        "ohm/km",
        "iec.60228",
    )


def _loop(ledger: Ledger, sized: Sized, before: Figure) -> Figure:
    """Loop impedance at the far end of a circuit: what lies before it, its line and its earth conductor."""
    cid = sized.circuit.id
    over = f" / {sized.run.sets}" if sized.run.sets > 1 else ""
    line, earth = ledger.figures[f"circuits.{cid}.ohm_per_km"], _earth_ohm_km(ledger, sized)
    return ledger.work(
        f"circuits.{cid}.loop_ohm",
        "Z_s",
        f"Earth-fault loop impedance at the end of {sized.circuit.title.lower()}",
        before.value + sized.length.value / 1000 * (line.value / sized.run.sets + earth.value),
        "ohm",
        "iec.41.411",
        f"Z_0 + L / 1000 * (r{over} + r_e)",
        (before.renamed(symbol="Z_0"), sized.length, line, earth),
        limits="Impedances added as numbers, warm conductors: the safe side.",
    )


def _trip(ledger: Ledger, sized: Sized) -> Figure | None:
    """Current that surely trips the device at once; None for a fuse, whose time comes from its maker's curve."""
    if sized.device is None or sized.run.device_kind != "breaker":
        return None
    return ledger.work(
        f"circuits.{sized.circuit.id}.trip_a",
        "I_a",
        f"Current that trips the device at once, curve {sized.run.curve}",
        instant_trip_a(sized.device.value, sized.run.curve),
        "A",
        "iec.60898",
        f"{instant_trip_a(1, sized.run.curve):g} * I_n",
        (sized.device,),
    )


def _check_loop(ledger: Ledger, sized: Sized, loop: Figure) -> None:
    trip, margin, cid = _trip(ledger, sized), ledger.book.loop_margin, sized.circuit.id
    volts = ledger.read(ledger.card("inverter"), "leg_v", "U_0", "Voltage to earth", "V")
    guarded = sized.run.residual_ma is not None
    if trip is None:
        ledger.verdict(
            "LOOP-SLOW",
            guarded,
            cid,
            f"{cid} is guarded by a fuse: its disconnection current stands in its maker's curve, not here.",
            "Read the curve at the loop impedance shown, or fit a residual device.",
            found=loop,
            field=f"runs.{sized.run.id}.residual_ma",
        )
        return
    most = ledger.work(
        f"circuits.{cid}.loop_most",
        "Z_max",
        "Loop impedance at which the device still trips",
        loop_impedance_max_ohm(volts.value, trip.value, margin),
        "ohm",
        "bs.7671.zs" if margin < 1 else "iec.41.411",
        f"{margin} * U_0 / I_a",
        (volts, trip),
    )
    ledger.verdict(
        "LOOP-SLOW",
        guarded or loop.value <= most.value,
        cid,
        f"The loop of {cid} has {loop.value:.2f} ohm; its device trips in time up to {most.value:.2f} ohm.",
        "Fit a residual device, a lower curve, or a larger earth conductor.",
        found=loop,
        limit=most,
        field=f"runs.{sized.run.id}.residual_ma",
    )


def _check_heat(ledger: Ledger, sized: Sized, before: Figure) -> None:
    """Whether the earth conductor bears the heat of a fault at the near end of its circuit, until the device has tripped."""
    if sized.earth is None or sized.run.device_kind != "breaker":
        return
    cid, insulation = sized.circuit.id, insulation_of(sized.run.insulation)
    volts = ledger.read(ledger.card("inverter"), "leg_v", "U_0", "Voltage to earth", "V")
    bears = factor_k(sized.run.material, insulation)
    k = ledger.keep(
        constant(f"k_{insulation}_{sized.run.material}", "Heat constant of the earth conductor", bears, "A s^0.5/mm2", "iec.54.543")
    )
    seconds = ledger.keep(constant("t_trip", "Time of an instantaneous trip, at most", 0.1, "s", "iec.60898"))
    fault_a = volts.value / before.value
    heat = ledger.work(
        f"circuits.{cid}.earth_heat",
        "S_k",
        "Earth conductor by heat",
        adiabatic_area_mm2(fault_a, seconds.value, k.value),
        "mm2",
        "iec.54.543",
        f"((U_0 / Z_0) ** 2 * t_trip) ** 0.5 / {k.symbol}",
        (volts, before.renamed(symbol="Z_0"), seconds, k),
        limits="Fault at the near end; breakers limit the energy further.",
    )
    ledger.verdict(
        "EARTH-HEAT",
        sized.earth.value >= heat.value - 1e-9,
        cid,
        f"A fault of {fault_a:.0f} A heats the {sized.earth_size} earth conductor beyond its limit: {heat.value:.1f} mm2 are needed.",
        "Pull a larger earth conductor.",
        found=sized.earth,
        limit=heat,
        field=f"runs.{sized.run.id}.installed_earth",
    )


def _loops(ledger: Ledger, plan: CircuitsPlan) -> None:
    origin = ledger.asked(
        "site.loop_ohm",
        "Z_e",
        "Loop impedance at the origin",
        "ohm",
        "survey",
        "Earth-fault loop impedance at the origin?",
        "Whether a fault trips in time",
    )
    ledger.verdict(
        "SHOCK-IT",
        ledger.job.site.earthing != "IT",
        "supply",
        "The supply is IT: first-fault current, insulation monitoring and the second fault are not judged here.",
        "A licensed person plans its protection by IEC 60364-4-41 411.6 and the local code.",
        field="site.earthing",
    )
    if origin is None or ledger.job.site.earthing in ("TT", "IT"):
        return
    before = origin
    for cid in ("grid", "through", "backup"):
        sized = plan.sized.get(cid)
        if sized is not None and sized.earth is not None:
            _check_heat(ledger, sized, before)
            before = _loop(ledger, sized, before)
            _check_loop(ledger, sized, before)


def _island(ledger: Ledger, plan: CircuitsPlan) -> None:
    """What trips in island mode, where the inverter's fault current is small."""
    sized, source = plan.sized.get("backup"), ledger.card("inverter").source
    if sized is None or sized.device is None:
        return
    inverter = ledger.card("inverter")
    volts = ledger.read(inverter, "leg_v", "U_0", "Voltage to earth", "V")
    try:
        time_s = disconnection_time_s(volts.value, "TN-S")
    except OutOfRange:
        time_s = 0.0
    limit = ledger.keep(constant("t_max", f"Longest disconnection time at {volts.value:g} V to earth", time_s, "s", "iec.41.411"))
    trip = _trip(ledger, sized)
    fault = shut = None
    if source.island_fault_a is not None:
        fault = ledger.read(inverter, "source.island_fault_a", "I_isl", "Inverter's fault current in island mode", "A")
    if source.island_shutdown_s is not None:
        shut = ledger.read(inverter, "source.island_shutdown_s", "t_off", "Time in which the inverter shuts down a short circuit", "s")
    by_device = fault is not None and trip is not None and fault.value >= trip.value
    by_inverter = shut is not None and shut.value <= limit.value
    said = f"the inverter gives {fault.value:.0f} A" if fault else "the card does not say what the inverter gives"
    ledger.verdict(
        "ISLAND-SLOW",
        by_device or by_inverter or sized.run.residual_ma is not None,
        "backup",
        f"In island mode {said} into a fault; the {sized.device.value:.0f} A device needs {trip.value:.0f} A to trip."
        if trip
        else f"In island mode {said} into a fault, and a fuse trips only by its maker's curve.",
        "Fit a residual device on the backed-up side, or show the maker's shutdown time.",
        found=shut or fault,
        limit=limit if shut else trip,
        field="runs.backup.residual_ma",
    )


def _check_residual(ledger: Ledger, sized: Sized, card: Any, required: bool, why: str) -> None:
    cid, run, source = sized.circuit.id, sized.run, card.source
    ledger.verdict(
        "RCD-MISSING",
        not required or run.residual_ma is not None,
        cid,
        f"{cid} has no residual device; {why}.",
        "Fit one of the type and rating shown.",
        field=f"runs.{run.id}.residual_ma",
    )
    if run.residual_ma is None:
        return
    wanted = residual_type("smooth", source.residual_monitor, source.residual_type_a)
    ledger.verdict(
        "RCD-TYPE",
        TYPE_RANK[run.residual_type] >= TYPE_RANK[wanted],
        cid,
        f"The residual device of {cid} is type {run.residual_type}; this inverter asks type {wanted}.",
        f"Fit type {wanted}: smooth direct current blinds a lesser type.",
        field=f"runs.{run.id}.residual_type",
    )
    rating = ledger.decided(f"runs.{run.id}.residual_ma", "I_dn", "Rated residual current", "mA")
    ledger.verdict(
        "RCD-FIRE",
        rating.value <= FIRE.value,
        cid,
        f"{rating.value:g} mA guards neither people nor against fire.",
        "Keep the maker's rating, and add the protection that the place asks for.",
        found=rating,
        limit=FIRE,
        field=f"runs.{run.id}.residual_ma",
    )
    if source.residual_min_ma is not None and cid in ("grid", "pv-ac"):
        least = ledger.read(card, "source.residual_min_ma", "I_dn_min", "Least residual rating the maker asks", "mA")
        ledger.verdict(
            "RCD-RATING",
            rating.value >= least.value,
            cid,
            f"A {rating.value:g} mA device trips on this inverter's own leakage; its maker asks at least {least.value:g} mA.",
            f"Fit {least.value:g} mA or more.",
            found=rating,
            limit=least,
            field=f"runs.{run.id}.residual_ma",
        )
    if ledger.job.site.earthing == "TT":
        _check_electrode_resistance(ledger, cid, run.id, rating)


def _check_electrode_resistance(ledger: Ledger, cid: str, run_id: str, rating: Figure) -> None:
    ohm = ledger.asked(
        "site.electrode_ohm",
        "R_A",
        "Resistance of the earth electrode",
        "ohm",
        "survey",
        "Resistance of the earth electrode?",
        "Whether the residual device trips in time",
    )
    if ohm is None:
        return
    most = ledger.work(
        f"circuits.{cid}.electrode_most",
        "R_max",
        "Electrode resistance behind this residual device at most",
        residual_resistance_max_ohm(rating.value),
        "ohm",
        "iec.41.tt",
        "U_touch / (I_dn / 1000)",
        (TOUCH, rating),
    )
    ledger.verdict(
        "RCD-RATING",
        ohm.value <= most.value,
        cid,
        f"The electrode has {ohm.value:g} ohm; behind {rating.value:g} mA at most {most.value:.0f} ohm may stand.",
        "Improve the electrode or fit a more sensitive device.",
        found=ohm,
        limit=most,
        field=f"runs.{run_id}.residual_ma",
    )


def _residuals(ledger: Ledger, plan: CircuitsPlan) -> None:
    tt = ledger.job.site.earthing == "TT"
    for cid in ("grid", "through", "backup", "pv-ac"):
        sized = plan.sized.get(cid)
        if sized is None:
            continue
        card = ledger.card("pv_inverter" if cid == "pv-ac" else "inverter")
        asked = card.source.residual_min_ma is not None and cid in ("grid", "pv-ac")
        why = (
            "a TT supply disconnects by residual current alone"
            if tt
            else f"the maker asks one of {card.source.residual_min_ma or 0:g} mA or more"
        )
        _check_residual(ledger, sized, card, tt or asked, why)


def _island_earth(ledger: Ledger) -> None:
    site = ledger.job.site
    if ledger.book.family == "iec":
        needed = site.earthing != "TT" or site.supply == "none"
        why = "the supply's earth is lost with the supply"
    else:
        switched = ledger.has("transfer") and ledger.card("transfer").neutral_switched
        needed, why = site.supply == "none" or switched, "this source is separately derived"
    if not needed:
        return
    if site.island_electrode is None:
        ledger.gap(
            "site.island_electrode",
            "survey",
            "Does an earth electrode of the installation's own stand for the island?",
            "Whether the island has an earth reference",
        )
    ledger.verdict(
        "ISLAND-EARTH",
        site.island_electrode is not False,
        "island",
        f"The island has no earth electrode of its own, and {why}.",
        "Drive an electrode, bond it, and measure it.",
        field="site.island_electrode",
    )


def _electrode(ledger: Ledger) -> None:
    site = ledger.job.site
    if ledger.book.family != "nec" or site.electrode_size is None:
        return
    if site.service_size is None:
        ledger.gap("site.service_size", "survey", "Largest service conductor?", "Size of the electrode conductor")
        return
    needed = electrode_size(site.service_size, rod_only=site.rod_only)
    limit = ledger.work(
        "circuits.electrode_required",
        "A_g",
        "Electrode conductor required",
        sizes.area_mm2(needed),
        "mm2",
        "nec.250.66",
        label=needed,
        limits="To a rod alone 6 AWG copper suffices.",
    )
    fitted = ledger.given(
        "site.electrode_size", "A_gi", "Electrode conductor fitted", sizes.area_mm2(site.electrode_size), "mm2", site.electrode_size
    )
    ledger.verdict(
        "ELECTRODE-SMALL",
        fitted.value >= limit.value - 1e-9,
        "electrode",
        f"The electrode conductor is {site.electrode_size}; {needed} is required beside {site.service_size}.",
        f"Pull {needed}.",
        found=fitted,
        limit=limit,
        field="site.electrode_size",
    )


def plan_shock(ledger: Ledger, plan: CircuitsPlan) -> None:
    """Check protection against shock under the job's rule book."""
    _island_earth(ledger)
    _electrode(ledger)
    _residuals(ledger, plan)
    if ledger.book.family == "iec":
        if ledger.job.site.supply != "none":
            _loops(ledger, plan)
        _island(ledger, plan)
