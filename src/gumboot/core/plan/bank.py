"""What can the bank give, which link is weakest, and is its fault current held?"""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.rulebook.north_american import battery as dc


@dataclass(frozen=True)
class BankSupply:
    """What the bank holds and gives, before cables and devices are known."""

    units: Figure
    usable: Figure
    delivered: Figure
    bms_a: Figure
    design_a: Figure
    power_w: Figure
    fault_a: Figure


@dataclass(frozen=True)
class Link:
    """One link of the chain from cell to inverter with the current it carries."""

    title: str
    amps: Figure


@dataclass(frozen=True)
class BankPlan:
    """The supply with its chain of links and the weakest of them."""

    supply: BankSupply
    chain: tuple[Link, ...]
    weakest: Link
    reserve_wh: Figure
    precharge_s: Figure
    precharge_j: Figure


def plan_supply(ledger: Ledger) -> BankSupply:
    """Energy, BMS current, design current at the lowest voltage, power and fault current of the bank."""
    card, inverter = ledger.card("battery"), ledger.card("inverter")
    count = len(ledger.job.bank.units)
    units = ledger.work("bank.units", "n", "Batteries in parallel", float(count), "", "input:bank.units")
    energy = ledger.read(card, "energy_wh", "E_1", "Energy of one battery", "Wh")
    begin = ledger.decided("preferences.start_of_autonomy_pct", "S_0", "State of charge when the outage begins", "%")
    floor = ledger.read(card, "discharge_floor_pct", "S_min", "State of charge at which the battery stops", "%")
    usable = ledger.work(
        "bank.usable",
        "E_use",
        "Usable energy at the cells",
        count * energy.value * max(0.0, begin.value - floor.value) / 100,
        "Wh",
        "arith",
        "n * E_1 * max(0, S_0 - S_min) / 100",
        (units, energy, begin, floor),
    )
    eta = ledger.read(inverter, "battery.efficiency", "eta", "Conversion efficiency", "")
    delivered = ledger.work(
        "bank.delivered", "E", "Energy delivered on the AC side", usable.value * eta.value, "Wh", "physics", "E_use * eta", (usable, eta)
    )
    one = ledger.read(card, "discharge_a", "I_1", "Continuous discharge of one battery", "A")
    bms = ledger.work(
        "bank.bms_a",
        "I_bms",
        "BMS limits together",
        count * one.value,
        "A",
        "arith",
        "n * I_1",
        (units, one),
        limits="Holds while all batteries share alike: equal leads or a busbar.",
    )
    low = ledger.read(card, "v_low_operating", "V_low", "Lowest voltage in operation", "V")
    output = ledger.read(inverter, "output_w", "P_inv", "Inverter output", "W")
    charge = ledger.read(inverter, "battery.charge_a", "I_chg", "Inverter's largest charge current", "A")
    drawn = ledger.work(
        "bank.drawn_a",
        "I_dis",
        "Battery current at full output and lowest voltage",
        dc.inverter_input_current_a(output.value, low.value, eta.value),
        "A",
        "nec.706.30",
        "P_inv / (V_low * eta)",
        (output, low, eta),
    )
    design = ledger.work(
        "bank.design_a",
        "I_b",
        "Design current of the battery circuit",
        max(drawn.value, charge.value),
        "A",
        "nec.706.30",
        "max(I_dis, I_chg)",
        (drawn, charge),
    )
    port = ledger.read(inverter, "battery.discharge_a", "I_port", "Inverter's largest battery current", "A")
    power = ledger.work(
        "bank.power",
        "P_bank",
        "Power the bank gives at its lowest voltage",
        min(bms.value, port.value) * low.value * eta.value,
        "W",
        "physics",
        "min(I_bms, I_port) * V_low * eta",
        (bms, port, low, eta),
    )
    fault_one = ledger.read(card, "fault_a", "I_k1", "Fault current of one battery", "A")
    fault = ledger.work(
        "bank.fault_a",
        "I_k",
        "Fault current at the busbars",
        dc.bank_fault_current_a(fault_one.value, count),
        "A",
        "physics",
        "n * I_k1",
        (units, fault_one),
        limits="Leads are neglected: the true current is lower.",
    )
    return BankSupply(units, usable, delivered, bms, design, power, fault)


