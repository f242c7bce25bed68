"""The whole settings sheet."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from gumboot.core.card import InverterCard
from gumboot.core.figure import Figure
from gumboot.core.installation import House
from gumboot.core.job.model import TariffWindow
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import BankPlan, bank_nominal_v, bank_volts
from gumboot.core.plan.links import LinksPlan
from gumboot.core.plan.settings.limits import charge_limits
from gumboot.core.plan.settings.line import Setting
from gumboot.core.plan.settings.tariff import reserve_hours, tariff_by_hour
from gumboot.core.plan.settings.thresholds import thresholds
from gumboot.core.rules import settings as rules


@dataclass(frozen=True)
class SettingsPlan:
    """The whole sheet with the thresholds of the charge ruler and the tariff by hour."""

    sheet: tuple[Setting, ...]
    thresholds: tuple[Setting, ...]
    tariff_by_hour: tuple[tuple[TariffWindow, ...], ...]
    v_min: Figure
    v_max: Figure


BONDS = {"relay": "on in island", "fixed in gateway": "fixed in the gateway"}
SUPPLIES = ("single phase 230 V", "split phase 120/240 V", "three phase 230/400 V")
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
    """As ``supply_text``, of what the inverters make together."""
    card = house.lead.card
    if house.output == card.output:
        return supply_text(card)
    between = card.leg_v * (2 if house.output == "split phase" else 3**0.5)
    return f"{house.output} {card.leg_v:g}/{between:.0f} V"


def _units(links: LinksPlan) -> list[Setting]:
    """What each inverter of a group is told of its place in it."""
    found: list[Setting] = []
    for unit in links.group.units if links.group else ():
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
    grid = Setting(
        key="grid_type", group="First", title="Supply type", why="the site's supply", text=supply, choices=SUPPLIES, guards="grid"
    )
    if not links.inverter_port:
        return [grid, CLOCK]
    spoken = f"{links.protocol.number} · {links.protocol.name}" if links.protocol else "not chosen"
    why = "must equal the one set in every battery"
    return [grid, CLOCK, Setting(key="protocol", group="Battery", title="Battery protocol", why=why, text=spoken, guards="life")]


def _capacity(ledger: Ledger, bank: BankPlan) -> Setting:
    hours = bank.supply.units * ledger.read(ledger.seats.battery, "energy_wh") / bank_nominal_v(ledger)
    figure = ledger.work("settings.capacity", "Q", "Battery capacity", hours, "Ah", "arith")
    return Setting(key="capacity", group="Battery", title="Battery capacity", why="the whole bank", figure=figure)


def _control(ledger: Ledger, has_thresholds: bool) -> Setting:
    comms = ledger.job.settings.comms
    stand_by = "; the fallback voltages stand by" if has_thresholds else ""
    why = f"the BMS commands{stand_by}" if comms == "closed loop" else "voltages command: no link to the BMS"
    choices = ("closed loop", "open loop")
    return Setting(key="comms", group="Battery", title="Control", why=why, text=comms, choices=choices, guards="life")


def _currents(ledger: Ledger, limits: tuple[Figure, Figure, Figure]) -> list[Setting]:
    charge, discharge, from_grid = limits
    several = len(ledger.seats.inverters) > 1
    each = ", each inverter" if several else ""
    weakest = "smallest of its part of the bank, inverter, fuse and cable" if several else "smallest of bank, inverter, fuse and cable"
    source = "Charge from generator" if ledger.job.site.supply == "none" else "Charge from grid"
    within = "within the charge limit and what feeds it"
    return [
        Setting(key="charge_a", group="Battery", title=f"Charge limit{each}", why=weakest, figure=charge, guards="life"),
        Setting(key="discharge_a", group="Battery", title=f"Discharge limit{each}", why=weakest, figure=discharge, guards="life"),
        Setting(key="grid_charge_a", group="Battery", title=source, why=within, figure=from_grid, guards="life"),
    ]


def _working(ledger: Ledger, hours: Figure) -> list[Setting]:
    job, inverter = ledger.job, ledger.seats.inverter
    modes, mode = ("self-use", "backup", "timed"), job.settings.work_mode
    carries = f"carries {hours.value:.1f} h of the backed-up side"
    rows = [
        Setting(key="work_mode", group="Working", title="Work mode", why="the owner's wish", text=mode, choices=modes),
        Setting(key="reserve_pct", group="Working", title="Reserve", why=carries, figure=ledger.decided("settings.reserve_pct")),
    ]
    gives_back = job.site.supply != "none" and inverter.role != "off-grid"
    export = ledger.asked("site.export_limit_w") if gives_back else None
    if export:
        why = "the utility's permit"
        rows.append(Setting(key="export_w", group="Working", title="Export limit", why=why, figure=export, guards="grid"))
    allows, several = inverter.parallel, len(ledger.seats.inverters) > 1
    leads_alone = several and inverter.neutral_bond == "relay" and allows is not None and allows.bond == "leader only"
    bond = Setting(
        key="bond",
        group="Working",
        title="Neutral bond relay",
        why="exactly one bond in every mode" + (": on in the leader, off in every other" if leads_alone else ""),
        text=BONDS.get(inverter.neutral_bond, "none"),
        choices=(*BONDS.values(), "none"),
        also=("yes", "enabled") if inverter.neutral_bond == "relay" else (),
        guards="life",
    )
    return [*rows, bond]


def _check_ranges(ledger: Ledger, sheet: list[Setting]) -> None:
    by_key = {s.key: s for s in sheet}
    for limits in ledger.seats.inverter.settings:
        row = by_key.get(limits.key)
        if row is not None and row.figure is not None:
            facts = rules.Accepted(title=row.title, value=row.figure, low=limits.low, high=limits.high, unit=limits.unit)
            ledger.ask(rules.inverter_accepts, facts)


def plan_settings(
    ledger: Ledger, bank: BankPlan, profile_w: Sequence[float], links: LinksPlan, main_ampacity: Figure | None
) -> SettingsPlan:
    """Work out the Settings station."""
    currents = _currents(ledger, charge_limits(ledger, bank, main_ampacity))
    rows = thresholds(ledger)
    sheet = [
        *_first(ledger, links),
        *_units(links),
        _capacity(ledger, bank),
        *currents,
        _control(ledger, bool(rows)),
        *_working(ledger, reserve_hours(ledger, bank, profile_w)),
        PASSWORD,
        *rows,
    ]
    _check_ranges(ledger, sheet)
    hours = tariff_by_hour(ledger)
    return SettingsPlan(tuple(sheet), rows, hours, bank_volts(ledger, "v_min"), bank_volts(ledger, "v_max"))
