"""What each bank holds and gives, and all of them together, before cables and devices are known."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from gumboot.core.expression import Expression, largest, least
from gumboot.core.figure import Figure, constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank.cold import usable_when_cold
from gumboot.core.plan.bank.one import OneBank, banks_of
from gumboot.core.plan.bank.plates import share_at_current
from gumboot.core.plan.group import output_w, summed
from gumboot.core.rulebook.common import bank as network
from gumboot.core.rulebook.north_american import battery as dc
from gumboot.core.seats import InverterSeat
from gumboot.core.values import Values

LEAD_ACID_FLOOR_PCT = constant("S_lead", "Lowest state of charge kept in a lead-acid bank", 50, "%", "cp.leadacid")


class BankSupply(Values):
    """What one bank holds and gives, before cables and devices are known. ``mains`` is the current of each of its inverters; ``at_current``
    is the share of its capacity that a lead-acid bank gives at the current of the fullest hour, None for another."""

    bank: str
    units: Figure
    series: Figure
    parallel: Figure
    usable: Figure
    delivered: Figure
    bms_a: Figure
    design_a: Figure
    power_w: Figure
    peak_w: Figure
    fault_a: Figure
    mains: dict[str, Figure]
    at_current: Figure | None = None

    @property
    def shares(self) -> bool:
        """Whether batteries stand in parallel."""
        return self.parallel.value > 1


class Supplies(Values):
    """What every bank holds and gives, and what those of each island deliver together while each inverter carries its share of the load.

    ``delivered``, ``power_w`` and ``peak_w`` are by the island's leader.
    """

    banks: tuple[BankSupply, ...]
    delivered: Mapping[str, Figure]
    power_w: Mapping[str, Figure]
    peak_w: Mapping[str, Figure]

    def of(self, bank: str) -> BankSupply:
        """The supply of a bank."""
        return next(supply for supply in self.banks if supply.bank == bank)


def floor_of_charge(bank: OneBank) -> Figure:
    """State of charge at which discharge stops: the card's, and not below half for lead-acid."""
    own = bank.ledger.read(bank.card, "discharge_floor_pct")
    if 100 - bank.card.depth_pct > own.value:
        # The maker allows less depth than the battery's own stop leaves.
        name, deep = "State of charge at which discharge stops, by the depth allowed", bank.ledger.read(bank.card, "depth_pct")
        own = bank.work("bank.floor_by_depth", "S_DoD", name, 100 - deep, "%", source="cp.lfp")
    if not bank.card.is_lead_acid:
        return own
    kept = largest(own, LEAD_ACID_FLOOR_PCT)
    name, why = "State of charge at which discharge stops", "Below half the plates age fast."
    return bank.work("bank.floor", own.symbol, name, kept, "%", source="cp.leadacid", limits=why)


def _energy(bank: OneBank, units: Figure, at_current: Figure | None) -> tuple[Figure, Figure]:
    """Usable energy at the cells, and what of it reaches the AC side."""
    ledger = bank.ledger
    begin, floor = ledger.decided("preferences.start_of_autonomy_pct"), floor_of_charge(bank)
    held = units * ledger.read(bank.card, "energy_wh") * largest(0.0, begin - floor) / 100
    if at_current is not None:
        held = held * at_current
    usable = bank.work("bank.usable", "E_use", "Usable energy at the cells", held, "Wh", source="arith")
    usable_when_cold(bank, usable)
    given = usable * ledger.read(bank.inverter, "battery.efficiency")
    return usable, bank.work("bank.delivered", "E", "Energy delivered on the AC side", given, "Wh", source="physics")


def _drawn(bank: OneBank, inverter: InverterSeat) -> Figure:
    """Design current of one inverter's battery circuit: full output at the lowest voltage, or charging."""
    ledger = bank.ledger
    card, source, alone = inverter.card, ledger.book.bank.current_source, inverter is ledger.house.lead
    mark, of = ("", "") if alone else (f".{inverter.id}", f", {inverter.id}")
    output, eta = ledger.read(card, "output_w"), ledger.read(card, "battery.efficiency")
    amps = dc.inverter_input_current_a(output, bank.volts("v_low_operating"), eta)
    drawn = ledger.work(f"bank.drawn_a{mark}", "I_dis", f"Battery current at full output and lowest voltage{of}", amps, "A", source=source)
    if card.battery.ripple:
        ledger.work(
            f"bank.ripple_a{mark}",
            "I_rms",
            f"Battery current with unsmoothed ripple, RMS{of}",
            network.ripple_rms_a(drawn),
            "A",
            source="cp.ripple",
            limits="The safe side for heating of lugs and fuse: the inverter's capacitors smooth part of it.",
        )
    most = largest(drawn, ledger.read(card, "battery.charge_a"))
    return ledger.work(f"bank.design_a{mark}", "I_b", f"Design current of the battery circuit{of}", most, "A", source=source)


