"""The chain from cell to inverter: which link is weakest, what is kept in reserve, and how the inverter is pre-charged."""

from __future__ import annotations

from gumboot.core.expression import largest
from gumboot.core.figure import BY_VALUE, Figure
from gumboot.core.installation import main_name, unit_name
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank.fits import check_fits
from gumboot.core.plan.bank.one import OneBank, banks_of, keyed, marked
from gumboot.core.plan.bank.shares import fault_at_the_far_end, plan_shares
from gumboot.core.plan.bank.supply import BankSupply, Supplies, floor_of_charge
from gumboot.core.plan.circuits.parts import Sized
from gumboot.core.rulebook.common import bank as network
from gumboot.core.rules import bank as rules
from gumboot.core.values import Values


class Link(Values):
    """One link of the chain from cell to inverter with the current it carries. ``is_battery`` where more batteries raise it."""

    title: str
    amps: Figure
    is_battery: bool = False


class BankPlan(Values):
    """One bank: its supply with its chain of links and the weakest of them, and what each battery carries.

    ``is_first`` tells whose figures and checks are called plainly; ``coldest`` is the coldest air at its batteries in °C, None while nobody said; ``main_ampacity`` is what the weakest battery main of its inverters carries, None while none is sized.
    """

    id: str
    is_first: bool
    coldest: Figure | None
    supply: BankSupply
    chain: tuple[Link, ...]
    weakest: Link
    reserve_wh: Figure
    precharge_s: Figure
    precharge_j: Figure
    shares: tuple[Figure, ...] = ()
    inner_mohm: Figure | None = None
    device_rating: Figure | None = None
    device_continuous: Figure | None = None
    main_ampacity: Figure | None = None

    @property
    def mark(self) -> str:
        """What ids of its switches, checks and steps end in."""
        return marked(self.id, is_first=self.is_first)

    def key(self, name: str) -> str:
        """The key of one of its figures."""
        return keyed(name, self.id, is_first=self.is_first)


def _device(bank: OneBank, supply: BankSupply) -> tuple[str, Figure] | None:
    """What a main's device is called and rated, of several the smallest; None where each battery has its own, or none stands there."""
    ledger, fuses = bank.ledger, bank.switch_fuses
    if fuses:
        return "fuse", min((ledger.read(s.card, "rated_a") for s in fuses), key=BY_VALUE)
    if bank.card.breaker_a is None or bank.card.arrangement == "docked" or supply.shares:
        return None
    return "breaker", ledger.read(bank.card, "breaker_a")


def _together(bank: OneBank, key: str, what: str, parts: list[Figure]) -> Figure:
    """What the mains of all inverters carry together: as many times what the weakest of them does."""
    weakest = min(parts, key=BY_VALUE)
    if len(parts) == 1:
        return weakest
    return bank.work(f"bank.{key}_together", "I_all", f"{what} of all inverters", len(parts) * weakest, "A", source="arith")


def _continuous(bank: OneBank, rated: Figure) -> Figure:
    """What a device carries for hours, by the book."""
    share, source = bank.ledger.book.bank.device_share, bank.ledger.book.bank.device_source
    return bank.work(
        "bank.fuse_continuous", "I_fuse", f"Device at {100 * share:.0f} % for continuous current", share * rated, "A", source=source
    )


def _leads_together(bank: OneBank, supply: BankSupply, leads: list[Sized]) -> Link | None:
    if not leads or len(leads) != len(bank.heads):
        return None
    weakest = min((z.ampacity for z in leads), key=BY_VALUE)
    return Link(
        title="battery leads", amps=bank.work("bank.leads_a", "I_leads", "Leads together", supply.parallel * weakest, "A", source="arith")
    )


def _leads_of(bank: OneBank, sized: dict[str, Sized]) -> list[Sized]:
    return [sized[unit_name(u.id)] for u in bank.heads if unit_name(u.id) in sized]