def _check_devices(ledger: Ledger, supply: BankSupply) -> None:
    card, fuse, count = ledger.card("battery"), ledger.card("switch_fuse"), len(ledger.job.bank.units)
    rating = ledger.read(fuse, "interrupting_a", "I_cu", "Fuse's interrupting rating, DC", "A")
    ledger.verdict(
        "FUSE-INTERRUPT",
        rating.value >= supply.fault_a.value,
        "battery fuse",
        f"The bank can push {supply.fault_a.value:.0f} A into a fault; the fuse breaks {rating.value:.0f} A.",
        "Choose a fuse with a higher DC interrupting rating.",
        found=supply.fault_a,
        limit=rating,
        field="equipment.switch_fuse",
    )
    volts = ledger.read(fuse, "voltage_dc", "U_n", "DC rating of the switch and fuse", "V")
    top = ledger.read(card, "v_max", "V_max", "Highest battery voltage", "V")
    ledger.verdict(
        "DC-VOLTAGE",
        volts.value >= top.value,
        "battery fuse",
        f"The battery reaches {top.value:g} V; the device is rated {volts.value:g} V DC.",
        "Choose a device with a DC rating above the battery's voltage.",
        found=top,
        limit=volts,
        field="equipment.switch_fuse",
    )
    one = ledger.read(card, "fault_a", "I_k1", "Fault current of one battery", "A")
    others = ledger.work(
        "bank.fault_from_others",
        "I_ko",
        "Fault current into one battery from the others",
        (count - 1) * one.value,
        "A",
        "physics",
        "(n - 1) * I_k1",
        (supply.units, one),
    )
    own = ledger.read(card, "breaker_interrupting_a", "I_cu1", "Interrupting rating of the battery's own breaker", "A")
    ledger.verdict(
        "BANK-BREAKER-INTERRUPT",
        own.value >= others.value,
        "battery breakers",
        f"A fault in one battery is fed {others.value:.0f} A by the others; its breaker breaks {own.value:.0f} A.",
        "Fit a fuse for each battery at the busbar.",
        found=others,
        limit=own,
    )


def _check_bank(ledger: Ledger) -> None:
    card, inverter, bank = ledger.card("battery"), ledger.card("inverter"), ledger.job.bank
    count = len(bank.units)
    most = ledger.read(card, "units_max", "n_max", "Most batteries in parallel", "")
    number = ledger.figures["bank.units"]
    ledger.verdict(
        "BANK-COUNT",
        count <= most.value,
        "bank",
        f"{count} batteries; the maker allows {most.value:.0f} in parallel.",
        "Take batteries off.",
        found=number,
        limit=most,
    )
    low, high = (
        ledger.read(inverter, "battery.v_min", "V_low", "Inverter's lowest battery voltage", "V"),
        ledger.read(inverter, "battery.v_max", "V_high", "Inverter's highest battery voltage", "V"),
    )
    fits = low.value <= card.v_min and card.v_max <= high.value
    ledger.verdict(
        "BANK-WINDOW",
        fits,
        "bank",
        f"The battery works from {card.v_min:g} to {card.v_max:g} V; the inverter takes {low.value:g} to {high.value:g} V.",
        "Choose a battery inside the inverter's window.",
        field="equipment.battery",
    )
    ledger.verdict(
        "BANK-DAISY",
        bank.cabling == "busbar" or count <= 2,
        "bank",
        f"{count} batteries are daisy-chained: the nearest one works hardest.",
        "Use busbars with equal leads, or take off diagonally.",
        field="bank.cabling",
        level="stop" if count > 3 else "caution",
    )
    lengths = [r.length_m for r in ledger.job.runs if r.length_m is not None and any(r.id == u.id for u in bank.units)]
    ledger.verdict(
        "BANK-LEADS",
        not lengths or max(lengths) - min(lengths) <= 0.1 * max(lengths) + 1e-9,
        "bank",
        "The leads to the busbar differ by more than a tenth: the shortest one carries the most.",
        "Make all leads of one length.",
        field=f"runs.{bank.units[0].id}.length_m",
    )
    ledger.verdict(
        "BANK-PRECHARGE",
        bank.precharge,
        "bank",
        "No pre-charge: closing the battery switch onto empty capacitors welds contacts and trips the BMS.",
        "Fit the pre-charge path named by the inverter's card.",
        field="bank.precharge",
    )
    if ledger.job.site.room_low_c is None:
        ledger.gap("site.room_low_c", "survey", "Coldest air at the equipment?", "Whether the battery may be charged in winter")
    else:
        coldest = ledger.decided("site.room_low_c", "T_room", "Coldest air at the equipment", "°C")
        least = ledger.read(card, "charge_min_c", "T_chg", "Coldest cell that may be charged", "°C")
        ledger.verdict(
            "BANK-COLD",
            coldest.value >= least.value,
            "bank",
            f"The place falls to {coldest.value:g} °C; the cells may be charged from {least.value:g} °C.",
            "Choose a warmer place, a heated battery, or set the charge limit to zero when cold.",
            found=coldest,
            limit=least,
            field="site.room_low_c",
        )


