"""The voltages of open-loop charging: the card's or the job's, in their order, within the battery's window."""

from __future__ import annotations

import itertools

from gumboot.core.job.settings import Settings
from gumboot.core.plan.bank import OneBank
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


def _row(bank: OneBank, key: str, title: str) -> Setting:
    ledger, linked = bank.ledger, bool(bank.card.data_ports)
    chosen = key in Settings.model_fields and getattr(ledger.job.settings, key) is not None
    figure = ledger.decided(f"settings.{key}") if chosen else bank.volts(f"open_loop.{key}")
    why = "chosen by this job" if chosen else "the battery card's open-loop value"
    used = "used when the battery stops talking" if linked else "the inverter works by it"
    return Setting(
        key=f"{key}{bank.mark}", group="Fallback voltages", title=bank.of(title), why=f"{why}; {used}", figure=figure, guards="life"
    )


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


def thresholds(bank: OneBank) -> tuple[Setting, ...]:
    """Every threshold of a bank; none for a battery whose card gives no open-loop voltages."""
    card, ledger = bank.card, bank.ledger
    ledger.ask(rules.no_equalising, rules.Equalised(on=ledger.job.settings.equalise, chemistry=card.chemistry))
    if card.open_loop is None:
        return ()
    rows = [_row(bank, key, title) for key, title in ORDER]
    _check(bank, rows)
    return tuple(rows)
