"""What can the bank give, which link is weakest, and is its fault current held?"""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.figure import Figure, constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.sizing import Sized
from gumboot.core.rulebook.common import bank as network
from gumboot.core.rulebook.north_american import battery as dc

RIPPLE = constant("k_r", "RMS of a rectified sine against its mean", 1.5**0.5, "", "cp.ripple")
# Capacity lost to cold: where the loss begins and its slope.
LITHIUM_COLD = (
    constant("T_knee", "Cell temperature below which lithium gives less", 10, "°C", "cp.cold"),
    constant("k_T", "Capacity lost for each kelvin below", 0.005, "1/K", "cp.cold", "lithium"),
)
LEAD_COLD = (
    Figure("const.cp.cold.T_knee_lead", "T_knee", "Cell temperature below which lead-acid gives less", 25, "°C", "cp.cold"),
    Figure("const.cp.cold.k_T_lead", "k_T", "Capacity lost for each kelvin below", 0.008, "1/K", "cp.cold", limits="lead-acid"),
)
COLD_SPAN_K = 50.0
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


@dataclass(frozen=True)
class Link:
    """One link of the chain from cell to inverter with the current it carries."""

    title: str
    amps: Figure


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


def current_source(family: str) -> str:
    """Where the inverter's input current at its lowest voltage is asked for: NEC 706.30, by IEC plain energy balance."""
    return "nec.706.30" if family == "nec" else "physics"


def _counts(ledger: Ledger) -> tuple[Figure, Figure, Figure]:
    """Units of the bank, in series and in parallel."""
    card, count = ledger.card("battery"), len(ledger.job.bank.units)
    units = ledger.work("bank.units", "n", "Batteries of the bank", float(count), "", "input:bank.units")
    series = ledger.work("bank.series", "n_s", "Units in series", float(count if card.in_series else 1), "", "input:bank.units")
    parallel = ledger.work("bank.parallel", "n_p", "Units in parallel", float(1 if card.in_series else count), "", "input:bank.units")
    return units, series, parallel


def bank_volts(ledger: Ledger, field: str, symbol: str, name: str) -> Figure:
    """A voltage of the bank in V: the card's own, times the units in series."""
    card = ledger.card("battery")
    if not card.in_series:
        return ledger.read(card, field, symbol, name, "V")
    one = ledger.read(card, field, f"{symbol}_1", f"{name}, one unit", "V")
    series = ledger.figures["bank.series"]
    return ledger.work(f"bank.{field}", symbol, name, series.value * one.value, "V", "physics", f"n_s * {symbol}_1", (series, one))


def bank_nominal_v(ledger: Ledger) -> Figure:
    """Nominal voltage of the bank in V."""
    return bank_volts(ledger, "nominal_v", "V_n", "Nominal voltage")


def _floor(ledger: Ledger) -> Figure:
    """State of charge at which discharge stops: the card's, and not below half for lead-acid."""
    card = ledger.card("battery")
    floor = ledger.read(card, "discharge_floor_pct", "S_min", "State of charge at which the battery stops", "%")
    if not card.chemistry.startswith("lead-acid"):
        return floor
    own = ledger.read(card, "discharge_floor_pct", "S_card", "State of charge at which the battery stops, card", "%")
    return ledger.work(
        "bank.floor",
        "S_min",
        "State of charge at which discharge stops",
        max(own.value, LEAD_ACID_FLOOR_PCT.value),
        "%",
        "cp.leadacid",
        "max(S_card, S_lead)",
        (own, LEAD_ACID_FLOOR_PCT),
        limits="Below half the plates age fast.",
    )


def _cold(ledger: Ledger, usable: Figure) -> None:
    """What is usable on the coldest day at the equipment; the question of the coldest air is asked by the check of charging."""
    if ledger.job.site.room_low_c is None:
        return
    lead = ledger.card("battery").chemistry.startswith("lead-acid")
    room = ledger.decided("site.room_low_c", "T_room", "Coldest air at the equipment", "°C")
    knee, slope = LEAD_COLD if lead else LITHIUM_COLD
    ledger.work(
        "bank.usable_cold",
        "E_cold",
        "Usable energy on the coldest day",
        usable.value * (1 - slope.value * min(max(0.0, knee.value - room.value), COLD_SPAN_K)),
        "Wh",
        "cp.cold",
        f"E_use * (1 - k_T * min(max(0, T_knee - T_room), {COLD_SPAN_K:g}))",
        (usable, slope, knee, room),
        limits=f"Cells as cold as the air; down to {COLD_SPAN_K:g} K below the knee. The maker's curve wins.",
    )


