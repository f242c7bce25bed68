"""Does the supply carry what the house asks and charging from the grid as well, and do its conductors carry its main device?"""

from __future__ import annotations

from collections import defaultdict

from gumboot.core.expression import Expression, total
from gumboot.core.figure import BY_VALUE, Figure
from gumboot.core.job.demand import WAITS
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank.one import bank_of
from gumboot.core.rulebook.north_american import demand as nec
from gumboot.core.rulebook.north_american.conductors import ampacity_a
from gumboot.core.rulebook.north_american.connection import optional_dwelling_va
from gumboot.core.rulebook.north_american.overcurrent import largest_device_a
from gumboot.core.rules import connection as rules
from gumboot.core.seats import InverterSeat

# Terminals of a service are marked for the 75 °C column (110.14(C)(1)(b); common practice below 100 A).
SERVICE_COLUMN_C = 75
# The optional method is of services of 100 A or more (220.82(A)).
OPTIONAL_FROM_A = 100.0


def _line(ledger: Ledger) -> Expression | Figure:
    """Voltage in V by which a power of the whole house is divided for the current of a line: both lines, or three phases together."""
    card = ledger.house.lead.card
    leg = ledger.read(card, "leg_v")
    legs = {"single phase": 1, "split phase": 2, "three phase": 3}[ledger.job.site.supply]
    return legs * leg if legs > 1 else leg


def _charging_of(ledger: Ledger, unit: InverterSeat) -> Expression:
    """Current of each of its lines in A while an inverter charges from the grid, at the bank's highest voltage."""
    bank, amps = bank_of(ledger, unit), ledger.decided("settings.grid_charge_a")
    watts = amps * bank.volts("v_max") / ledger.read(unit.card, "battery.efficiency")
    return watts / (len(unit.card.phases) * ledger.read(unit.card, "leg_v"))


def _charging(ledger: Ledger) -> Figure | None:
    """What charging from the grid draws on the fullest line; None where nothing charges from it."""
    if not ledger.job.settings.grid_charge_a:
        return None
    on = defaultdict[str, list[Expression]](list)
    for part in ledger.islands:
        for unit in part.seats.inverters if part.house.joins_grid else ():
            for leg in ledger.house.phases_of(unit):
                on[leg].append(_charging_of(ledger, unit))
    if not on:
        return None
    fullest = max((total(amps, amps[0]) for amps in on.values()), key=float)
    name, holds = "Charging from the grid, fullest line", "At the bank's highest voltage, the inverter's loss counted."
    return ledger.work("service.charging_a", "I_gc_ac", name, fullest, "A", source="physics", limits=holds)


def _by_peak(ledger: Ledger) -> Figure | None:
    peak, clauses = ledger.asked("demand.peak_a"), ledger.book.boards
    if peak is None:
        return None
    if clauses.hours_factor == 1:
        return peak
    holds = "Not where PV or a battery hid a part of the demand while it was measured."
    name = "125 % of the measured peak"
    return ledger.work("service.peak_a", "I_125", name, clauses.hours_factor * peak, "A", source=clauses.demand_source, limits=holds)


def _by_area(ledger: Ledger) -> Figure | None:
    main = ledger.job.site.service_main_a
    if main is not None and main < OPTIONAL_FROM_A:
        question = f"Highest demand, measured? The method by area is allowed from {OPTIONAL_FROM_A:g} A on"
        ledger.gap("demand.method", "survey", question, WAITS)
        return None
    area, appliances = ledger.asked("demand.area_m2"), ledger.asked("demand.appliances_w")
    if area is None or appliances is None:
        return None
    say, source = ledger.decided, "nec.220.82"
    general = ledger.work(
        "service.general_w", "P_g", "General load", nec.general_va(area, say("demand.circuits"), appliances), "W", source=source
    )
    heat = nec.heating_va(ledger.job.demand.heating, say("demand.heating_w"), say("demand.supplement_w"))
    heating = ledger.work("service.heating_w", "P_h", "Heating that counts", heat, "W", source=source, limits="220.82(C)(1) to (6).")
    climate = max(say("demand.cooling_w"), heating, key=BY_VALUE)
    watts = ledger.work(
        "service.demand_w", "P_d", "Demand by the optional method", optional_dwelling_va(general, climate), "W", source=source
    )
    return ledger.work("service.demand_a", "I_d", "Demand of the house", watts / _line(ledger), "A", source=source)


def _existing(ledger: Ledger) -> Figure | None:
    there, source = ledger.asked("demand.there_w"), "nec.220.83"
    if there is None:
        return None
    watts = ledger.work("service.demand_w", "P_d", "Demand of the dwelling as it is", nec.existing_va(there, 0.0), "W", source=source)
    return ledger.work("service.demand_a", "I_d", "Demand of the house", watts / _line(ledger), "A", source=source)


METHODS = {"measured peak": _by_peak, "by area": _by_area, "existing dwelling": _existing}


def _check_load(ledger: Ledger) -> None:
    """Demand and charging against the main device of the supply."""
    told, clauses = ledger.job.demand, ledger.book.boards
    # Where no way is prescribed, a peak that somebody measured is judged.
    method = told.method if clauses.asks_demand else "measured peak" if told.peak_a is not None else None
    charging = _charging(ledger) if method else None
    if method is None or charging is None:
        return
    asks, main = METHODS[method](ledger), ledger.asked("site.service_main_a")
    if asks is None or main is None:
        return
    hours = clauses.hours_factor * charging if clauses.hours_factor != 1 else charging
    sum_a = ledger.work("service.together_a", "I_sup", "Demand and charging, fullest line", asks + hours, "A", source=clauses.demand_source)
    ledger.ask(rules.supply_carries, rules.Loaded(asks=asks, charging=charging, together=sum_a, main=main))


def _check_conductors(ledger: Ledger) -> None:
    """The service conductors against the main device: by their ampacity, or as a dwelling's that feeds all of it."""
    site, whole = ledger.job.site, ledger.job.demand.service.startswith("a dwelling's")
    if site.service_size is None or site.service_main_a is None or not ledger.book.boards.asks_demand:
        return
    main, metal = ledger.decided("site.service_main_a"), site.service_material
    name = f"{site.service_size} {metal} carries, {SERVICE_COLUMN_C} °C"
    carries = ledger.work(
        "service.ampacity_a", "I_z", name, ampacity_a(site.service_size, SERVICE_COLUMN_C, metal), "A", source="nec.310.16"
    )
    if whole and nec.SHARE_FROM_A <= main.value <= nec.SHARE_TO_A:
        most = ledger.work("service.main_most", "I_max", "Largest main device, a dwelling's service", carries / nec.SERVICE_SHARE, "A",
                           source="nec.310.12")  # fmt: skip
    else:
        device = largest_device_a(site.service_size, carries.value, metal)
        most = ledger.work("service.main_most", "I_max", "Largest main device, next standard rating", device, "A", source="nec.240.4b")
    facts = rules.Conducted(size=site.service_size, metal=metal, main=main, most=most, dwelling=whole)
    ledger.ask(rules.service_carries_main, facts)


def check_demand(ledger: Ledger) -> None:
    """What the supply is asked for, and what its conductors bear."""
    _check_load(ledger)
    _check_conductors(ledger)
