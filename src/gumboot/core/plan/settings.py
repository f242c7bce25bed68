"""What is set in the inverter, and why each value?"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from gumboot.core.card import InverterCard
from gumboot.core.errors import BadFigure
from gumboot.core.figure import Figure
from gumboot.core.job.model import TariffWindow
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import BankPlan, bank_nominal_v, bank_volts
from gumboot.core.plan.links import LinksPlan
from gumboot.core.plan.loads import LoadsPlan

ORDER = (
    ("cut_now_v", "Cut at once"),
    ("cut_off_v", "Cut off"),
    ("alarm_v", "Low alarm"),
    ("grid_takeover_v", "Grid takes over"),
    ("recover_v", "Recover"),
    ("grid_release_v", "Grid released"),
    ("float_v", "Float"),
    ("absorb_v", "Absorb"),
)


@dataclass(frozen=True)
class Setting:
    """One line of the sheet: what to set and why. Exactly one of ``figure`` and ``text`` is given.

    ``choices`` are all that the device offers where it is a choice, ``also`` other right words for the one asked. ``guards`` says what a
    difference would touch: one that guards something counts only when a licence holder agrees to it.
    """

    key: str
    group: str
    title: str
    why: str
    figure: Figure | None = None
    text: str = ""
    choices: tuple[str, ...] = ()
    also: tuple[str, ...] = ()
    guards: Literal["", "life", "licence", "grid"] = ""
    time: bool = False

    @property
    def amount(self) -> Figure:
        """The figure of a numeric line. Raises BadFigure for a line of words."""
        if self.figure is None:
            raise BadFigure(f"{self.key} is set in words")
        return self.figure


@dataclass(frozen=True)
class SettingsPlan:
    """The whole sheet with the thresholds of the charge ruler and the tariff by hour."""

    sheet: tuple[Setting, ...]
    thresholds: tuple[Setting, ...]
    tariff_by_hour: tuple[tuple[TariffWindow, ...], ...]
    v_min: Figure
    v_max: Figure


def window_hours(window: TariffWindow) -> set[int]:
    """Hours of the day a tariff window covers; it may wrap midnight."""
    if window.from_hour < window.to_hour:
        return set(range(window.from_hour, window.to_hour))
    return set(range(window.from_hour, 24)) | set(range(window.to_hour % 24))


def _limit(ledger: Ledger, key: str, name: str, wanted_path: str, wanted: float | None, code: str, parts: Sequence[Figure]) -> Figure:
    most = ledger.work(
        f"settings.{key}_most",
        "I_most",
        f"Most that every link allows, {name.lower()}",
        min(p.value for p in parts),
        "A",
        "arith",
        f"min({', '.join(p.symbol for p in parts)})",
        tuple(parts),
    )
    if wanted is None:
        return ledger.work(f"settings.{key}", "I_set", name, most.value, "A", "arith", "I_most", (most,))
    asked = ledger.decided(wanted_path, "I_want", f"{name} wanted", "A")
    ledger.verdict(
        code,
        asked.value <= most.value + 1e-9,
        name.lower(),
        f"{asked.value:g} A is asked; the weakest link allows {most.value:.1f} A.",
        f"Set {most.value:.0f} A or less.",
        found=asked,
        limit=most,
        field=wanted_path,
    )
    return ledger.work(f"settings.{key}", "I_set", name, min(asked.value, most.value), "A", "arith", "min(I_want, I_most)", (asked, most))


def _thresholds(ledger: Ledger) -> tuple[tuple[Setting, ...], Figure, Figure]:
    card, want = ledger.card("battery"), ledger.job.settings
    low, high = (
        bank_volts(ledger, "v_min"),
        bank_volts(ledger, "v_max"),
    )
    ledger.verdict(
        "SET-EQUALISE",
        not want.equalise or card.chemistry == "lead-acid flooded",
        "equalise",
        f"Equalising is switched on for a {card.chemistry} battery: it overcharges cells that cannot vent.",
        "Switch equalising off.",
        field="settings.equalise",
    )
    if card.open_loop is None:
        return (), low, high
    rows: list[Setting] = []
    for key, title in ORDER:
        chosen = getattr(want, key, None)
        figure = ledger.decided(f"settings.{key}", f"V_{key}", title, "V") if chosen is not None else bank_volts(ledger, f"open_loop.{key}")
        why = "the battery card's open-loop value" if chosen is None else "chosen by this job"
        used = "used when the battery stops talking" if card.data_ports else "the inverter works by it"
        rows.append(Setting(key, "Fallback voltages", title, f"{why}; {used}", figure, guards="life"))
    for below, above in itertools.pairwise(rows):
        loose = below.key == "float_v"
        ok = below.amount.value <= above.amount.value if loose else below.amount.value < above.amount.value
        ledger.verdict(
            "SET-ORDER",
            ok,
            f"{below.title} and {above.title}",
            f"{below.title} is {below.amount.value:g} V and {above.title} {above.amount.value:g} V: they must rise in this order.",
            "Use the card's value for the one that was changed.",
            found=below.amount,
            limit=above.amount,
            field=f"settings.{above.key}" if hasattr(want, above.key) else f"settings.{below.key}",
        )
    for row in rows:
        ledger.verdict(
            "SET-VOLTAGE-RANGE",
            low.value <= row.amount.value <= high.value,
            row.title,
            f"{row.title} is {row.amount.value:g} V; the battery lives between {low.value:g} and {high.value:g} V.",
            "Use the card's value.",
            found=row.figure,
            limit=high,
            field=f"settings.{row.key}" if hasattr(want, row.key) else "",
        )
    return tuple(rows), low, high


def _tariff(ledger: Ledger) -> tuple[tuple[TariffWindow, ...], ...]:
    windows = ledger.job.settings.tariff
    hours = tuple(tuple(w for w in windows if h in window_hours(w)) for h in range(24))
    clash = sorted({tuple(w.title for w in ws) for ws in hours if len(ws) > 1})
    for titles in clash:
        ledger.verdict(
            "SET-TARIFF-OVERLAP",
            False,
            " and ".join(titles),
            f"{' and '.join(titles)} overlap: one hour has two prices.",
            "End one where the other begins.",
            field=f"settings.tariff.{next(w.id for w in windows if w.title == titles[1])}.from_hour",
        )
    for w in windows:
        ledger.verdict(
            "SET-TARIFF-PEAK",
            not (w.grid_charge and w.kind == "peak"),
            w.title,
            f"{w.title} charges from the grid at the dearest price.",
            "Charge off-peak.",
            field=f"settings.tariff.{w.id}.grid_charge",
        )
    return hours


def _reserve(ledger: Ledger, bank: BankPlan, loads: LoadsPlan) -> Figure:
    mean = ledger.work(
        "settings.mean",
        "P_mean",
        "Mean demand of the backed-up side over a day",
        sum(loads.profile_w) / 24,
        "W",
        "physics",
        limits="Running power times duty within its hours, and the inverter's own draw.",
    )
    hours = ledger.work(
        "settings.reserve_hours",
        "t_res",
        "Hours the reserve carries",
        bank.reserve_wh.value / mean.value,
        "h",
        "house.reserve",
        "E_res / P_mean",
        (bank.reserve_wh, mean),
    )
    wish = ledger.decided("settings.outage_hours", "t_want", "Outage to be carried from the reserve", "h")
    ledger.verdict(
        "SET-RESERVE-SHORT",
        hours.value >= wish.value,
        "reserve",
        f"The reserve carries {hours.value:.1f} h; {wish.value:g} h are wished.",
        "Raise the reserve, back up less, or add a battery.",
        found=hours,
        limit=wish,
        field="settings.reserve_pct",
    )
    return ledger.decided("settings.reserve_pct", "S_res", "Reserve", "%")


def _ranges(ledger: Ledger, sheet: Sequence[Setting]) -> None:
    inverter = ledger.card("inverter")
    by_key = {s.key: s for s in sheet}
    for limits in inverter.settings:
        row = by_key.get(limits.key)
        if row is not None and row.figure is not None:
            ledger.verdict(
                "SET-RANGE",
                limits.low <= row.figure.value <= limits.high,
                row.title,
                f"{row.title} is {row.figure.value:g} {limits.unit}; the inverter accepts {limits.low:g} to {limits.high:g}.",
                "Choose a value the inverter accepts.",
                found=row.figure,
            )


BONDS = {"relay": "on in island", "fixed in gateway": "fixed in the gateway"}
SUPPLIES = ("single phase 230 V", "split phase 120/240 V", "three phase 230/400 V")


def supply_text(inverter: InverterCard) -> str:
    """The supply as people write it: kind and voltages."""
    if inverter.output == "single phase":
        return f"single phase {inverter.output_v:g} V"
    return f"{inverter.output} {inverter.leg_v:g}/{inverter.output_v:g} V"


def plan_settings(ledger: Ledger, bank: BankPlan, loads: LoadsPlan, links: LinksPlan, main_ampacity: Figure | None) -> SettingsPlan:
    """Work out the Settings station."""
    card, inverter, job = ledger.card("battery"), ledger.card("inverter"), ledger.job
    one = ledger.read(card, "charge_a", "I_c1", "Continuous charge of one battery", "A")
    together = ledger.work(
        "settings.bank_charge",
        "I_bank",
        "Bank's charge limit",
        bank.supply.parallel.value * one.value,
        "A",
        "arith",
        "n_p * I_c1",
        (bank.supply.parallel, one),
    )
    fuse = ledger.figures.get("bank.fuse_continuous")
    cable = (*((fuse,) if fuse else ()), *((main_ampacity,) if main_ampacity else ()))
    charge = _limit(
        ledger,
        "charge_a",
        "Charge limit",
        "settings.charge_a",
        job.settings.charge_a,
        "SET-CHARGE-OVER",
        (together, ledger.read(inverter, "battery.charge_a", "I_inv", "Inverter's largest charge current", "A"), *cable),
    )
    discharge = _limit(
        ledger,
        "discharge_a",
        "Discharge limit",
        "settings.discharge_a",
        job.settings.discharge_a,
        "SET-DISCHARGE-OVER",
        (bank.supply.bms_a, ledger.read(inverter, "battery.discharge_a", "I_inv", "Inverter's largest battery current", "A"), *cable),
    )
    grid_charge = ledger.decided("settings.grid_charge_a", "I_gc", "Charge current from the grid", "A")
    ledger.verdict(
        "SET-GRID-CHARGE",
        grid_charge.value <= charge.value,
        "grid charge",
        f"{grid_charge.value:g} A from the grid is above the charge limit of {charge.value:.0f} A.",
        "Lower it.",
        found=grid_charge,
        limit=charge,
        field="settings.grid_charge_a",
    )
    energy = ledger.read(card, "energy_wh", "E_1", "Energy of one battery", "Wh")
    nominal = bank_nominal_v(ledger)
    capacity = ledger.work(
        "settings.capacity",
        "Q",
        "Battery capacity",
        bank.supply.units.value * energy.value / nominal.value,
        "Ah",
        "arith",
        "n * E_1 / V_n",
        (bank.supply.units, energy, nominal),
    )
    gives_back = job.site.supply != "none" and inverter.role != "off-grid"
    export = None
    if gives_back:
        export = ledger.asked(
            "site.export_limit_w", "P_exp", "Export the utility permits", "W", "survey", "How much may be exported?", "The export limit"
        )
    rows, low, high = _thresholds(ledger)
    reserve = _reserve(ledger, bank, loads)
    protocol = f"{links.protocol.number} · {links.protocol.name}" if links.protocol else "not chosen"
    sheet = [
        Setting("grid_type", "First", "Supply type", "the site's supply", text=supply_text(inverter), choices=SUPPLIES, guards="grid"),
        Setting("clock", "First", "Clock and time zone", "tariff windows and the log need it", text="set to local time", time=True),
        *(
            [Setting("protocol", "Battery", "Battery protocol", "must equal the one set in every battery", text=protocol, guards="life")]
            if links.inverter_port
            else []
        ),
        Setting("capacity", "Battery", "Battery capacity", "the whole bank", capacity),
        Setting("charge_a", "Battery", "Charge limit", "smallest of bank, inverter, fuse and cable", charge, guards="life"),
        Setting("discharge_a", "Battery", "Discharge limit", "smallest of bank, inverter, fuse and cable", discharge, guards="life"),
        Setting(
            "grid_charge_a",
            "Battery",
            "Charge from generator" if job.site.supply == "none" else "Charge from grid",
            "within the charge limit and what feeds it",
            grid_charge,
            guards="life",
        ),
        Setting(
            "comms",
            "Battery",
            "Control",
            "the BMS commands" + ("; the fallback voltages stand by" if rows else "")
            if job.settings.comms == "closed loop"
            else "voltages command: no link to the BMS",
            text=job.settings.comms,
            choices=("closed loop", "open loop"),
            guards="life",
        ),
        Setting(
            "work_mode", "Working", "Work mode", "the owner's wish", text=job.settings.work_mode, choices=("self-use", "backup", "timed")
        ),
        Setting(
            "reserve_pct",
            "Working",
            "Reserve",
            f"carries {ledger.figures['settings.reserve_hours'].value:.1f} h of the backed-up side",
            reserve,
        ),
        *([Setting("export_w", "Working", "Export limit", "the utility's permit", export, guards="grid")] if export else []),
        Setting(
            "bond",
            "Working",
            "Neutral bond relay",
            "exactly one bond in every mode",
            text=BONDS.get(inverter.neutral_bond, "none"),
            choices=(*BONDS.values(), "none"),
            also=("yes", "enabled") if inverter.neutral_bond == "relay" else (),
            guards="life",
        ),
        Setting(
            "password",
            "Last",
            "Default passwords",
            "a default password is an open door",
            text="changed",
            also=("yes", "done", "all changed", "changed all"),
        ),
        *rows,
    ]
    _ranges(ledger, sheet)
    return SettingsPlan(tuple(sheet), rows, _tariff(ledger), low, high)
