"""The chain from cell to inverter: which link is weakest, what is kept in reserve, and how the inverter is pre-charged."""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.expression import largest
from gumboot.core.figure import Figure
from gumboot.core.installation import unit_name
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank.fits import check_fits
from gumboot.core.plan.bank.shares import fault_at_the_far_end, plan_shares
from gumboot.core.plan.bank.supply import BankSupply, bank_volts, floor_of_charge
from gumboot.core.plan.circuits.parts import Sized
from gumboot.core.plan.group import of_all
from gumboot.core.rulebook.common import bank as network
from gumboot.core.rules import bank as rules


@dataclass(frozen=True)
class Link:
    """One link of the chain from cell to inverter with the current it carries. ``is_battery`` where more batteries raise it."""

    title: str
    amps: Figure
    is_battery: bool = False


@dataclass(frozen=True)
class BankPlan:
    """The supply with its chain of links and the weakest of them, and what each battery carries."""

    supply: BankSupply
    chain: tuple[Link, ...]
    weakest: Link
    reserve_wh: Figure
    precharge_s: Figure
    precharge_j: Figure
    shares: tuple[Figure, ...] = ()
    device_rating: Figure | None = None
    device_continuous: Figure | None = None


def _device(ledger: Ledger, supply: BankSupply) -> tuple[str, Figure] | None:
    """What a main's device is called and rated, of several the smallest; None where each battery has its own, or none stands there."""
    seats = ledger.seats
    if seats.switch_fuses:
        return "fuse", min((ledger.read(s.card, "rated_a") for s in seats.switch_fuses), key=lambda f: f.value)
    if seats.battery.breaker_a is None or seats.battery.arrangement == "docked" or supply.shares:
        return None
    return "breaker", ledger.read(seats.battery, "breaker_a")


def _together(ledger: Ledger, key: str, what: str, parts: list[Figure]) -> Figure:
    """What the mains of all inverters carry together: as many times what the weakest of them does."""
    weakest = min(parts, key=lambda f: f.value)
    if len(parts) == 1:
        return weakest
    return ledger.work(f"bank.{key}_together", "I_all", f"{what} of all inverters", len(parts) * weakest, "A", "arith")


def _continuous(ledger: Ledger, rated: Figure) -> Figure:
    """What a device carries for hours, by the book."""
    share, source = ledger.book.bank.device_share, ledger.book.bank.device_source
    name = f"Device at {100 * share:.0f} % for continuous current"
    return ledger.work("bank.fuse_continuous", "I_fuse", name, share * rated, "A", source)


def _leads_together(ledger: Ledger, supply: BankSupply, leads: list[Sized]) -> Link | None:
    if not leads or len(leads) != len(ledger.job.banks[0].units):
        return None
    weakest = min((z.ampacity for z in leads), key=lambda f: f.value)
    return Link("battery leads", ledger.work("bank.leads_a", "I_leads", "Leads together", supply.parallel * weakest, "A", "arith"))


def _links(ledger: Ledger, supply: BankSupply, sized: dict[str, Sized], device: tuple[str, Figure] | None) -> list[Link]:
    seats, units = ledger.seats, ledger.job.banks[0].units
    found = [Link(f"{len(units)} BMS" if supply.shares else "battery", supply.bms_a, is_battery=True)]
    together = _leads_together(ledger, supply, [sized[unit_name(u.id)] for u in units if unit_name(u.id) in sized])
    found += [together] if together else []
    if seats.busbar_box is not None:
        found.append(Link("busbars", ledger.read(seats.busbar_box, "busbar_a")))
    if device is not None:
        found.append(Link(f"{device[0]}, continuous", _together(ledger, "fuses", "Devices", [device[1]] * len(ledger.seats.inverters))))
    if "interlinks" in sized:
        found.append(Link("links", sized["interlinks"].ampacity))
    mains = [sized[c.id].ampacity for c in ledger.house.of_kind("battery") if c.id in sized]
    if mains and len(mains) == len(ledger.house.of_kind("battery")):
        found.append(Link("main leads", _together(ledger, "mains", "Main leads", mains)))
    ports = of_all(ledger, "battery.discharge_a", "group.battery_a", "Battery current of all inverters at most")
    return [*found, Link("inverter port" if len(seats.inverters) == 1 else "inverter ports", ports)]


def _precharge(ledger: Ledger) -> tuple[Figure, Figure]:
    inverter = ledger.seats.inverter
    ohm, micro = ledger.read(inverter, "battery.precharge_ohm"), ledger.read(inverter, "battery.input_capacitance_uf")
    seconds = ledger.work(
        "bank.precharge_s",
        "t",
        "Pre-charge time",
        network.precharge_five_s(ohm, micro),
        "s",
        "cp.precharge",
        limits="Five time constants: within 1 % of the battery's voltage.",
    )
    energy = network.precharge_energy_j(bank_volts(ledger, "v_max"), micro)
    return seconds, ledger.work("bank.precharge_j", "W", "Energy the resistor takes", energy, "J", "physics")


def _reserve(ledger: Ledger, supply: BankSupply) -> Figure:
    one, eta = ledger.read(ledger.seats.battery, "energy_wh"), ledger.read(ledger.seats.inverter, "battery.efficiency")
    kept = largest(0.0, ledger.decided("settings.reserve_pct") - floor_of_charge(ledger))
    held = supply.units * one * kept / 100 * eta
    return ledger.work("bank.reserve", "E_res", "Energy kept for an outage, AC side", held, "Wh", "house.reserve")


def plan_bank(ledger: Ledger, supply: BankSupply, sized: dict[str, Sized]) -> BankPlan:
    """Join the supply with its cables and devices into the chain, and check them."""
    mains = [sized[c.id] for c in ledger.house.of_kind("battery") if c.id in sized]
    main, leads = sized.get("bat-main"), [sized[unit_name(u.id)] for u in ledger.job.banks[0].units if unit_name(u.id) in sized]
    check_fits(ledger, supply)
    for z in mains:
        longest = ledger.stated(ledger.house.inverter(z.circuit.owner).card, "battery.cable_max_m")
        if longest is not None:
            ledger.ask_of_bank(rules.cable_length, rules.Cable(length=z.length, most=longest))
    device = _device(ledger, supply)
    continuous = _continuous(ledger, device[1]) if device else None
    links = _links(ledger, supply, sized, (device[0], continuous) if device and continuous else None)
    weakest = min(links, key=lambda k: k.amps.value)
    ledger.ask_of_bank(rules.weakest_link, rules.Weakest(title=weakest.title, amps=weakest.amps, design=supply.design_a))
    shares = plan_shares(ledger, supply, leads)
    fault_at_the_far_end(ledger, supply, main)
    return BankPlan(
        supply=supply,
        chain=tuple(links),
        weakest=weakest,
        reserve_wh=_reserve(ledger, supply),
        precharge_s=(charge := _precharge(ledger))[0],
        precharge_j=charge[1],
        shares=shares,
        device_rating=device[1] if device else None,
        device_continuous=continuous,
    )
