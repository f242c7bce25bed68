"""Can the island hold back the PV inverter that is coupled to it on the AC side?"""

from __future__ import annotations

from gumboot.core.card.solar import PvInverterCard
from gumboot.core.expression import least
from gumboot.core.figure import constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import BankSupply, bank_volts
from gumboot.core.rulebook.common.droop import droop, frequency_for
from gumboot.core.rules import coupling as rules


def _powers(ledger: Ledger, pv: PvInverterCard, supply: BankSupply) -> None:
    """What the battery inverter holds, and what the bank absorbs."""
    inverter, power = ledger.seats.inverter, ledger.read(pv, "output_w")
    most = ledger.stated(inverter, "coupled_pv_max_w") or ledger.read(inverter, "output_w")
    ledger.ask(rules.ratio, rules.Power(power=power, most=most))
    charge = least(supply.parallel * ledger.read(ledger.seats.battery, "charge_a"), ledger.read(inverter, "battery.charge_a"))
    takes = ledger.work(
        "coupling.absorbed_w",
        "P_abs",
        "AC power the bank absorbs",
        charge * bank_volts(ledger, "v_low_operating") / ledger.read(inverter, "battery.efficiency"),
        "W",
        "cp.ratio",
        limits="At the lowest voltage, no load in the house: the safe side.",
    )
    ledger.ask(rules.bank_takes, rules.Power(power=power, most=takes))


def _shift(ledger: Ledger, pv: PvInverterCard) -> None:
    """The frequencies of the droop, and whether the island is shifted far enough."""
    ledger.ask(rules.falls_back, rules.Droops(droop=pv.droop))
    if not pv.droop:
        return
    curve = droop(pv.droop)
    begins = constant("f_0", f"Frequency at which it falls back, {pv.droop}", curve.begins_hz, "Hz", curve.source)
    zero = constant("f_1", f"Frequency at which the droop reaches nothing, {pv.droop}", curve.zero_hz, "Hz", curve.source)
    trips = constant("f_t", f"Frequency at which it disconnects, {pv.droop}", curve.trips_hz, "Hz", curve.source)
    ledger.open(begins, zero, trips)
    silent = ledger.work(
        "coupling.silent_hz",
        "f_z",
        "Frequency at which the PV inverter gives nothing",
        least(zero, trips),
        "Hz",
        curve.source,
        limits="Default settings of the standard; the network may have set others.",
    )
    half = frequency_for(0.5, begins, zero)
    ledger.work("coupling.half_hz", "f_h", "Frequency at half power", half, "Hz", curve.source)
    most = ledger.stated(ledger.seats.inverter, "shift_max_hz")
    ledger.ask(rules.shifts_far_enough, rules.Shift(silent=silent, most=most))


def _black_start(ledger: Ledger, pv: PvInverterCard) -> None:
    """After a black start the island must stand on the battery alone until the PV inverter has watched it long enough."""
    if pv.droop:
        curve = droop(pv.droop)
        ledger.open(constant("t_back", f"Time the PV inverter waits before it feeds, {pv.droop}", curve.reconnect_s, "s", curve.source))
    floor = ledger.read(ledger.seats.battery, "discharge_floor_pct")
    facts = rules.Black(reserve=ledger.decided("settings.reserve_pct"), floor=floor, inverter=ledger.seats.inverter.title)
    ledger.ask(rules.starts_from_black, facts)


def plan_coupling(ledger: Ledger, supply: BankSupply) -> None:
    """Check AC-coupled PV: ratio, what the bank absorbs, curtailment by frequency with a full battery, and the black start."""
    pv = ledger.seats.pv_inverter
    if pv is not None:
        _powers(ledger, pv, supply)
        _shift(ledger, pv)
        _black_start(ledger, pv)
