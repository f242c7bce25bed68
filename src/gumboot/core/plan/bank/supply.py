"""What the bank holds and gives, before cables and devices are known."""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.expression import largest, least
from gumboot.core.figure import Figure, constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank.cold import usable_when_cold
from gumboot.core.plan.group import of_all, summed
from gumboot.core.rulebook.common import bank as network
from gumboot.core.rulebook.north_american import battery as dc
from gumboot.core.seats import InverterSeat

LEAD_ACID_FLOOR_PCT = constant("S_lead", "Lowest state of charge kept in a lead-acid bank", 50, "%", "cp.leadacid")


@dataclass(frozen=True)
class BankSupply:
    """What the bank holds and gives, before cables and devices are known."""

    units: Figure
    series: Figure
    parallel: Figure
    usable: Figure
    delivered: Figure
    bms_a: Figure
    design_a: Figure
    power_w: Figure
    fault_a: Figure
    mains: dict[str, Figure]

    @property
    def shares(self) -> bool:
        """Whether batteries stand in parallel."""
        return self.parallel.value > 1


def counts(ledger: Ledger) -> tuple[Figure, Figure, Figure]:
    """Units of the bank, in series and in parallel."""
    card, number = ledger.seats.battery, len(ledger.job.banks[0].units)
    return (
        ledger.work("bank.units", "n", "Batteries of the bank", float(number), "", "input:bank.units"),
        ledger.work("bank.series", "n_s", "Units in series", float(number if card.in_series else 1), "", "input:bank.units"),
        ledger.work("bank.parallel", "n_p", "Units in parallel", float(1 if card.in_series else number), "", "input:bank.units"),
    )


def bank_volts(ledger: Ledger, field: str) -> Figure:
    """A voltage of the bank in V: the card's own, times the units in series."""
    card = ledger.seats.battery
    one = ledger.read(card, field)
    if not card.in_series:
        return one
    series = counts(ledger)[1]
    name = one.name.replace("one battery", "the bank")
    return ledger.work(f"bank.{field}", one.symbol, name, series * one, "V", "physics")


def bank_nominal_v(ledger: Ledger) -> Figure:
    """Nominal voltage of the bank in V."""
    return bank_volts(ledger, "nominal_v")


def floor_of_charge(ledger: Ledger) -> Figure:
    """State of charge at which discharge stops: the card's, and not below half for lead-acid."""
    card = ledger.seats.battery
    own = ledger.read(card, "discharge_floor_pct")
    if not card.chemistry.startswith("lead-acid"):
        return own
    kept = largest(own, LEAD_ACID_FLOOR_PCT)
    name, why = "State of charge at which discharge stops", "Below half the plates age fast."
    return ledger.work("bank.floor", own.symbol, name, kept, "%", "cp.leadacid", limits=why)


def _energy(ledger: Ledger, units: Figure) -> tuple[Figure, Figure]:
    """Usable energy at the cells, and what of it reaches the AC side."""
    card, inverter = ledger.seats.battery, ledger.seats.inverter
    begin, floor = ledger.decided("preferences.start_of_autonomy_pct"), floor_of_charge(ledger)
    held = units * ledger.read(card, "energy_wh") * largest(0.0, begin - floor) / 100
    usable = ledger.work("bank.usable", "E_use", "Usable energy at the cells", held, "Wh", "arith")
    usable_when_cold(ledger, usable)
    given = usable * ledger.read(inverter, "battery.efficiency")
    return usable, ledger.work("bank.delivered", "E", "Energy delivered on the AC side", given, "Wh", "physics")


def _drawn(ledger: Ledger, inverter: InverterSeat) -> Figure:
    """Design current of one inverter's battery circuit: full output at the lowest voltage, or charging."""
    card, source, alone = inverter.card, ledger.book.bank.current_source, inverter is ledger.house.lead
    mark, of = ("", "") if alone else (f".{inverter.id}", f", {inverter.id}")
    output, eta = ledger.read(card, "output_w"), ledger.read(card, "battery.efficiency")
    amps = dc.inverter_input_current_a(output, bank_volts(ledger, "v_low_operating"), eta)
    drawn = ledger.work(f"bank.drawn_a{mark}", "I_dis", f"Battery current at full output and lowest voltage{of}", amps, "A", source)
    if card.battery.ripple:
        ledger.work(
            f"bank.ripple_a{mark}",
            "I_rms",
            f"Battery current with unsmoothed ripple, RMS{of}",
            network.ripple_rms_a(drawn),
            "A",
            "cp.ripple",
            limits="The safe side for heating of lugs and fuse: the inverter's capacitors smooth part of it.",
        )
    most = largest(drawn, ledger.read(card, "battery.charge_a"))
    return ledger.work(f"bank.design_a{mark}", "I_b", f"Design current of the battery circuit{of}", most, "A", source)


def _current(ledger: Ledger) -> tuple[dict[str, Figure], Figure]:
    """Design current of each inverter's battery circuit, and of the bank for all of them."""
    mains = {i.id: _drawn(ledger, i) for i in ledger.seats.inverters}
    return mains, summed(ledger, "bank.all_a", "I_b_all", "Design current of the bank, all inverters", list(mains.values()))


def _fault(ledger: Ledger, parallel: Figure) -> Figure:
    shared = parallel.value > 1
    amps = dc.bank_fault_current_a(ledger.read(ledger.seats.battery, "fault_a"), parallel)
    name = "Fault current at the busbars" if shared else "Fault current at the bank's terminals"
    return ledger.work("bank.fault_a", "I_k", name, amps, "A", "physics", limits="Leads are neglected: the true current is lower.")


def plan_supply(ledger: Ledger) -> BankSupply:
    """Energy, BMS current, design current at the lowest voltage, power and fault current of the bank."""
    card, inverter = ledger.seats.battery, ledger.seats.inverter
    units, series, parallel = counts(ledger)
    shared = parallel.value > 1
    usable, delivered = _energy(ledger, units)
    bms = ledger.work(
        "bank.bms_a",
        "I_bms",
        "BMS limits together" if shared else "Discharge limit of the bank",
        parallel * ledger.read(card, "discharge_a"),
        "A",
        "arith",
        limits="Holds while all batteries share alike: equal leads or a busbar." if shared else "",
    )
    mains, design = _current(ledger)
    low, eta = bank_volts(ledger, "v_low_operating"), ledger.read(inverter, "battery.efficiency")
    ports = of_all(ledger, "battery.discharge_a", "group.battery_a", "Battery current of all inverters at most")
    watts = least(bms, ports) * low * eta
    power = ledger.work("bank.power", "P_bank", "Power the bank gives at its lowest voltage", watts, "W", "physics")
    return BankSupply(units, series, parallel, usable, delivered, bms, design, power, _fault(ledger, parallel), mains)
