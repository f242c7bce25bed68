"""What is proved with the system live, before it is handed over?"""

from __future__ import annotations

from gumboot.core.figure import Figure, constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import OneBank, banks_of
from gumboot.core.plan.power_up import PowerUpPlan
from gumboot.core.plan.power_up.board import mark
from gumboot.core.plan.prove import Check
from gumboot.core.plan.sensing import is_metered
from gumboot.core.wording import within

# The step of an order that is not planned: nothing live is checked before a licence holder and the maker's manual were there.
NEVER = "order not planned"

THERMAL = constant("T_max", "Lug or breaker at full power at most", 75, "°C", "cp.thermal", limits="The terminals' temperature rating.")
EARTH_FAULT = constant("I_e", "Earth fault current by which insulation is judged", 30, "mA", "iec.62109", limits="V over mA gives kohm.")
SOC = constant("dS", "Difference between the two displays at most", 1, "%", "cp.soc")


def _look(key: str, title: str, why: str, after: str = "") -> Check:
    return Check(id=key, station="live-checks", title=title, unit="", why=why, after=after)


def _charge(bank: OneBank, after: str) -> Check:
    return Check(
        id=f"soc-agree{bank.mark}",
        station="live-checks",
        title=bank.of("State of charge at inverter and battery"),
        unit="%",
        why="A zero or a blank means no link; displays lag 5 to 10 s. Read one after the other, within 2 min; the difference is worked out.",
        high=SOC,
        code="READ-SOC",
        shows=("inverter shows", "battery shows"),
        after=after,
    )


def _thermal(after: str) -> Check:
    return Check(
        id="thermal",
        station="live-checks",
        title="Hottest lug or breaker after 10 min at full power",
        unit="°C",
        why="A loose lug shows as heat.",
        high=THERMAL,
        caution="Live parts behind covers: look with a camera, do not touch.",
        code="READ-HEAT",
        measures="signed",
        after=after,
    )


def _export(limit: Figure, after: str, *, several: bool) -> Check:
    return Check(
        id="export",
        station="live-checks",
        title="Export at full sun",
        unit="W",
        why="Never above the permit, whichever sign the display gives to export."
        + (" At the network's meter: each display tells of its own set of CTs alone." if several else ""),
        high=limit,
        code="READ-EXPORT",
        measures="magnitude",
        after=after,
    )


def _insulation(ledger: Ledger, steps: list[str], last: str) -> list[Check]:
    """What each inverter with strings on it shows of the array's insulation, where it watches that: below its limit it does not start."""
    rows = []
    for unit in ledger.seats.inverters if ledger.book.strings.asks_monitor else ():
        held = [at.tracker for at in ledger.house.inputs if at.place == unit.id and ledger.house.strings_on(at)]
        if not held or not unit.card.source.residual_monitor:
            continue
        m, top = mark(ledger, unit), max(held, key=lambda tracker: tracker.v_max)
        name, ohm = "Insulation below which the inverter does not start", ledger.read(unit.card, f"trackers.{top.id}.v_max") / EARTH_FAULT
        switch = f"pv-switch{m}"
        rows.append(
            Check(
                id=f"isolation{m}",
                station="live-checks",
                title=f"Insulation of the array as {within(unit.name) if m else 'the inverter'} shows it",
                unit="kohm",
                why="It measures before it starts: a value that falls from day to day is water in a plug.",
                low=ledger.work(f"live.isolation{m}", "R_iso", name, ohm, "kohm", source="iec.62109"),
                life=True,
                code="READ-INSULATION",
                after=switch if switch in steps else last,
            )
        )
    return rows


def _metered(ledger: Ledger, steps: list[str]) -> list[Check]:
    """What each inverter that looks at the grid shows once PV feeds: the meter test itself was made with all PV off."""
    rows, closing = [], [s for s in steps if s.startswith(("pv-switch", "pv-breaker"))]
    for part in ledger.islands:
        if closing and is_metered(part):
            why = "Switch a known load on: import rises or export falls by as much. A sign that turns with the sun is a CT on the wrong side of PV."
            rows.append(_look(f"meter-pv{part.house.mark}", part.titled("Meter test again, PV on"), why, closing[-1]))
    return rows


def _by_gateway(ledger: Ledger, grid: str) -> list[Check]:
    """What a gateway shows that measures the grid itself: it has no core that could be turned, and may be told the wrong way round all the same."""
    if any(is_metered(part) for part in ledger.islands) or not any(seat.card.style == "gateway" for seat in ledger.seats.transfers):
        return []
    why = "Switch a known load on: import rises by as much, with its sign. Loads ahead of the gateway are not in it."
    return [_look("meter-gateway", "Grid reading of the gateway, with a known load", why, grid)]


def plan_live_checks(ledger: Ledger, power_up: PowerUpPlan) -> tuple[Check, ...]:
    """Live checks in order, each after the step of first power that makes it possible."""
    steps = [s.id for s in power_up.steps]
    last = steps[-1] if steps else NEVER
    grid, off_grid = "grid-breaker" if "grid-breaker" in steps else last, ledger.job.site.supply == "none"
    linked = [b for b in banks_of(ledger) if b.card.data_ports and b.card.arrangement != "docked"]
    rows = [_charge(b, f"inverter-on{mark(ledger, b.inverters[0])}" if steps else NEVER) for b in linked]
    rows.append(_thermal(last))
    for part in ledger.islands:
        if len(part.seats.inverters) > 1:
            why, m = "Read every display under one steady load: unlike shares mean unlike leads, settings or firmware.", part.house.mark
            title = part.titled("Inverters of one leg share a steady load within a tenth")
            rows.append(_look(f"sharing{m}", title, why, f"small-load{m}" if steps else NEVER))
    rows += _insulation(ledger, steps, last)
    rows += _metered(ledger, steps)
    if not off_grid:
        rows += _by_gateway(ledger, grid)
        rows.append(_look("outage", "Main switch opened: the backed-up side held", "Which loads dropped, and for how long?", grid))
        rows.append(_look("return", "Grid returned and was taken back", "The inverter waits its reconnection time.", grid))
        if ledger.job.site.export_limit_w is not None:
            rows.append(_export(ledger.decided("site.export_limit_w"), last, several=sum(map(is_metered, ledger.islands)) > 1))
    return (
        *rows,
        _look("alarms", "Alarm list empty, fault log read, firmware noted", "A fault today is a call-out tomorrow.", last),
        _look("owner", "Owner shown how to shut down", f"Off order: {', '.join(power_up.off_order).lower()}."),
    )
