"""Do the inverters of this house work as one group: alike, joined at a panel, led, on one bank by equal mains, with one bond and one meter?"""

from __future__ import annotations

from gumboot.core.expression import total
from gumboot.core.figure import BY_VALUE, Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import Supplies, banks_of
from gumboot.core.plan.bank.shares import lead_mohm
from gumboot.core.plan.circuits import CircuitsPlan, Sized
from gumboot.core.rules import parallel as rules


def _group(ledger: Ledger) -> rules.Group:
    seats, house = ledger.seats.inverters, ledger.house
    legs: dict[str, list[str]] = {leg: [i.id for i in house.units_on(leg)] for leg in house.legs}
    wanted = {leg for load in house.backed for leg in load.leg.split("+")} if len(seats) > 1 else ()
    return rules.Group(
        units=[i.id for i in seats],
        cards=[i.card for i in seats],
        legs=legs,
        wanted=sorted(wanted),
        banks=[i.thing.bank for i in seats],
    )


def _check_empty(ledger: Ledger, supplies: Supplies) -> None:
    """Whether the banks are empty together."""
    serving = banks_of(ledger)
    if len(serving) < 2:
        return
    banks, together = [supplies.of(bank.id) for bank in serving], supplies.delivered[ledger.house.lead.id]
    held = total([bank.delivered for bank in banks], together)
    whole = ledger.work(
        ledger.key("bank.held_all"), "E_held", ledger.titled("Energy that all banks hold, AC side"), held, "Wh", source="arith"
    )
    per_w = {bank.bank: bank.delivered.value / sum(i.card.output_w for i in ledger.house.on_bank(bank.bank)) for bank in banks}
    first = min(per_w, key=lambda bank: per_w[bank])
    ledger.ask(rules.empty_together, rules.Emptied(first=first, together=together, held=whole))


def _check_landing(ledger: Ledger) -> None:
    """Where outputs come together, and whether the bars of each bank take every main."""
    house, ways = ledger.house, list(dict.fromkeys([i.thing.feeds for i in ledger.seats.inverters]))
    panels = house.panels
    if len(ways) > 1:
        # One island by several ways: nowhere can all of them be opened and proved alone.
        ledger.ask(rules.at_a_panel, rules.Joined(units=[i.id for i in ledger.seats.inverters], fed=" and ".join(ways), panel=""))
    for fed in ways:
        units = [i.id for i in ledger.seats.inverters if i.thing.feeds == fed]
        ledger.ask(rules.at_a_panel, rules.Joined(units=units, fed=fed, panel=fed if fed in panels else ""))
    for bank in ledger.seats.banks:
        box = house.busbar_of(bank.id)
        if box is not None:
            studs = sum(t.role == "positive" for port in box.card.ports if port.id == "MAIN" for t in port.terminals)
            mains = len(house.on_bank(bank.id))
            ledger.ask(rules.bars_take_each_main, rules.Studs(box=box.id, title=box.card.title, studs=studs, inverters=mains))


def _check_mains(ledger: Ledger, plan: CircuitsPlan) -> None:
    """Equal battery mains of the inverters of each bank, by resistance."""
    for bank in ledger.seats.banks:
        units = ledger.house.on_bank(bank.id)
        if not units or units[0].card.parallel is None:
            continue
        owners = {i.id for i in units}
        mains = [z for z in plan.sized.values() if z.circuit.kind == "battery" and z.circuit.owner in owners]
        if len(mains) < 2:
            continue
        ohms = [_loop(ledger, z) for z in mains]
        low, high = min(ohms, key=BY_VALUE), max(ohms, key=BY_VALUE)
        apart = ledger.work(
            f"group.mains_apart.{bank.id}",
            "dR",
            "Battery mains of the inverters differ by",
            100 * (high - low) / low,
            "%",
            source="physics",
        )
        most = ledger.read(units[0].card, "parallel.lead_apart_pct")
        facts = rules.Leads(bank=bank.id, units=[z.circuit.id for z in mains], ohms=ohms, apart=apart, most=most)
        ledger.ask(rules.equal_mains, facts)


def _loop(ledger: Ledger, sized: Sized) -> Figure:
    return lead_mohm(ledger, sized)


def _check_link(ledger: Ledger) -> None:
    """Addresses and terminators along the link between inverters."""
    units = ledger.seats.inverters
    allows = units[0].card.parallel
    if len(units) < 2 or allows is None:
        return
    for n, unit in enumerate(units):
        facts = rules.Led(
            unit=unit.id,
            leader=units[0].id,
            address=unit.thing.address,
            wanted=allows.first_address + n,
            taken=any(other.thing.address == unit.thing.address for other in units[:n]),
            fitted=unit.thing.terminator,
            at_an_end=n in (0, len(units) - 1),
            terminates=allows.terminators,
        )
        ledger.ask(rules.own_address, facts)
        ledger.ask(rules.ends_of_the_link, facts)


def _check_bond(ledger: Ledger) -> None:
    units, transfers = ledger.seats.inverters, ledger.seats.transfers
    allows = units[0].card.parallel
    opens = all(t.card.neutral_switched for t in transfers) if transfers else units[0].card.island_opens_neutral
    relays = sum(i.card.neutral_bond == "relay" for i in units)
    facts = rules.Bonding(units=[i.id for i in units], relays=relays, rule=allows.bond if allows else "", opens_neutral=opens)
    ledger.ask(rules.one_of_them_bonds, facts)


def check_group(ledger: Ledger, supplies: Supplies, plan: CircuitsPlan) -> None:
    """Ask every rule of several inverters."""
    for bank in ledger.seats.banks:
        islands = [part.house.lead.id for part in ledger.islands if bank in part.seats.banks]
        ledger.ask(rules.bank_of_one_island, rules.Shared(bank=bank.id, islands=islands))
    everyone = {i.id for i in ledger.seats.inverters}
    for part in ledger.islands:
        _check_meter(part, everyone)
        _check_supply(part)
        _check_island(part, supplies, plan)


def _check_meter(ledger: Ledger, everyone: set[str]) -> None:
    """Who of a group reads CTs; those of an inverter that is not there count with the first."""
    own = {i.id for i in ledger.seats.inverters}
    wired = [meter.inverter for meter in ledger.job.sensing.meters if meter.cts]
    readers = [i for i in wired if i in own or (not ledger.house.mark and i not in everyone)]
    ledger.ask(rules.one_meter, rules.Metered(leader=ledger.house.lead.id, readers=readers))


def _check_supply(ledger: Ledger) -> None:
    """Where an island joins the network: at main boards of one supply."""
    house, mains = ledger.house, {b.id for b in ledger.seats.mains}
    if len(mains) > 1:
        joined = [c for c in house.of_kind("grid", "through") if c.source in mains]
        supplies = [house.mains_above(c.source)[-1] for c in joined]
        ledger.ask(rules.one_supply, rules.Supplied(things=[c.load for c in joined], supplies=supplies))


def _check_island(ledger: Ledger, supplies: Supplies, plan: CircuitsPlan) -> None:
    group = _group(ledger)
    for rule in (rules.alike, rules.as_many_as_allowed, rules.banks_as_allowed, rules.makes_these_phases, rules.every_leg_is_made):
        ledger.ask(rule, group)
    _check_empty(ledger, supplies)
    _check_landing(ledger)
    _check_mains(ledger, plan)
    _check_link(ledger)
    _check_bond(ledger)
