"""What does each battery of a bank carry, and what flows into a fault at the far end of its cable?"""

from __future__ import annotations

from gumboot.core.expression import Expression, named
from gumboot.core.figure import BY_VALUE, Figure, constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank.one import OneBank
from gumboot.core.plan.bank.supply import BankSupply
from gumboot.core.plan.circuits.parts import Sized
from gumboot.core.rulebook.common import bank as network
from gumboot.core.rules import bank as rules

LEADS_APART = constant("dR_max", "Difference allowed between the leads of batteries on one busbar", 10, "%", "cp.share")


def lead_mohm(ledger: Ledger, sized: Sized) -> Figure:
    """Loop resistance of one battery's leads, from the resistance its drop was worked with."""
    cid = sized.circuit.id
    loop = 2 * sized.length / 1000 * sized.pole_ohm_per_km * 1000
    return ledger.work(f"bank.lead_ohm.{cid}", "R", f"Leads of {cid}, there and back", loop, "mohm", source="physics")


def shares_of(whole: Figure, cell: Figure, leads: list[Figure], cabling: str) -> tuple[tuple[Expression, ...], str]:
    """What each battery of a parallel bank carries of a current, and what the answer holds for: the network of leads and cells solved."""
    cells = [cell] * len(leads)
    if cabling == "busbar":
        amps: tuple[Expression, ...] = network.busbar_shares_a(whole, leads, cells)
        return amps, "All cells at one voltage."
    # In a chain the first lead goes to the take-off; each later one joins a battery to its neighbour.
    links = [f.value / 2 for f in leads[1:]]
    solved = network.chain_shares_a(whole.value, [cell.value] * len(leads), links, cabling == "diagonal")
    words = "battery {n} of the chain solved with " + ", ".join(f"{{{i}}}" for i in range(len(leads) + 2))
    found = tuple(named(words.replace("{n}", str(i + 1)), a, whole, cell, *leads) for i, a in enumerate(solved))
    return found, "All cells at one voltage. Chain solved node by node by Kirchhoff's laws."


def _inner(bank: OneBank) -> Figure:
    """Resistance inside one battery, or one stack."""
    one = bank.ledger.read(bank.card, "cell_mohm")
    if not bank.card.in_series:
        return one
    return bank.work("bank.stack_mohm", "R_st", "Resistance inside one stack", bank.counts()[1] * one, "mohm", source="physics")


def _check_alike(bank: OneBank, leads: list[Sized], ohms: list[Figure]) -> None:
    """Leads that are not of one size, material and number, by resistance."""
    kinds = {(z.size, z.run.material, z.run.sets) for z in leads}
    if bank.seat.thing.cabling != "busbar" or len(kinds) < 2:
        return
    low, high = min(ohms, key=BY_VALUE), max(ohms, key=BY_VALUE)
    name, most = "Leads to the busbar differ in resistance by", bank.ledger.keep(LEADS_APART)
    apart = bank.work("bank.leads_apart", "dR", name, 100 * (high - low) / low, "%", source="cp.share")
    least = leads[ohms.index(low)]
    facts = rules.Unlike(apart=apart, most=most, lowest=least.circuit.id, field=f"runs.{least.run.id}.installed_size")
    bank.ask(rules.alike_in_resistance, facts)


def plan_shares(bank: OneBank, supply: BankSupply, leads: list[Sized]) -> tuple[Figure, ...]:
    """What each battery of a parallel bank carries of the design current; nothing while a lead is not sized."""
    ledger, card = bank.ledger, bank.card
    if len(leads) < 2 or len(leads) != len(bank.heads):
        return ()
    cell, ohms = _inner(bank), [lead_mohm(ledger, z) for z in leads]
    _check_alike(bank, leads, ohms)
    amps, limits = shares_of(supply.design_a, cell, ohms, bank.seat.thing.cabling)
    shares = tuple(
        ledger.work(
            f"bank.share.{unit.id}",
            f"I_{unit.id.replace('-', '_')}",
            f"Share of {unit.id} at the design current",
            amps[i],
            "A",
            source="cp.share",
            limits=limits,
        )
        for i, unit in enumerate(bank.heads)
    )
    worst = max(range(len(shares)), key=lambda i: shares[i].value)
    one = ledger.read(card, "discharge_a")
    bank.ask(rules.share, rules.Share(name=bank.heads[worst].id, share=shares[worst], whole=supply.design_a, one=one))
    return shares


def fault_at_the_far_end(bank: OneBank, supply: BankSupply, main: Sized | None) -> Figure | None:
    """Fault current at the inverter's terminals, main cable counted: what the fuse really sees there. Gives the bank's own resistance."""
    if main is None:
        return None
    top = bank.volts("v_max")
    name = "Resistance inside the bank, from its fault current"
    inner = bank.work("bank.inner_mohm", "R_b", name, network.inner_mohm(top, supply.fault_a), "mohm", source="physics")
    bank.work(
        "bank.fault_far_a",
        "I_k_far",
        "Fault current at the inverter's end of the main cable",
        network.fault_current_a(top, inner, lead_mohm(bank.ledger, main)),
        "A",
        source="physics",
        limits="The fuse must break the larger current at the busbars, and still operate at this one.",
    )
    return inner
