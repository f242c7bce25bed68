"""The whole settings sheet."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from gumboot.core.card import InverterCard
from gumboot.core.expression import least
from gumboot.core.figure import Figure
from gumboot.core.installation import House
from gumboot.core.job.model import TariffWindow
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import BankPlan, OneBank, banks_of
from gumboot.core.plan.links import BatteryBus, LinksPlan
from gumboot.core.plan.sensing import permit_of
from gumboot.core.plan.settings.control import check_control
from gumboot.core.plan.settings.limits import charge_limits
from gumboot.core.plan.settings.line import CAPACITY_SHARE, Setting
from gumboot.core.plan.settings.tariff import reserve_hours, tariff_by_half
from gumboot.core.plan.settings.thresholds import beside_thresholds, charge_thresholds, thresholds
from gumboot.core.rules import settings as rules
from gumboot.core.values import Values


class ChargeRuler(Values):
    """The voltages of one bank in their order. ``of`` names it where there are several."""

    bank: str
    of: str
    linked: bool
    thresholds: tuple[Setting, ...]
    v_min: Figure
    v_max: Figure


class SettingsPlan(Values):
    """The whole sheet, the charge ruler of each bank whose card gives thresholds, and the tariff by half hour."""

    sheet: tuple[Setting, ...]
    rulers: tuple[ChargeRuler, ...]
    tariff_by_half: tuple[tuple[TariffWindow, ...], ...]


BONDS = {"relay": "on in island", "fixed in gateway": "fixed in the gateway"}
SUPPLIES = ("single phase 230 V", "split phase 120/240 V", "three phase 230/400 V")
# Three-phase systems are called by rounded voltages: line to neutral, and between lines (IEC 60038 table 1; ANSI C84.1; from memory).
LINE_V: dict[float, float] = {120: 208, 230: 400, 240: 415, 277: 480}
# What the inverter is told first and last.
CLOCK = Setting(
    key="clock", group="First", title="Clock and time zone", why="tariff windows and the log need it", text="set to local time", time=True
)
PASSWORD = Setting(
    key="password",
    group="Last",
    title="Default passwords",
    why="a default password is an open door",
    text="changed",
    also=("yes", "done", "all changed", "changed all"),
)


def supply_text(inverter: InverterCard) -> str:
    """The supply as people write it: kind and voltages."""
    if inverter.output == "single phase":
        return f"single phase {inverter.output_v:g} V"
    return f"{inverter.output} {inverter.leg_v:g}/{inverter.output_v:g} V"


def supply_of(house: House) -> str:
    """As ``supply_text``, of what the inverters make together; parts that feed apart may each make their own."""
    card, apart = house.lead.card, house.islands
    if len(apart) > 1:
        return " and ".join(dict.fromkeys(supply_of(part) for part in apart))
    if house.output == card.output:
        return supply_text(card)
    between = 2 * card.leg_v if house.output == "split phase" else LINE_V.get(card.leg_v, round(card.leg_v * 3**0.5))
    return f"{house.output} {card.leg_v:g}/{between:g} V"


def _units(links: LinksPlan) -> list[Setting]:
    """What each inverter of a group is told of its place in it."""
    found: list[Setting] = []
    for unit in (u for group in links.groups for u in group.units):
        title, thing = unit.title, unit.seat.thing
        role, others = ("leader", ("master",)) if unit.leads else ("follower", ("slave",))
        place, group = f"its place on the link: address {unit.wanted_address}", "Group"
        found.append(
            Setting(key=f"unit-{thing.id}-role", group=group, title=f"{title}: role", why="one leads, the others follow", text=role,
                    choices=("leader", "follower"), also=others, guards="life")
        )  # fmt: skip
        found.append(
            Setting(key=f"unit-{thing.id}-address", group=group, title=f"{title}: address", why=place, text=str(unit.wanted_address))
        )
        if thing.phase is not None:
            why = "which leg it makes, and the rotation of all"
            found.append(
                Setting(key=f"unit-{thing.id}-phase", group=group, title=f"{title}: phase", why=why, text=thing.phase,
                        choices=("L1", "L2", "L3"), guards="life")
            )  # fmt: skip
    return found


def _first(ledger: Ledger, links: LinksPlan) -> list[Setting]:
    supply = supply_of(ledger.house)
    m, title = ledger.house.mark, ledger.titled("Supply type")
    grid = Setting(key=f"grid_type{m}", group="First", title=title, why="the site's supply", text=supply, choices=SUPPLIES, guards="grid")
    own = {bank.id for bank in banks_of(ledger)}
    return [grid, _told(ledger, CLOCK), *(_protocol(bus) for bus in links.wired if bus.seat.id in own)]


def _told(ledger: Ledger, row: Setting) -> Setting:
    """A row that the inverters of every island are told alike."""
    return row.but(key=f"{row.key}{ledger.house.mark}", title=ledger.titled(row.title)) if ledger.house.is_apart else row


def _protocol(bus: BatteryBus) -> Setting:
    spoken = f"{bus.protocol.number} · {bus.protocol.name}" if bus.protocol else "not chosen"
    why, title = "must equal the one set in every battery", f"Battery protocol{bus.of}"
    return Setting(key=f"protocol{bus.mark}", group="Battery", title=title, why=why, text=spoken, guards="life")


def _capacity(bank: OneBank, plan: BankPlan) -> Setting:
    hours = plan.supply.units * bank.ledger.read(bank.card, "energy_wh") / bank.volts("nominal_v")
    figure, title = bank.work("settings.capacity", "Q", "Battery capacity", hours, "Ah", source="arith"), bank.of("Battery capacity")
    return Setting(key=f"capacity{bank.mark}", group="Battery", title=title, why="the whole bank", figure=figure, share=CAPACITY_SHARE)


def _control(ledger: Ledger, has_thresholds: bool) -> Setting:
    comms = ledger.job.settings.comms
    stand_by = "; the fallback voltages stand by" if has_thresholds else ""
    why = f"the BMS commands{stand_by}" if comms == "closed loop" else "voltages command: no link to the BMS"
    choices = ("closed loop", "open loop")
    return Setting(key="comms", group="Battery", title="Control", why=why, text=comms, choices=choices, guards="life")


def _currents(bank: OneBank, plan: BankPlan) -> list[Setting]:
    charge, discharge = charge_limits(bank, plan)
    several, m = len(bank.inverters) > 1, bank.mark
    each = ", each inverter" if several else ""
    weakest = "smallest of its part of the bank, inverter, fuse and cable" if several else "smallest of bank, inverter, fuse and cable"
    title, other = bank.of(f"Charge limit{each}"), bank.of(f"Discharge limit{each}")
    return [
        Setting(key=f"charge_a{m}", group="Battery", title=title, why=weakest, figure=charge, guards="life", safer="lower"),
        Setting(key=f"discharge_a{m}", group="Battery", title=other, why=weakest, figure=discharge, guards="life", safer="lower"),
    ]


def _from_grid(ledger: Ledger) -> Setting:
    """One current for each inverter, whatever its bank."""
    title = "Charge from generator" if ledger.job.site.supply == "none" else "Charge from grid"
    why, amps = "within the charge limit and what feeds it", ledger.decided("settings.grid_charge_a")
    return Setting(key="grid_charge_a", group="Battery", title=title, why=why, figure=amps, guards="life", safer="lower")


def _export(ledger: Ledger) -> Setting | None:
    """What is fed in at most: the utility's permit, or all that an inverter can be set to where that is less."""
    inverter = ledger.seats.inverter
    gives_back = ledger.house.joins_grid and inverter.role != "off-grid"
    whole = ledger.asked("site.export_limit_w") if gives_back else None
    if whole is None:
        return None
    permit = permit_of(ledger, whole)
    why, figure = "the utility's permit" if permit is whole else "its share of the utility's permit: its CTs see its own lines", permit
    most = next((r.high for r in inverter.settings if r.key == "export_w" and r.high < permit.value), None)
    if most is not None:
        own = ledger.from_card(inverter.id, "settings.export_w.high", "P_hi", "Largest export limit the inverter accepts", most, unit="W")
        why = "all that the inverter can be set to; the utility permits more"
        key, name = ledger.key("settings.export_w"), ledger.titled("Export limit to set")
        figure = ledger.work(key, "P_exp", name, least(permit, own), "W", source="arith")
    return Setting(key=f"export_w{ledger.house.mark}", group="Working", title=ledger.titled("Export limit"), why=why, figure=figure,
                   guards="grid", safer="lower")  # fmt: skip