def plan_supply(ledger: Ledger) -> BankSupply:
    """Energy, BMS current, design current at the lowest voltage, power and fault current of the bank."""
    card, inverter = ledger.card("battery"), ledger.card("inverter")
    units, series, parallel = _counts(ledger)
    count, n_p = units.value, parallel.value
    energy = ledger.read(card, "energy_wh", "E_1", "Energy of one battery", "Wh")
    begin = ledger.decided("preferences.start_of_autonomy_pct", "S_0", "State of charge when the outage begins", "%")
    floor = _floor(ledger)
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
    _cold(ledger, usable)
    eta = ledger.read(inverter, "battery.efficiency", "eta", "Conversion efficiency", "")
    delivered = ledger.work(
        "bank.delivered", "E", "Energy delivered on the AC side", usable.value * eta.value, "Wh", "physics", "E_use * eta", (usable, eta)
    )
    one = ledger.read(card, "discharge_a", "I_1", "Continuous discharge of one battery", "A")
    bms = ledger.work(
        "bank.bms_a",
        "I_bms",
        "BMS limits together" if n_p > 1 else "Discharge limit of the bank",
        n_p * one.value,
        "A",
        "arith",
        "n_p * I_1",
        (parallel, one),
        limits="Holds while all batteries share alike: equal leads or a busbar." if n_p > 1 else "",
    )
    low = bank_volts(ledger, "v_low_operating", "V_low", "Lowest voltage in operation")
    output = ledger.read(inverter, "output_w", "P_inv", "Inverter output", "W")
    charge = ledger.read(inverter, "battery.charge_a", "I_chg", "Inverter's largest charge current", "A")
    drawn = ledger.work(
        "bank.drawn_a",
        "I_dis",
        "Battery current at full output and lowest voltage",
        dc.inverter_input_current_a(output.value, low.value, eta.value),
        "A",
        current_source(ledger.book.family),
        "P_inv / (V_low * eta)",
        (output, low, eta),
    )
    design = ledger.work(
        "bank.design_a",
        "I_b",
        "Design current of the battery circuit",
        max(drawn.value, charge.value),
        "A",
        current_source(ledger.book.family),
        "max(I_dis, I_chg)",
        (drawn, charge),
    )
    if inverter.battery.ripple:
        ledger.work(
            "bank.ripple_a",
            "I_rms",
            "Battery current with unsmoothed ripple, RMS",
            network.ripple_rms_a(drawn.value),
            "A",
            "cp.ripple",
            "I_dis * k_r",
            (drawn, RIPPLE),
            limits="The safe side for heating of lugs and fuse: the inverter's capacitors smooth part of it.",
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
        "Fault current at the busbars" if n_p > 1 else "Fault current at the bank's terminals",
        dc.bank_fault_current_a(fault_one.value, int(n_p)),
        "A",
        "physics",
        "n_p * I_k1",
        (parallel, fault_one),
        limits="Leads are neglected: the true current is lower.",
    )
    return BankSupply(units, series, parallel, usable, delivered, bms, design, power, fault)


def _check_fuse(ledger: Ledger, supply: BankSupply) -> None:
    fuse = ledger.card("switch_fuse")
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
    top = bank_volts(ledger, "v_max", "V_max", "Highest battery voltage")
    ledger.verdict(
        "DC-VOLTAGE",
        volts.value >= top.value,
        "battery fuse",
        f"The battery reaches {top.value:g} V; the device is rated {volts.value:g} V DC.",
        "Choose a device with a DC rating above the battery's voltage. An AC rating says nothing about DC.",
        found=top,
        limit=volts,
        field="equipment.switch_fuse",
    )


def _check_busbar_box(ledger: Ledger) -> None:
    """DC rating of the bars that the batteries meet on; a card that is silent about it is a stop."""
    if not ledger.has("busbar_box"):
        return
    box, top = ledger.card("busbar_box"), bank_volts(ledger, "v_max", "V_max", "Highest battery voltage")
    volts = ledger.read(box, "dc_voltage", "U_bar", "DC rating of the battery bars", "V") if box.dc_voltage is not None else None
    ledger.verdict(
        "DC-VOLTAGE",
        volts is not None and volts.value >= top.value,
        "battery bars",
        f"The battery reaches {top.value:g} V; the bars are rated {volts.value:g} V DC."
        if volts
        else f"{box.title} gives no DC rating; the battery reaches {top.value:g} V.",
        "Choose bars with a DC rating above the battery's voltage. An AC rating says nothing about DC.",
        found=top,
        limit=volts,
        field="equipment.busbar_box",
    )


