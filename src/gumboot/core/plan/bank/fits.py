"""Do battery, inverter, count, cabling, place and devices go together?"""

from __future__ import annotations

from gumboot.core.expression import largest
from gumboot.core.installation import unit_name
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank.supply import BankSupply, bank_volts
from gumboot.core.rules import bank as rules


def _check_devices(ledger: Ledger, supply: BankSupply) -> None:
    """Fuse and bars: what they break, and their DC rating."""
    seats, top = ledger.seats, bank_volts(ledger, "v_max")
    for seat in seats.switch_fuses:
        fuse, where = seat.card, "battery fuse" if seat is seats.switch_fuses[0] else f"battery fuse {seat.id}"
        field, breaks = f"things.{seat.id}.card", ledger.read(fuse, "interrupting_a")
        facts = rules.Broken(where=where, device="fuse", fault=supply.fault_a, breaks=breaks, field=field)
        ledger.ask_of_bank(rules.fuse_breaks, facts)
        rated, thing = ledger.read(fuse, "voltage_dc"), "device is"
        ledger.ask_of_bank(rules.dc_voltage, rules.Stands(where=where, thing=thing, title=fuse.title, top=top, rated=rated, field=field))
    for box in seats.busbars:
        volts, field = ledger.stated(box.card, "dc_voltage"), f"things.{box.id}.card"
        facts_ = rules.Stands(where="battery bars", thing="bars are", title=box.card.title, top=top, rated=volts, field=field)
        ledger.ask_of_bank(rules.dc_voltage, facts_)


def _check_own_breakers(ledger: Ledger, supply: BankSupply) -> None:
    """The battery's own breaker against the largest fault at its place."""
    card = ledger.seats.battery
    if card.breaker_a is None:
        return
    worst = ledger.work(
        "bank.fault_at_breaker",
        "I_kb",
        "Largest fault current at a battery's own breaker",
        largest(1.0, supply.parallel - 1) * ledger.read(card, "fault_a"),
        "A",
        "physics",
        limits="Beyond it from its own cells, before it from the other batteries.",
    )
    breaks = ledger.stated(card, "breaker_interrupting_a")
    facts = rules.Broken(where="battery breakers", device=card.title, fault=worst, breaks=breaks, field=".card")
    ledger.ask_of_bank(rules.breaker_breaks, facts)


def _check_counts(ledger: Ledger, supply: BankSupply) -> None:
    card = ledger.seats.battery
    if card.in_series:
        facts = rules.Count(number=supply.series, least=ledger.read(card, "series_min"), most=ledger.read(card, "series_max"))
        ledger.ask_of_bank(rules.series, facts)
    ledger.ask_of_bank(rules.count, rules.Count(number=supply.units, least=None, most=ledger.read(card, "units_max")))


def _check_pair(ledger: Ledger) -> None:
    """Window, chemistry and list of the inverter."""
    inverter = ledger.seats.inverter
    ledger.ask_of_bank(
        rules.window,
        rules.Window(
            bottom=bank_volts(ledger, "v_min"),
            top=bank_volts(ledger, "v_max"),
            low=ledger.read(inverter, "battery.v_min"),
            high=ledger.read(inverter, "battery.v_max"),
        ),
    )
    pair = rules.Pair(battery=ledger.seats.battery, inverter=inverter)
    for rule in rules.PAIRED:
        ledger.ask_of_bank(rule, pair)


def _check_cabling(ledger: Ledger) -> None:
    bank = ledger.job.banks[0]
    if ledger.seats.battery.arrangement == "parallel":
        ids = {unit_name(u.id) for u in bank.units}
        lengths = [r.length_m for r in ledger.job.runs if r.length_m is not None and r.id in ids]
        facts = rules.Cabling(batteries=len(bank.units), style=bank.cabling, lengths_m=lengths, first=bank.units[0].id)
        ledger.ask_of_bank(rules.daisy, facts)
        ledger.ask_of_bank(rules.equal_leads, facts)
    ledger.ask_of_bank(rules.precharge, rules.Precharge(fitted=bank.precharge))


def check_fits(ledger: Ledger, supply: BankSupply) -> None:
    """Ask every rule of what goes together."""
    _check_devices(ledger, supply)
    _check_own_breakers(ledger, supply)
    _check_counts(ledger, supply)
    _check_pair(ledger)
    _check_cabling(ledger)
    coldest = ledger.asked("site.room_low_c")
    if coldest is not None:
        ledger.ask_of_bank(rules.cold_charging, rules.Cold(coldest=coldest, least=ledger.read(ledger.seats.battery, "charge_min_c")))
