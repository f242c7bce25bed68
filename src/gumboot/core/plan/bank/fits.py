"""Do battery, inverter, count, cabling, place and devices go together?"""

from __future__ import annotations

from gumboot.core.expression import largest
from gumboot.core.figure import constant
from gumboot.core.installation import unit_name
from gumboot.core.plan.bank.one import OneBank
from gumboot.core.plan.bank.plates import check_plates
from gumboot.core.plan.bank.supply import BankSupply
from gumboot.core.rules import bank as rules


def _check_devices(bank: OneBank, supply: BankSupply) -> None:
    """Fuse and bars: what they break, and their DC rating."""
    ledger, top = bank.ledger, bank.volts("v_max")
    for seat in bank.switch_fuses:
        fuse, where = seat.card, "battery fuse" if seat is ledger.seats.switch_fuses[0] else f"battery fuse {seat.id}"
        field, breaks = f"things.{seat.id}.card", ledger.read(fuse, "interrupting_a")
        facts = rules.Broken(where=where, device="fuse", fault=supply.fault_a, breaks=breaks, field=field)
        bank.ask(rules.fuse_breaks, facts)
        rated, thing = ledger.read(fuse, "voltage_dc"), "device is"
        bank.ask(rules.dc_voltage, rules.Stands(where=where, thing=thing, title=fuse.title, top=top, rated=rated, field=field))
    for box in (b for b in ledger.seats.busbars if b.thing.bank == bank.id):
        volts, field = ledger.stated(box.card, "dc_voltage"), f"things.{box.id}.card"
        facts_ = rules.Stands(where="battery bars", thing="bars are", title=box.card.title, top=top, rated=volts, field=field)
        bank.ask(rules.dc_voltage, facts_)


def _check_string_fuses(bank: OneBank, supply: BankSupply) -> None:
    """The fuse of each string of blocks: what it breaks, and its DC rating."""
    if not bank.of_strings:
        return
    ledger, at = bank.ledger, f"banks.{bank.id}.string_fuse"
    rated, breaks = ledger.asked(f"{at}_v"), ledger.asked(f"{at}_breaks_a")
    if breaks is not None:
        facts = rules.Broken(where="string fuses", device="fuse of a string", fault=supply.fault_a, breaks=breaks, field=f"{at}_breaks_a")
        bank.ask(rules.fuse_breaks, facts)
    if rated is not None:
        stands = rules.Stands(where="string fuses", thing="device is", title="The fuse of a string", top=bank.volts("v_max"), rated=rated,
                              field=f"{at}_v")  # fmt: skip
        bank.ask(rules.dc_voltage, stands)


def _check_own_breakers(bank: OneBank, supply: BankSupply) -> None:
    """The battery's own breaker against the largest fault at its place."""
    ledger, card = bank.ledger, bank.card
    if card.breaker_a is None:
        return
    worst = bank.work(
        "bank.fault_at_breaker",
        "I_kb",
        "Largest fault current at a battery's own breaker",
        largest(1.0, supply.parallel - 1) * ledger.read(card, "fault_a"),
        "A",
        source="physics",
        limits="Beyond it from its own cells, before it from the other batteries.",
    )
    breaks = ledger.stated(card, "breaker_interrupting_a")
    facts = rules.Broken(where="battery breakers", device=card.title, fault=worst, breaks=breaks, field=".card")
    bank.ask(rules.breaker_breaks, facts)


def _check_counts(bank: OneBank, supply: BankSupply) -> None:
    ledger, card = bank.ledger, bank.card
    if bank.seat.thing.strings > 1:
        _check_stacks(bank)
    if card.in_series:
        facts = rules.Count(number=supply.series, least=ledger.read(card, "series_min"), most=ledger.read(card, "series_max"))
        bank.ask(rules.series, facts)
    bank.ask(rules.count, rules.Count(number=supply.units, least=None, most=ledger.read(card, "units_max")))


def _check_stacks(bank: OneBank) -> None:
    """Stacks side by side."""
    facts = rules.Stacks(
        wanted=bank.seat.thing.strings,
        sizes=[len(stack) for stack in bank.seat.thing.stacks()],
        most=bank.ledger.read(bank.card, "strings_max"),
        stacked=bank.card.arrangement in ("stack", "blocks"),
        at_bars=bank.box is not None,
    )
    bank.ask(rules.stacks, facts)


def _check_pair(bank: OneBank) -> None:
    """Window, chemistry and list of the inverter."""
    ledger, bottom, top = bank.ledger, bank.volts("v_min"), bank.volts("v_max")
    for card in {i.card.id: i.card for i in bank.inverters}.values():
        low, high = ledger.read(card, "battery.v_min"), ledger.read(card, "battery.v_max")
        bank.ask(rules.window, rules.Window(bottom=bottom, top=top, low=low, high=high))
        pair = rules.Pair(battery=bank.card, inverter=card)
        for rule in rules.PAIRED:
            bank.ask(rule, pair)


def _check_cabling(bank: OneBank) -> None:
    thing = bank.seat.thing
    if bank.card.arrangement == "parallel" or thing.strings > 1:
        ids = {unit_name(u.id) for u in bank.heads}
        lengths = [r.length_m for r in bank.ledger.job.runs if r.length_m is not None and r.id in ids]
        facts = rules.Cabling(batteries=len(bank.heads), style=thing.cabling, lengths_m=lengths, first=bank.units[0].id)
        bank.ask(rules.daisy, facts)
        bank.ask(rules.equal_leads, facts)
    bank.ask(rules.precharge, rules.Precharge(fitted=thing.precharge))


def _check_dwelling(bank: OneBank) -> None:
    """Voltage of a bank in a dwelling, where the book limits it (706.20(B))."""
    limits = bank.ledger.book.bank.dwelling_v
    if limits is None:
        return
    reach, most = (
        bank.ledger.keep(constant(symbol, name, volts, "V", "nec.706.20"))
        for symbol, name, volts in (
            ("U_open", "Highest DC voltage in a dwelling with live parts in reach", limits[0]),
            ("U_most", "Highest DC voltage of a bank in a dwelling", limits[1]),
        )
    )
    covered, title = bank.card.live_parts_covered, bank.card.title
    facts = rules.HighVolts(where=bank.of("bank"), title=title, top=bank.volts("v_max"), open_most=reach, most=most, covered=covered)
    bank.ask(rules.dwelling_voltage, facts)


def check_fits(bank: OneBank, supply: BankSupply) -> None:
    """Ask every rule of what goes together."""
    _check_devices(bank, supply)
    _check_own_breakers(bank, supply)
    _check_string_fuses(bank, supply)
    _check_counts(bank, supply)
    _check_pair(bank)
    _check_cabling(bank)
    _check_dwelling(bank)
    check_plates(bank)
    path = bank.coldest.path
    coldest = bank.ledger.asked(path)
    if coldest is not None:
        facts = rules.Cold(coldest=coldest, least=bank.ledger.read(bank.card, "charge_min_c"), field=path)
        bank.ask(rules.cold_charging, facts)
    path = bank.hottest.path
    hottest = bank.ledger.asked(path)
    if hottest is not None:
        bank.ask(rules.hot_charging, rules.Hot(hottest=hottest, most=bank.ledger.read(bank.card, "charge_max_c"), field=path))