def _check_unit_breakers(ledger: Ledger, supply: BankSupply) -> None:
    """The battery's own breaker against the largest fault at its place: from its own cells, or from the others beside it."""
    card, count = ledger.card("battery"), supply.parallel.value
    if card.breaker_a is None:
        return
    one = ledger.read(card, "fault_a", "I_k1", "Fault current of one battery", "A")
    worst = ledger.work(
        "bank.fault_at_breaker",
        "I_kb",
        "Largest fault current at a battery's own breaker",
        max(1.0, count - 1) * one.value,
        "A",
        "physics",
        "max(1, n_p - 1) * I_k1",
        (supply.parallel, one),
        limits="Beyond it from its own cells, before it from the other batteries.",
    )
    rating = card.breaker_interrupting_a
    own = (
        ledger.read(card, "breaker_interrupting_a", "I_cu1", "Interrupting rating of the battery's own breaker", "A")
        if rating is not None
        else None
    )
    ledger.verdict(
        "BANK-BREAKER-INTERRUPT",
        own is not None and own.value >= worst.value,
        "battery breakers",
        f"{worst.value:.0f} A may flow at a battery's own breaker; it breaks {own.value:.0f} A."
        if own
        else f"{card.title} does not say what its breaker breaks; {worst.value:.0f} A may flow there.",
        "Fit a fuse for each battery at the busbar, or ask the maker for the breaker's DC interrupting rating.",
        found=worst,
        limit=own,
        field="equipment.battery",
    )


def _check_series(ledger: Ledger, supply: BankSupply) -> None:
    card = ledger.card("battery")
    if not card.in_series:
        return
    least = ledger.read(card, "series_min", "n_lo", "Fewest units in series", "")
    most = ledger.read(card, "series_max", "n_hi", "Most units in series", "")
    ledger.verdict(
        "BANK-SERIES",
        least.value <= supply.series.value <= most.value,
        "bank",
        f"{supply.series.value:.0f} units stand in series; the maker allows {least.value:.0f} to {most.value:.0f}.",
        "Change the number of units.",
        found=supply.series,
        limit=most if supply.series.value > most.value else least,
    )


def _check_bank(ledger: Ledger) -> None:
    card, inverter, bank = ledger.card("battery"), ledger.card("inverter"), ledger.job.bank
    count = len(bank.units)
    most = ledger.read(card, "units_max", "n_max", "Most batteries in the bank", "")
    number = ledger.figures["bank.units"]
    ledger.verdict(
        "BANK-COUNT",
        count <= most.value,
        "bank",
        f"{count} batteries; the maker allows {most.value:.0f}.",
        "Take batteries off.",
        found=number,
        limit=most,
    )
    low, high = (
        ledger.read(inverter, "battery.v_min", "V_low", "Inverter's lowest battery voltage", "V"),
        ledger.read(inverter, "battery.v_max", "V_high", "Inverter's highest battery voltage", "V"),
    )
    bottom = bank_volts(ledger, "v_min", "V_min", "Lowest battery voltage")
    top = bank_volts(ledger, "v_max", "V_max", "Highest battery voltage")
    fits = low.value <= bottom.value and top.value <= high.value
    ledger.verdict(
        "BANK-WINDOW",
        fits,
        "bank",
        f"The battery works from {bottom.value:g} to {top.value:g} V; the inverter takes {low.value:g} to {high.value:g} V.",
        "Choose a battery inside the inverter's window.",
        found=top if top.value > high.value else bottom,
        limit=high if top.value > high.value else low,
        field="equipment.battery",
    )
    ledger.verdict(
        "BANK-CHEMISTRY",
        card.chemistry in inverter.battery.chemistries,
        "bank",
        f"The battery is {card.chemistry}; the inverter has settings for {', '.join(inverter.battery.chemistries)}.",
        "Choose a battery whose chemistry the inverter can be set for.",
        field="equipment.battery",
    )
    # Modules that dock are joined by the maker's own plug: only the list tells which ones fit.
    listed = inverter.battery.accepts
    ledger.verdict(
        "BANK-LIST",
        card.id in listed or not (listed or inverter.bank_internal),
        "bank",
        f"{card.title} is not on the battery list of {inverter.title}.",
        f"Choose one of: {', '.join(listed) or 'none is listed; ask the maker'}.",
        field="equipment.battery",
    )
    _check_cabling(ledger)
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


