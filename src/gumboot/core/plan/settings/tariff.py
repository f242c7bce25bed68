"""Which price stands at each hour, and how long does the reserve carry the backed-up side?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.figure import Figure
from gumboot.core.job.model import TariffWindow
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import BankPlan, banks_of, together
from gumboot.core.rules import settings as rules


def window_hours(window: TariffWindow) -> set[int]:
    """Hours of the day a tariff window covers; it may wrap midnight."""
    if window.from_hour < window.to_hour:
        return set(range(window.from_hour, window.to_hour))
    return set(range(window.from_hour, 24)) | set(range(window.to_hour % 24))


def tariff_by_hour(ledger: Ledger) -> tuple[tuple[TariffWindow, ...], ...]:
    """The windows of each hour, judged: one price an hour, no charging at the peak."""
    windows = ledger.job.settings.tariff
    found: list[list[TariffWindow]] = [[] for _ in range(24)]
    for w in windows:
        for hour in window_hours(w):
            found[hour].append(w)
    hours = tuple([tuple(ws) for ws in found])
    for titles in sorted({tuple(w.title for w in ws) for ws in hours if len(ws) > 1}):
        second = next(w.id for w in windows if w.title == titles[1])
        ledger.ask(rules.one_price_an_hour, rules.Overlap(titles=titles, field=f"settings.tariff.{second}.from_hour"))
    for w in windows:
        ledger.ask(rules.not_at_the_peak, rules.Window(id=w.id, title=w.title, kind=w.kind, grid_charge=w.grid_charge))
    return hours


def _reserve(ledger: Ledger, banks: Sequence[BankPlan]) -> Figure:
    """What all banks keep for an outage, Wh on the AC side."""
    kept = {bank.id: bank.reserve_wh for bank in banks}
    return together(banks_of(ledger), lambda b: kept[b.id], "bank.reserve_all", "Energy that all banks keep for an outage, AC side")


def reserve_hours(ledger: Ledger, banks: Sequence[BankPlan], profile_w: Sequence[float]) -> Figure:
    """Hours that the reserve carries, judged against the wish."""
    name, limits = "Mean demand of the backed-up side over a day", "Running power times duty within its hours, and the inverter's own draw."
    mean = ledger.work(
        ledger.key("settings.mean"), "P_mean", ledger.titled(name), sum(profile_w) / 24, "W", source="physics", limits=limits
    )
    hours = ledger.work(
        ledger.key("settings.reserve_hours"),
        "t_res",
        ledger.titled("Hours the reserve carries"),
        _reserve(ledger, banks) / mean,
        "h",
        source="house.reserve",
    )
    ledger.ask(rules.reserve_carries, rules.Reserve(hours=hours, wish=ledger.decided("settings.outage_hours")))
    return hours
