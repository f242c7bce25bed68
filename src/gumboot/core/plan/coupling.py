"""Can the island hold back the PV inverter that is coupled to it on the AC side?"""

from __future__ import annotations

from gumboot.core.figure import Figure, constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import BankSupply, bank_volts
from gumboot.core.rulebook.common.droop import droop, frequency_for


def _ratio(ledger: Ledger) -> None:
    pv, inverter = ledger.card("pv_inverter"), ledger.card("inverter")
    power = ledger.read(pv, "output_w", "P_ac", "PV inverter's output", "W")
    field = "coupled_pv_max_w" if inverter.coupled_pv_max_w is not None else "output_w"
    most = ledger.read(inverter, field, "P_c", "AC-coupled PV that the battery inverter holds", "W")
    ledger.verdict(
        "PV-RATIO",
        power.value <= most.value,
        "pv-inverter",
        f"The PV inverter gives {power.value:.0f} W; the battery inverter holds at most {most.value:.0f} W.",
        "Put part of the PV on the grid side, or choose a larger battery inverter.",
        found=power,
        limit=most,
        field="equipment.pv_inverter",
    )


def _bank(ledger: Ledger, supply: BankSupply) -> None:
    pv, inverter, card = ledger.card("pv_inverter"), ledger.card("inverter"), ledger.card("battery")
    power = ledger.read(pv, "output_w", "P_ac", "PV inverter's output", "W")
    one = ledger.read(card, "charge_a", "I_c1", "Continuous charge of one battery", "A")
    port = ledger.read(inverter, "battery.charge_a", "I_inv", "Inverter's largest charge current", "A")
    low = bank_volts(ledger, "v_low_operating")
    eta = ledger.read(inverter, "battery.efficiency", "eta", "Conversion efficiency", "")
    takes = ledger.work(
        "coupling.absorbed_w",
        "P_abs",
        "AC power the bank absorbs",
        min(supply.parallel.value * one.value, port.value) * low.value / eta.value,
        "W",
        "cp.ratio",
        "min(n_p * I_c1, I_inv) * V_low / eta",
        (supply.parallel, one, port, low, eta),
        limits="At the lowest voltage, no load in the house: the safe side.",
    )
    ledger.verdict(
        "AC-BANK",
        power.value <= takes.value,
        "pv-inverter",
        f"In full sun without load {power.value:.0f} W would flow into the bank; it takes {takes.value:.0f} W.",
        "Add a battery, or expect the frequency to hold the PV back.",
        found=power,
        limit=takes,
    )


def _shift(ledger: Ledger) -> None:
    pv, inverter = ledger.card("pv_inverter"), ledger.card("inverter")
    ledger.verdict(
        "AC-NO-DROOP",
        bool(pv.droop),
        "pv-inverter",
        "The PV inverter does not fall back with frequency: a full battery in an island has no way to refuse its power.",
        "Choose a PV inverter with frequency response, or keep it on the grid side.",
        field="equipment.pv_inverter",
    )
    if not pv.droop:
        return
    curve = droop(pv.droop)
    begins = ledger.keep(constant("f_0", f"Frequency at which it falls back, {pv.droop}", curve.begins_hz, "Hz", curve.source))
    zero = ledger.keep(constant("f_1", f"Frequency at which the droop reaches nothing, {pv.droop}", curve.zero_hz, "Hz", curve.source))
    trips = ledger.keep(constant("f_t", f"Frequency at which it disconnects, {pv.droop}", curve.trips_hz, "Hz", curve.source))
    silent = ledger.work(
        "coupling.silent_hz",
        "f_z",
        "Frequency at which the PV inverter gives nothing",
        min(curve.zero_hz, curve.trips_hz),
        "Hz",
        curve.source,
        "min(f_1, f_t)",
        (zero, trips),
        limits="Default settings of the standard; the network may have set others.",
    )
    half = max(curve.begins_hz, frequency_for(0.5, curve.begins_hz, curve.zero_hz))
    ledger.work("coupling.half_hz", "f_h", "Frequency at half power", half, "Hz", curve.source, "f_1 - 0.5 * (f_1 - f_0)", (begins, zero))
    most: Figure | None = None
    if inverter.shift_max_hz is not None:
        most = ledger.read(inverter, "shift_max_hz", "f_max", "Highest frequency the battery inverter shifts to", "Hz")
    ledger.verdict(
        "AC-SHIFT",
        most is not None and most.value >= silent.value - 1e-9,
        "pv-inverter",
        (f"The island is shifted to {most.value:g} Hz at most" if most else "The battery inverter's card names no frequency shift")
        + f"; the PV inverter is silent from {silent.value:.2f} Hz.",
        "Set a higher shift, or move the PV inverter to the grid side: a full battery could not refuse it.",
        found=silent,
        limit=most,
        field="equipment.inverter",
    )


def _black_start(ledger: Ledger) -> None:
    """After a black start the island must stand on the battery alone until the PV inverter has watched it long enough."""
    pv, inverter, card = ledger.card("pv_inverter"), ledger.card("inverter"), ledger.card("battery")
    if pv.droop:
        curve = droop(pv.droop)
        ledger.open(constant("t_back", f"Time the PV inverter waits before it feeds, {pv.droop}", curve.reconnect_s, "s", curve.source))
    reserve = ledger.decided("settings.reserve_pct", "S_res", "Reserve", "%")
    floor = ledger.read(card, "discharge_floor_pct", "S_min", "State of charge at which the battery stops", "%")
    ledger.verdict(
        "AC-BLACK",
        reserve.value > floor.value,
        "pv-inverter",
        f"The reserve of {reserve.value:g} % is all that the battery keeps ({floor.value:g} %): with nothing left to form an island, PV cannot start.",
        f"Raise the reserve above {floor.value:g} %: {inverter.title} must hold the island until the PV inverter joins.",
        found=reserve,
        limit=floor,
        field="settings.reserve_pct",
    )


def plan_coupling(ledger: Ledger, supply: BankSupply) -> None:
    """Check AC-coupled PV: ratio, what the bank absorbs, curtailment by frequency with a full battery, and the black start."""
    if not ledger.has("pv_inverter"):
        return
    _ratio(ledger)
    _bank(ledger, supply)
    _shift(ledger)
    _black_start(ledger)