def _current(bank: OneBank) -> tuple[dict[str, Figure], Figure]:
    """Design current of each inverter's battery circuit, and of the bank for all of them."""
    mains = {i.id: _drawn(bank, i) for i in bank.inverters}
    name = bank.of("Design current of the bank, all inverters")
    return mains, summed(bank.ledger, bank.key("bank.all_a"), "I_b_all", name, list(mains.values()))


def _fault(bank: OneBank, parallel: Figure) -> Figure:
    shared = parallel.value > 1
    amps = dc.bank_fault_current_a(bank.ledger.read(bank.card, "fault_a"), parallel)
    name = "Fault current at the busbars" if shared else "Fault current at the bank's terminals"
    return bank.work("bank.fault_a", "I_k", name, amps, "A", source="physics", limits="Leads are neglected: the true current is lower.")


def _peak(bank: OneBank, parallel: Figure, low: Figure, eta: Figure) -> Figure:
    """Power for a start: at the batteries' peak where that lasts as long as the inverter's shortest timed rating, else at what they give
    for ever."""
    ledger, card = bank.ledger, bank.card
    seconds = min(overload.seconds for overload in bank.inverter.overloads)
    each: Figure | Expression = ledger.read(card, "discharge_a")
    holds = f"Their peak of {card.peak_s:g} s is over before a start that lasts {seconds:g} s."
    if card.peak_s >= seconds:
        each, holds = largest(each, ledger.read(card, "peak_a")), f"For {seconds:g} s; a peak lasts {card.peak_s:g} s."
    share = " All batteries share alike." if parallel.value > 1 else ""
    watts, name = parallel * each * low * eta, "Power the bank gives for a start, at its lowest voltage"
    return bank.work("bank.peak_power", "P_bank_s", name, watts, "W", source="physics", limits=holds + share)


def _supply(bank: OneBank) -> BankSupply:
    """Energy, BMS current, design current at the lowest voltage, power and fault current of one bank."""
    ledger = bank.ledger
    units, series, parallel = bank.counts()
    shared = parallel.value > 1
    at_current = share_at_current(bank)
    usable, delivered = _energy(bank, units, at_current)
    bms = bank.work(
        "bank.bms_a",
        "I_bms",
        "BMS limits together" if shared else "Discharge limit of the bank",
        parallel * ledger.read(bank.card, "discharge_a"),
        "A",
        source="arith",
        limits="Holds while all batteries share alike: equal leads or a busbar." if shared else "",
    )
    mains, design = _current(bank)
    low, eta = bank.volts("v_low_operating"), ledger.read(bank.inverter, "battery.efficiency")
    ports = bank.of_inverters("battery.discharge_a", "group.battery_a", "Battery current of all inverters at most")
    watts = least(bms, ports) * low * eta
    power = bank.work("bank.power", "P_bank", "Power the bank gives at its lowest voltage", watts, "W", source="physics")
    return BankSupply(
        bank=bank.id,
        units=units,
        series=series,
        parallel=parallel,
        usable=usable,
        delivered=delivered,
        bms_a=bms,
        design_a=design,
        power_w=power,
        peak_w=_peak(bank, parallel, low, eta),
        fault_a=_fault(bank, parallel),
        mains=mains,
        at_current=at_current,
    )


def together(banks: tuple[OneBank, ...], made: Callable[[OneBank], Figure], key: str, name: str) -> Figure:
    """What the banks give while each inverter carries its share by size, until the first bank has no more: the bank's own where there
    is one."""
    first = made(banks[0])
    if len(banks) == 1:
        return first
    ledger = banks[0].ledger
    every = output_w(ledger)
    reach = [
        made(b) * every / b.of_inverters("output_w", "group.bank_output_w", "Continuous output of the inverters of a bank") for b in banks
    ]
    limits = "Each inverter carries its share of the load by its size: the bank that is empty or at its limit first ends it."
    return ledger.work(
        ledger.key(key), f"{first.symbol}_all", ledger.titled(name), least(*reach), first.unit, source="physics", limits=limits
    )


def plan_supply(ledger: Ledger) -> Supplies:
    """What each bank gives, and what those of each island give together."""
    found = {bank.id: _supply(bank) for bank in banks_of(ledger)}
    delivered, power, peak = dict[str, Figure](), dict[str, Figure](), dict[str, Figure]()
    for part in ledger.islands:
        banks, leader = banks_of(part), part.house.lead.id
        delivered[leader] = together(banks, lambda b: found[b.id].delivered, "bank.delivered_all", "Energy delivered by all banks, AC side")
        power[leader] = together(
            banks, lambda b: found[b.id].power_w, "bank.power_all", "Power that all banks give at their lowest voltage"
        )
        peak[leader] = together(
            banks, lambda b: found[b.id].peak_w, "bank.peak_all", "Power that all banks give for a start, at their lowest voltage"
        )
    return Supplies(banks=tuple(found.values()), delivered=delivered, power_w=power, peak_w=peak)