def _links(bank: OneBank, supply: BankSupply, sized: dict[str, Sized], device: tuple[str, Figure] | None) -> list[Link]:
    number, wired = len(bank.inverters), bank.ledger.house.mains_of(bank.id)
    found = [
        Link(
            title=(f"{len(bank.heads)} {'BMS' if bank.card.data_ports else 'strings'}") if supply.shares else "battery",
            amps=supply.bms_a,
            is_battery=True,
        )
    ]
    together = _leads_together(bank, supply, _leads_of(bank, sized))
    found += [together] if together else []
    if bank.box is not None:
        found.append(Link(title="busbars", amps=bank.ledger.read(bank.box.card, "busbar_a")))
    if device is not None:
        found.append(Link(title=f"{device[0]}, continuous", amps=_together(bank, "fuses", "Devices", [device[1]] * number)))
    found += [Link(title="links", amps=z.ampacity) for z in sized.values() if z.circuit.kind == "interlink" and z.circuit.owner == bank.id]
    mains = [sized[c.id].ampacity for c in wired if c.id in sized]
    if mains and len(mains) == len(wired):
        found.append(Link(title="main leads", amps=_together(bank, "mains", "Main leads", mains)))
    ports = bank.of_inverters("battery.discharge_a", "group.battery_a", "Battery current of all inverters at most")
    return [*found, Link(title="inverter port" if number == 1 else "inverter ports", amps=ports)]


def _precharge(bank: OneBank) -> tuple[Figure, Figure]:
    ledger = bank.ledger
    ohm, micro = ledger.read(bank.inverter, "battery.precharge_ohm"), ledger.read(bank.inverter, "battery.input_capacitance_uf")
    seconds = bank.work(
        "bank.precharge_s",
        "t",
        "Pre-charge time",
        network.precharge_five_s(ohm, micro),
        "s",
        source="cp.precharge",
        limits="Five time constants: within 1 % of the battery's voltage.",
    )
    energy = network.precharge_energy_j(bank.volts("v_max"), micro)
    return seconds, bank.work("bank.precharge_j", "W", "Energy the resistor takes", energy, "J", source="physics")


def _reserve(bank: OneBank, supply: BankSupply) -> Figure:
    ledger = bank.ledger
    one, eta = ledger.read(bank.card, "energy_wh"), ledger.read(bank.inverter, "battery.efficiency")
    kept = largest(0.0, ledger.decided("settings.reserve_pct") - floor_of_charge(bank))
    held = supply.units * one * kept / 100 * eta
    if supply.at_current is not None:
        held = held * supply.at_current
    return bank.work("bank.reserve", "E_res", "Energy kept for an outage, AC side", held, "Wh", source="house.reserve")


def _plan(bank: OneBank, supply: BankSupply, sized: dict[str, Sized]) -> BankPlan:
    """Join the supply of a bank with its cables and devices into the chain, and check them."""
    ledger = bank.ledger
    mains = [sized[c.id] for c in ledger.house.mains_of(bank.id) if c.id in sized]
    check_fits(bank, supply)
    for z in mains:
        longest = ledger.stated(ledger.house.inverter(z.circuit.owner).card, "battery.cable_max_m")
        if longest is not None:
            bank.ask(rules.cable_length, rules.Cable(length=z.length, most=longest, circuit=z.circuit.id))
    device = _device(bank, supply)
    continuous = _continuous(bank, device[1]) if device else None
    links = _links(bank, supply, sized, (device[0], continuous) if device and continuous else None)
    weakest = min(links, key=lambda k: k.amps.value)
    bank.ask(rules.weakest_link, rules.Weakest(title=weakest.title, amps=weakest.amps, design=supply.design_a))
    shares = plan_shares(bank, supply, _leads_of(bank, sized))
    inner = fault_at_the_far_end(bank, supply, sized.get(main_name(ledger.house, bank.inverters[0])))
    return BankPlan(
        id=bank.id,
        is_first=bank.is_first,
        coldest=None if bank.coldest.value is None else ledger.decided(bank.coldest.path),
        supply=supply,
        chain=tuple(links),
        weakest=weakest,
        reserve_wh=_reserve(bank, supply),
        precharge_s=(charge := _precharge(bank))[0],
        precharge_j=charge[1],
        shares=shares,
        inner_mohm=inner,
        device_rating=device[1] if device else None,
        device_continuous=continuous,
        main_ampacity=min((z.ampacity for z in mains), key=BY_VALUE, default=None),
    )


def plan_banks(ledger: Ledger, supplies: Supplies, sized: dict[str, Sized]) -> tuple[BankPlan, ...]:
    """Every bank with its cables and devices, checked."""
    return tuple(_plan(bank, supplies.of(bank.id), sized) for bank in banks_of(ledger))