def _working(ledger: Ledger, hours: Figure) -> list[Setting]:
    job, inverter = ledger.job, ledger.seats.inverter
    modes, mode = ("self-use", "backup", "timed"), job.settings.work_mode
    carries = f"carries {hours.value:.1f} h of the backed-up side"
    m, kept = ledger.house.mark, ledger.decided("settings.reserve_pct")
    rows = [
        Setting(key=f"work_mode{m}", group="Working", title=ledger.titled("Work mode"), why="the owner's wish", text=mode, choices=modes),
        Setting(key=f"reserve_pct{m}", group="Working", title=ledger.titled("Reserve"), why=carries, figure=kept, safer="higher"),
    ]
    export = _export(ledger)
    if export is not None:
        rows.append(export)
    allows, several = inverter.parallel, len(ledger.seats.inverters) > 1
    leads_alone = several and inverter.neutral_bond == "relay" and allows is not None and allows.bond == "leader only"
    bond = Setting(
        key=f"bond{m}",
        group="Working",
        title=ledger.titled("Neutral bond relay"),
        why="exactly one bond in every mode" + (": on in the leader, off in every other" if leads_alone else ""),
        text=BONDS.get(inverter.neutral_bond, "none"),
        choices=(*BONDS.values(), "none"),
        also=("yes", "enabled") if inverter.neutral_bond == "relay" else (),
        guards="life",
    )
    return [*rows, bond]


