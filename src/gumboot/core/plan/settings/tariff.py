"""Which price stands at each hour, and how long does the reserve carry the backed-up side?"""

from __future__ import annotations

import itertools
from collections.abc import Sequence

from gumboot.core.figure import Figure
from gumboot.core.job.model import TariffWindow
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import BankPlan, banks_of, together
from gumboot.core.rules import settings as rules
from gumboot.core.rules import tariffs

HALVES = 48
# The day that is drawn where windows differ by season.
SHOWN_MONTH = 1
DAYS = {"every day": frozenset({"weekdays", "weekends"}), "weekdays": frozenset({"weekdays"}), "weekends": frozenset({"weekends"})}


def window_halves(window: TariffWindow) -> set[int]:
    """Half hours of the day that a tariff window covers, 0 to 47; it may wrap midnight."""
    first, last = 2 * window.from_hour + window.from_minute // 30, 2 * window.to_hour + window.to_minute // 30
    long = (last - first) % HALVES or HALVES
    return {half % HALVES for half in range(first, first + long)}


def window_months(window: TariffWindow) -> set[int]:
    """Months in which a tariff window holds, 1 to 12; it may wrap the year."""
    long = (window.to_month - window.from_month) % 12 + 1
    return {(window.from_month - 1 + n) % 12 + 1 for n in range(long)}


def holds(window: TariffWindow, half: int, day: str, month: int) -> bool:
    """Whether a window stands at a half hour of a kind of day of a month."""
    return half in window_halves(window) and day in DAYS[window.days] and month in window_months(window)


def _together(windows: Sequence[TariffWindow]) -> list[tuple[TariffWindow, TariffWindow]]:
    """Windows of which two stand at one moment."""
    spans = [(w, window_halves(w), DAYS[w.days], window_months(w)) for w in windows]
    pairs = itertools.combinations(spans, 2)
    return [(a[0], b[0]) for a, b in pairs if all(not x.isdisjoint(y) for x, y in zip(a[1:], b[1:], strict=True))]


def _without_price(windows: Sequence[TariffWindow]) -> tuple[str, int, int] | None:
    """The first kind of day, month and half hour at which no window stands; None where there is none, or no window at all."""
    spans = [(window_halves(w), DAYS[w.days], window_months(w)) for w in windows]
    for month, day in itertools.product(range(1, 13) if windows else (), DAYS["every day"]):
        priced = set[int]().union(*(halves for halves, days, months in spans if day in days and month in months))
        if len(priced) < HALVES:
            return day, month, min(set(range(HALVES)) - priced)
    return None


def tariff_by_half(ledger: Ledger) -> tuple[tuple[TariffWindow, ...], ...]:
    """The windows of each half hour of a weekday in January, all of them judged: one price an hour, no charging at the peak."""
    windows = ledger.job.settings.tariff
    for first, second in _together(windows):
        field = f"settings.tariff.{second.id}.from_hour"
        ledger.ask(tariffs.one_price_an_hour, tariffs.Overlap(titles=(first.title, second.title), field=field))
    ledger.ask(tariffs.a_price_at_every_hour, tariffs.Unpriced(at=_without_price(windows)))
    for w in windows:
        ledger.ask(tariffs.not_at_the_peak, tariffs.Window(id=w.id, title=w.title, kind=w.kind, grid_charge=w.grid_charge))
    return tuple([tuple([w for w in windows if holds(w, half, "weekdays", SHOWN_MONTH)]) for half in range(HALVES)])


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
