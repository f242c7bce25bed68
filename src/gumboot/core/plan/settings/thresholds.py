"""The voltages of open-loop charging: the card's or the job's, in their order, within the battery's window."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

from gumboot.core.figure import Figure, constant
from gumboot.core.job.settings import Settings
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import OneBank
from gumboot.core.plan.bank.supply import BankSupply, floor_of_charge
from gumboot.core.plan.settings.line import VOLTS_SHARE, Setting
from gumboot.core.plan.settings.plates import ends_of_charge, plates
from gumboot.core.rules import settings as rules

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


def _row(bank: OneBank, key: str, title: str) -> Setting:
    ledger, linked = bank.ledger, bool(bank.card.data_ports)
    chosen = key in Settings.model_fields and getattr(ledger.job.settings, key) is not None
    figure = ledger.decided(f"settings.{key}") if chosen else bank.volts(f"open_loop.{key}")
    why = "chosen by this job" if chosen else "the battery card's open-loop value"
    used = "used when the battery stops talking" if linked else "the inverter works by it"
    return Setting(
        key=f"{key}{bank.mark}", group="Fallback voltages", title=bank.of(title), why=f"{why}; {used}", figure=figure, guards="life",
        share=VOLTS_SHARE, safer="lower" if key in ("float_v", "absorb_v") else "higher",
    )  # fmt: skip


def _field(*keys: str) -> str:
    """The field of the first of some thresholds that can be chosen."""
    return next((f"settings.{key}" for key in keys if key in Settings.model_fields), "")


def _check(bank: OneBank, rows: list[Setting]) -> None:
    ledger, keys = bank.ledger, [key for key, _ in ORDER]
    for (below, lower), (above, upper) in itertools.pairwise(zip(rows, keys, strict=True)):
        facts = rules.Neighbours(
            titles=(below.title, above.title),
            below=below.amount,
            above=above.amount,
            may_equal=lower == "float_v",
            field=_field(upper, lower) or f"settings.{lower}",
        )
        ledger.ask(rules.thresholds_rise, facts)
    low, high = bank.volts("v_min"), bank.volts("v_max")
    for row, key in zip(rows, keys, strict=True):
        facts_ = rules.Threshold(title=row.title, volts=row.amount, low=low, high=high, field=_field(key))
        ledger.ask(rules.within_the_battery, facts_)


# Of these the second undoes what the first did.
TO_AND_FRO = (("cut_off_v", "recover_v"), ("grid_takeover_v", "grid_release_v"))
CLOSE = constant("k_gap", "Least distance of two thresholds, share of the nominal voltage", 0.004, "", "cp.gap")
CLOSE_PCT = constant("dS_min", "Least distance of two thresholds, of charge", 2.0, "%", "cp.gap")


def _apart(bank: OneBank, keys: tuple[str, str], rows: tuple[Setting, Setting], unit: str) -> Figure:
    """How far the second of two thresholds stands above the first."""
    name = f"Between {rows[0].title.removesuffix(bank.of('')).lower()} and {rows[1].title.removesuffix(bank.of('')).lower()}"
    return bank.work(f"settings.gap.{keys[0]}.{keys[1]}", "d", name, rows[1].amount - rows[0].amount, unit, source="arith")


def _check_gaps(bank: OneBank, rows: list[Setting], supply: BankSupply) -> None:
    """Neighbours far enough apart to be told apart, and those that undo each other farther than the voltage springs back."""
    keys, by_key = [key for key, _ in ORDER], dict(zip([key for key, _ in ORDER], rows, strict=True))
    least = bank.work(
        "settings.gap_least", "d_min", "Least distance of two thresholds", CLOSE * bank.volts("nominal_v"), "V", source="cp.gap"
    )
    for below, above in itertools.pairwise(keys):
        if below == "float_v":
            continue
        pair = (by_key[below], by_key[above])
        field, titles = _field(above, below), (pair[0].title, pair[1].title)
        bank.ledger.ask(
            rules.thresholds_stand_apart, rules.Gap(titles=titles, apart=_apart(bank, (below, above), pair, "V"), least=least, field=field)
        )
    inner = bank.ledger.read(bank.card, "cell_mohm") * supply.series / supply.parallel / 1000
    name, holds = "Voltage by which the battery springs back", "From the design current to none; leads not counted."
    back = bank.work("settings.springs_back", "dV", name, supply.design_a * inner, "V", source="physics", limits=holds)
    for keys_ in TO_AND_FRO:
        pair = (by_key[keys_[0]], by_key[keys_[1]])
        facts = rules.Gap(titles=(pair[0].title, pair[1].title), apart=_apart(bank, keys_, pair, "V"), least=back, field=_field(keys_[1]))
        bank.ledger.ask(rules.does_not_hunt, facts)


CHARGES = (
    ("cut_off_pct", "Cut off, by charge"),
    ("grid_takeover_pct", "Grid takes over, by charge"),
    ("recover_pct", "Recover, by charge"),
    ("grid_release_pct", "Grid released, by charge"),
)


def charge_thresholds(ledger: Ledger, banks: Sequence[OneBank]) -> tuple[Setting, ...]:
    """The thresholds that this job sets by state of charge, in their order and above where the batteries stop."""
    chosen = [(key, title) for key, title in CHARGES if getattr(ledger.job.settings, key) is not None]
    rows = [
        Setting(
            key=key,
            group="Fallback voltages",
            title=title,
            why="chosen by this job",
            figure=ledger.decided(f"settings.{key}"),
            guards="life",
        )
        for key, title in chosen
    ]
    for (one, below), (other, above) in itertools.pairwise(zip([key for key, _ in chosen], rows, strict=True)):
        titles, field = (below.title, above.title), f"settings.{other}"
        facts = rules.Neighbours(titles=titles, below=below.amount, above=above.amount, may_equal=False, field=field)
        ledger.ask(rules.thresholds_rise, facts)
        name = f"Between {titles[0].lower()} and {titles[1].lower()}"
        apart = ledger.work(f"settings.gap.{one}.{other}", "d", name, above.amount - below.amount, "%", source="arith")
        ledger.ask(rules.thresholds_stand_apart, rules.Gap(titles=titles, apart=apart, least=ledger.keep(CLOSE_PCT), field=field))
    for bank in banks if rows and chosen[0][0] == "cut_off_pct" else ():
        floor = floor_of_charge(bank)
        facts_ = rules.Depth(title=rows[0].title, at=rows[0].amount, floor=floor, field="settings.cut_off_pct")
        ledger.ask(rules.above_the_floor, facts_)
    return tuple(rows)


def thresholds(bank: OneBank, supply: BankSupply) -> tuple[Setting, ...]:
    """Every threshold of a bank; none for a battery whose card gives no open-loop voltages."""
    card, ledger = bank.card, bank.ledger
    ledger.ask(rules.no_equalising, rules.Equalised(on=ledger.job.settings.equalise, chemistry=card.chemistry))
    if card.open_loop is None:
        return ()
    rows = [_row(bank, key, title) for key, title in ORDER]
    _check(bank, rows)
    _check_gaps(bank, rows, supply)
    return tuple(rows)


def beside_thresholds(bank: OneBank, supply: BankSupply, rows: Sequence[Setting]) -> list[Setting]:
    """What ends a charge, and what lead-acid wants besides; nothing where the card gives no thresholds."""
    if not rows:
        return []
    return [*ends_of_charge(bank, supply), *plates(bank, {key: row for (key, _), row in zip(ORDER, rows, strict=True)})]
