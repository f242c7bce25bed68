"""Can the island hold back the PV inverters that are coupled to it on the AC side?"""

from __future__ import annotations

from gumboot.core.expression import least
from gumboot.core.figure import BY_VALUE, Figure, constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import OneBank, Supplies, banks_of
from gumboot.core.plan.bank.supply import floor_of_charge
from gumboot.core.plan.group import summed_here
from gumboot.core.rulebook.common.droop import droop, frequency_for
from gumboot.core.rules import coupling as rules
from gumboot.core.seats import InverterSeat, PvInverterSeat


def in_island(ledger: Ledger) -> tuple[PvInverterSeat, ...]:
    """The PV inverters that feed the island: all but those on a board that the network leaves dead."""
    mains = {b.id for b in ledger.seats.mains} if ledger.house.has_grid else set[str]()
    return tuple(pv for pv in ledger.seats.pv_inverters if pv.thing.feeds not in mains)


def _holds(ledger: Ledger, inverter: InverterSeat) -> Figure:
    return ledger.stated(inverter.card, "coupled_pv_max_w") or ledger.read(inverter.card, "output_w")


def _absorbed(ledger: Ledger, bank: OneBank, supplies: Supplies) -> Figure:
    charge = least(
        supplies.of(bank.id).parallel * ledger.read(bank.card, "charge_a"),
        bank.of_inverters("battery.charge_a", "group.charge_a", "Charging current of all inverters at most"),
    )
    return bank.work(
        "coupling.absorbed_w",
        "P_abs",
        "AC power the bank absorbs",
        charge * bank.volts("v_low_operating") / ledger.read(bank.inverter, "battery.efficiency"),
        "W",
        source="cp.ratio",
        limits="At the lowest voltage, no load in the house: the safe side.",
    )


def _powers(ledger: Ledger, island: tuple[PvInverterSeat, ...], supplies: Supplies) -> None:
    """What the battery inverters hold, and what the banks absorb, of all PV inverters together."""
    rated = [ledger.read(pv.card, "output_w") for pv in island]
    power = summed_here(ledger, "coupling.power_w", "P_pv_all", "Power of all PV inverters of the island", rated)
    held = [_holds(ledger, i) for i in ledger.seats.inverters]
    most = summed_here(ledger, "coupling.held_w", "P_max_all", "AC-coupled PV that all inverters hold", held)
    where, number = island[0].id, len(island)
    ledger.ask(rules.ratio, rules.Power(power=power, most=most, where=where, number=number))
    taken = [_absorbed(ledger, bank, supplies) for bank in banks_of(ledger)]
    takes = summed_here(ledger, "coupling.absorbed_all_w", "P_abs_all", "AC power that all banks absorb", taken)
    ledger.ask(rules.bank_takes, rules.Power(power=power, most=takes, where=where, number=number))


def _shift(ledger: Ledger, pv: PvInverterSeat) -> None:
    """The frequencies of the droop, and whether the island is shifted far enough."""
    curved = pv.card.droop
    ledger.ask(rules.falls_back, rules.Droops(droop=curved, where=pv.id))
    if not curved:
        return
    curve, first = droop(curved), pv is in_island(ledger)[0] and not ledger.house.mark
    begins = constant("f_0", f"Frequency at which it falls back, {curved}", curve.begins_hz, "Hz", curve.source)
    zero = constant("f_1", f"Frequency at which the droop reaches nothing, {curved}", curve.zero_hz, "Hz", curve.source)
    trips = constant("f_t", f"Frequency at which it disconnects, {curved}", curve.trips_hz, "Hz", curve.source)
    ledger.open(begins, zero, trips)
    mark, of = ("", "") if first else (f".{pv.id}", f", {pv.id}")
    silent = ledger.work(
        f"coupling.silent_hz{mark}",
        "f_z",
        f"Frequency at which the PV inverter gives nothing{of}",
        least(zero, trips),
        "Hz",
        source=curve.source,
        limits="Default settings of the standard; the network may have set others.",
    )
    half = frequency_for(0.5, begins, zero)
    ledger.work(f"coupling.half_hz{mark}", "f_h", f"Frequency at half power{of}", half, "Hz", source=curve.source)
    # Whichever inverter leads, the one that shifts least must still silence it.
    lowest = min(ledger.seats.inverters, key=lambda i: i.card.shift_max_hz or 0.0)
    most = ledger.stated(lowest.card, "shift_max_hz")
    ledger.ask(rules.shifts_far_enough, rules.Shift(silent=silent, most=most, where=pv.id, inverter=lowest.id))


def _black_start(ledger: Ledger, pv: PvInverterSeat) -> None:
    """After a black start the island must stand on the battery alone until the PV inverter has watched it long enough."""
    if pv.card.droop:
        curve = droop(pv.card.droop)
        ledger.open(
            constant("t_back", f"Time the PV inverter waits before it feeds, {pv.card.droop}", curve.reconnect_s, "s", curve.source)
        )
    if pv is not in_island(ledger)[0]:
        return
    floor = max((floor_of_charge(bank) for bank in banks_of(ledger)), key=BY_VALUE)
    facts = rules.Black(reserve=ledger.decided("settings.reserve_pct"), floor=floor, inverter=ledger.seats.inverter.title, where=pv.id)
    ledger.ask(rules.starts_from_black, facts)


def plan_coupling(ledger: Ledger, supplies: Supplies) -> None:
    """Check AC-coupled PV of each island: ratio, what the banks absorb, curtailment by frequency with a full battery, black start."""
    for part in ledger.islands:
        _island(part, supplies)


def _island(ledger: Ledger, supplies: Supplies) -> None:
    island = in_island(ledger)
    if island:
        _powers(ledger, island, supplies)
    for pv in island:
        _shift(ledger, pv)
        _black_start(ledger, pv)