def _check_cabling(ledger: Ledger) -> None:
    bank, card = ledger.job.bank, ledger.card("battery")
    count = len(bank.units)
    if card.arrangement != "parallel":
        return
    ledger.verdict(
        "BANK-DAISY",
        bank.cabling == "busbar" or count <= (3 if bank.cabling == "diagonal" else 2),
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


def _precharge(ledger: Ledger) -> tuple[Figure, Figure]:
    inverter = ledger.card("inverter")
    ohm = ledger.read(inverter, "battery.precharge_ohm", "R", "Pre-charge resistor", "ohm")
    micro = ledger.read(inverter, "battery.input_capacitance_uf", "C", "Inverter's input capacitance", "uF")
    top = bank_volts(ledger, "v_max", "V_max", "Highest battery voltage")
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
        network.precharge_energy_j(top.value, micro.value * 1e-6),
        "J",
        "physics",
        "0.5 * C * 1e-6 * V_max ** 2",
        (micro, top),
    )
    return seconds, joule


def _lead_ohm(sized: Sized, i: int, ledger: Ledger) -> Figure:
    """Loop resistance of one battery's leads, from the resistance its drop was worked with."""
    per_km = ledger.figures[f"circuits.{sized.circuit.id}.ohm_per_km"]
    length = sized.length
    return ledger.work(
        f"bank.lead_ohm.{sized.circuit.id}",
        f"R_{i}",
        f"Leads of {sized.circuit.id}, there and back",
        2 * length.value / 1000 * per_km.value * 1000,
        "mohm",
        "physics",
        f"2 * {length.symbol} / 1000 * {per_km.symbol} * 1000",
        (length, per_km),
    )


def _shares(ledger: Ledger, supply: BankSupply, leads: list[Sized]) -> tuple[Figure, ...]:
    """What each battery of a parallel bank carries of the design current: the network of leads and cells solved."""
    card, bank = ledger.card("battery"), ledger.job.bank
    if len(leads) < 2 or len(leads) != len(bank.units):
        return ()
    cell = ledger.read(card, "cell_mohm", "R_c", "Resistance inside one battery", "mohm")
    ohms = [_lead_ohm(z, i, ledger) for i, z in enumerate(leads)]
    cells = [cell.value] * len(leads)
    if bank.cabling == "busbar":
        amps = network.busbar_shares_a(supply.design_a.value, [f.value for f in ohms], cells)
    else:
        # In a chain the first lead goes to the take-off; each later one joins a battery to its neighbour.
        amps = network.chain_shares_a(supply.design_a.value, cells, [f.value / 2 for f in ohms[1:]], bank.cabling == "diagonal")
    paths = " + ".join(f"1 / (R_c + {f.symbol})" for f in ohms)
    shares = tuple(
        ledger.work(
            f"bank.share.{unit.id}",
            f"I_{unit.id.replace('-', '_')}",
            f"Share of {unit.id} at the design current",
            amps[i],
            "A",
            "cp.share",
            f"I_b / (R_c + {ohms[i].symbol}) / ({paths})" if bank.cabling == "busbar" else "",
            (supply.design_a, cell, *ohms),
            limits="All cells at one voltage. " + ("" if bank.cabling == "busbar" else "Chain solved node by node by Kirchhoff's laws."),
        )
        for i, unit in enumerate(bank.units)
    )
    worst = max(shares, key=lambda f: f.value)
    one = ledger.read(card, "discharge_a", "I_1", "Continuous discharge of one battery", "A")
    ledger.verdict(
        "BANK-SHARE",
        worst.value <= one.value + 1e-9,
        "bank",
        f"{worst.name[9:].split(' at ')[0]} would carry {worst.value:.1f} A of {supply.design_a.value:.1f} A; one battery gives {one.value:g} A.",
        "Make the leads alike, use busbars, add a battery, or lower the inverter's battery current.",
        found=worst,
        limit=one,
        field="bank.cabling",
    )
    return shares