def _precharge(ledger: Ledger) -> tuple[Figure, Figure]:
    inverter, card = ledger.card("inverter"), ledger.card("battery")
    ohm = ledger.read(inverter, "battery.precharge_ohm", "R", "Pre-charge resistor", "ohm")
    micro = ledger.read(inverter, "battery.input_capacitance_uf", "C", "Inverter's input capacitance", "uF")
    top = ledger.read(card, "v_max", "V", "Highest battery voltage", "V")
    seconds = ledger.work(
        "bank.precharge_s",
        "t",
        "Pre-charge time",
        5 * dc.precharge_time_constant_s(ohm.value, micro.value * 1e-6),
        "s",
        "cp.precharge",
        "5 * R * C * 1e-6",
        (ohm, micro),
        limits="Five time constants: within 1 % of the battery's voltage.",
    )
    joule = ledger.work(
        "bank.precharge_j",
        "W",
        "Energy the resistor takes",
        0.5 * micro.value * 1e-6 * top.value**2,
        "J",
        "physics",
        "0.5 * C * 1e-6 * V ** 2",
        (micro, top),
    )
    return seconds, joule


def plan_bank(ledger: Ledger, supply: BankSupply, main_ampacity: Figure | None, lead_ampacity: Figure | None) -> BankPlan:
    """Join the supply with its cables and devices into the chain, and check them."""
    inverter, fuse, box = ledger.card("inverter"), ledger.card("switch_fuse"), ledger.card("busbar_box")
    _check_devices(ledger, supply)
    _check_bank(ledger)
    links = [Link(f"{len(ledger.job.bank.units)} BMS", supply.bms_a)]
    if lead_ampacity:
        together = ledger.work(
            "bank.leads_a",
            "I_leads",
            "Leads together",
            supply.units.value * lead_ampacity.value,
            "A",
            "arith",
            "n * I_z",
            (supply.units, lead_ampacity),
        )
        links.append(Link("battery leads", together))
    links.append(Link("busbars", ledger.read(box, "busbar_a", "I_bar", "Busbar rating", "A")))
    rated = ledger.read(fuse, "rated_a", "I_n", "Fuse rating", "A")
    links.append(
        Link(
            "fuse, continuous",
            ledger.work(
                "bank.fuse_continuous",
                "I_fuse",
                "Fuse at 80 % for continuous current",
                0.8 * rated.value,
                "A",
                "nec.210.19",
                "0.8 * I_n",
                (rated,),
            ),
        )
    )
    if main_ampacity:
        links.append(Link("main leads", main_ampacity))
    links.append(Link("inverter port", ledger.read(inverter, "battery.discharge_a", "I_port", "Inverter's largest battery current", "A")))
    weakest = min(links, key=lambda k: k.amps.value)
    ledger.verdict(
        "BANK-WEAK",
        weakest.amps.value >= supply.design_a.value,
        weakest.title,
        f"Full output draws {supply.design_a.value:.1f} A at the lowest voltage; {weakest.title} carries {weakest.amps.value:.1f} A.",
        "Strengthen that link, or lower the inverter's battery current.",
        found=supply.design_a,
        limit=weakest.amps,
    )
    card = ledger.card("battery")
    reserve = ledger.decided("settings.reserve_pct", "S_res", "Reserve", "%")
    floor = ledger.read(card, "discharge_floor_pct", "S_min", "State of charge at which the battery stops", "%")
    energy = ledger.read(card, "energy_wh", "E_1", "Energy of one battery", "Wh")
    eta = ledger.read(inverter, "battery.efficiency", "eta", "Conversion efficiency", "")
    held = ledger.work(
        "bank.reserve",
        "E_res",
        "Energy kept for an outage, AC side",
        supply.units.value * energy.value * max(0.0, reserve.value - floor.value) / 100 * eta.value,
        "Wh",
        "house.reserve",
        "n * E_1 * max(0, S_res - S_min) / 100 * eta",
        (supply.units, energy, reserve, floor, eta),
    )
    return BankPlan(supply, tuple(links), weakest, held, *_precharge(ledger))