def _check_ranges(bank: OneBank, sheet: list[Setting]) -> None:
    """Every line against the range that the inverter of its bank accepts; what is not of a bank, against that of each."""
    ledger, by_key = bank.ledger, {s.key: s for s in sheet}
    for limits in bank.inverter.settings:
        keys = (f"{limits.key}{bank.mark}", f"{limits.key}{ledger.house.mark}", limits.key)
        row = next((by_key[key] for key in keys if key in by_key), None)
        if row is not None and row.figure is not None:
            facts = rules.Accepted(title=row.title, value=row.figure, low=limits.low, high=limits.high, unit=limits.unit)
            ledger.ask(rules.inverter_accepts, facts)


def _ruler(bank: OneBank, plan: BankPlan, linked: bool) -> ChargeRuler:
    rows = thresholds(bank, plan.supply)
    return ChargeRuler(bank=bank.id, of=bank.of(""), linked=linked, thresholds=rows, v_min=bank.volts("v_min"), v_max=bank.volts("v_max"))


def plan_settings(ledger: Ledger, plans: Sequence[BankPlan], profiles_w: Mapping[str, Sequence[float]], links: LinksPlan) -> SettingsPlan:
    """Work out the Settings station. ``profiles_w`` is the day of the backed-up side of each island, by its leader."""
    banks = tuple(zip(banks_of(ledger), plans, strict=True))
    currents = [row for bank, plan in banks for row in _currents(bank, plan)]
    wired = {bus.seat.id for bus in links.wired}
    check_control(ledger, [bank for bank, _ in banks])
    rulers = tuple(_ruler(bank, plan, bank.id in wired) for bank, plan in banks)
    beside = [
        row for (bank, plan), ruler in zip(banks, rulers, strict=True) for row in beside_thresholds(bank, plan.supply, ruler.thresholds)
    ]
    sheet = [
        *[row for part in ledger.islands for row in _first(part, links)],
        *_units(links),
        *[_capacity(bank, plan) for bank, plan in banks],
        *currents,
        _from_grid(ledger),
        _control(ledger, any(ruler.thresholds for ruler in rulers)),
        *[row for part in ledger.islands for row in _working(part, reserve_hours(part, plans, profiles_w[part.house.lead.id]))],
        *[_told(part, PASSWORD) for part in ledger.islands],
        *[row for ruler in rulers for row in ruler.thresholds],
        *beside,
        *charge_thresholds(ledger, [bank for bank, _ in banks]),
    ]
    for part in ledger.islands:
        for bank in banks_of(part):
            _check_ranges(bank, sheet)
    return SettingsPlan(sheet=tuple(sheet), rulers=tuple(r for r in rulers if r.thresholds), tariff_by_half=tariff_by_half(ledger))