def _fault_with_leads(ledger: Ledger, supply: BankSupply, main: Sized | None) -> None:
    """Fault current at the inverter's terminals, main cable counted: what the fuse really sees there."""
    if main is None or f"circuits.{main.circuit.id}.ohm_per_km" not in ledger.figures:
        return
    top = bank_volts(ledger, "v_max", "V_max", "Highest battery voltage")
    inner = ledger.work(
        "bank.inner_mohm",
        "R_b",
        "Resistance inside the bank, from its fault current",
        1000 * top.value / supply.fault_a.value,
        "mohm",
        "physics",
        "1000 * V_max / I_k",
        (top, supply.fault_a),
    )
    cable = _lead_ohm(main, 99, ledger)
    ledger.work(
        "bank.fault_far_a",
        "I_k_far",
        "Fault current at the inverter's end of the main cable",
        network.fault_current_a(top.value, [inner.value / 1000], [0.0], cable.value / 1000),
        "A",
        "physics",
        f"1000 * V_max / (R_b + {cable.symbol})",
        (top, inner, cable),
        limits="The fuse must break the larger current at the busbars, and still operate at this one.",
    )


def _check_length(ledger: Ledger, main: Sized | None) -> None:
    inverter = ledger.card("inverter")
    if main is None or inverter.battery.cable_max_m is None:
        return
    most = ledger.read(inverter, "battery.cable_max_m", "L_max", "Longest battery cable", "m")
    ledger.verdict(
        "BANK-LENGTH",
        main.length.value <= most.value,
        "bat-main",
        f"The battery cable is {main.length.value:g} m long; the inverter's maker allows {most.value:g} m.",
        "Stand the battery nearer to the inverter.",
        found=main.length,
        limit=most,
        field="runs.bat-main.length_m",
    )


def _device_link(ledger: Ledger, supply: BankSupply) -> tuple[Link | None, Figure | None]:
    """What the battery's device carries for hours: 80 % of its rating by NEC, all of it by IEC."""
    if ledger.has("switch_fuse"):
        rated, title = ledger.read(ledger.card("switch_fuse"), "rated_a", "I_n", "Fuse rating", "A"), "fuse, continuous"
    elif ledger.card("battery").breaker_a is not None and ledger.card("battery").arrangement != "docked":
        rated, title = ledger.read(ledger.card("battery"), "breaker_a", "I_n", "Battery's own breaker", "A"), "breaker, continuous"
        if supply.parallel.value > 1:
            return None, None
    else:
        return None, None
    share = 0.8 if ledger.book.family == "nec" else 1.0
    amps = ledger.work(
        "bank.fuse_continuous",
        "I_fuse",
        f"Device at {100 * share:.0f} % for continuous current",
        share * rated.value,
        "A",
        "nec.210.19" if share < 1 else "iec.43.433",
        f"{share} * I_n",
        (rated,),
    )
    return Link(title, amps), rated


def plan_bank(ledger: Ledger, supply: BankSupply, sized: dict[str, Sized]) -> BankPlan:
    """Join the supply with its cables and devices into the chain, and check them."""
    inverter = ledger.card("inverter")
    main, leads = sized.get("bat-main"), [sized[u.id] for u in ledger.job.bank.units if u.id in sized]
    if ledger.has("switch_fuse"):
        _check_fuse(ledger, supply)
    _check_unit_breakers(ledger, supply)
    _check_busbar_box(ledger)
    _check_series(ledger, supply)
    _check_bank(ledger)
    _check_length(ledger, main)
    links = [Link(f"{len(ledger.job.bank.units)} BMS" if supply.parallel.value > 1 else "battery", supply.bms_a)]
    if leads and len(leads) == len(ledger.job.bank.units):
        weakest_lead = min((z.ampacity for z in leads), key=lambda f: f.value)
        together = ledger.work(
            "bank.leads_a",
            "I_leads",
            "Leads together",
            supply.parallel.value * weakest_lead.value,
            "A",
            "arith",
            "n_p * I_z",
            (supply.parallel, weakest_lead),
        )
        links.append(Link("battery leads", together))
    if ledger.has("busbar_box"):
        links.append(Link("busbars", ledger.read(ledger.card("busbar_box"), "busbar_a", "I_bar", "Busbar rating", "A")))
    device, rated = _device_link(ledger, supply)
    if device is not None:
        links.append(device)
    if "interlinks" in sized:
        links.append(Link("links", sized["interlinks"].ampacity))
    if main is not None:
        links.append(Link("main leads", main.ampacity))
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
    shares = _shares(ledger, supply, leads)
    _fault_with_leads(ledger, supply, main)
    reserve = ledger.decided("settings.reserve_pct", "S_res", "Reserve", "%")
    floor, card = _floor(ledger), ledger.card("battery")
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
    return BankPlan(supply, tuple(links), weakest, held, *_precharge(ledger), shares, rated)
