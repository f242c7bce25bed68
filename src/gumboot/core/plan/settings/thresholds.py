"""The voltages of open-loop charging: the card's or the job's, in their order, within the battery's window."""

from __future__ import annotations

import itertools

from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import bank_volts
from gumboot.core.plan.settings.line import Setting
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


def _row(ledger: Ledger, key: str, title: str, linked: bool) -> Setting:
    chosen = getattr(ledger.job.settings, key, None) is not None
    figure = ledger.decided(f"settings.{key}") if chosen else bank_volts(ledger, f"open_loop.{key}")
    why = "chosen by this job" if chosen else "the battery card's open-loop value"
    used = "used when the battery stops talking" if linked else "the inverter works by it"
    return Setting(key=key, group="Fallback voltages", title=title, why=f"{why}; {used}", figure=figure, guards="life")


def _field(ledger: Ledger, row: Setting, other: Setting) -> str:
    """The field that cures a pair of thresholds: the one that can be chosen."""
    return f"settings.{row.key if hasattr(ledger.job.settings, row.key) else other.key}"


def _check(ledger: Ledger, rows: list[Setting]) -> None:
    for below, above in itertools.pairwise(rows):
        facts = rules.Neighbours(
            titles=(below.title, above.title),
            below=below.amount,
            above=above.amount,
            may_equal=below.key == "float_v",
            field=_field(ledger, above, below),
        )
        ledger.ask(rules.thresholds_rise, facts)
    low, high = bank_volts(ledger, "v_min"), bank_volts(ledger, "v_max")
    for row in rows:
        field = f"settings.{row.key}" if hasattr(ledger.job.settings, row.key) else ""
        ledger.ask(rules.within_the_battery, rules.Threshold(title=row.title, volts=row.amount, low=low, high=high, field=field))


def thresholds(ledger: Ledger) -> tuple[Setting, ...]:
    """Every threshold of the sheet; none for a battery whose card gives no open-loop voltages."""
    card = ledger.seats.battery
    ledger.ask(rules.no_equalising, rules.Equalised(on=ledger.job.settings.equalise, chemistry=card.chemistry))
    if card.open_loop is None:
        return ()
    rows = [_row(ledger, key, title, bool(card.data_ports)) for key, title in ORDER]
    _check(ledger, rows)
    return tuple(rows)
