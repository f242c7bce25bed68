"""What has ended the truth of a good record: another plan, other equipment, a switch moved, cells so cold, time?"""

from __future__ import annotations

from datetime import datetime, timedelta

from gumboot.core.acts import Act, Stands, State
from gumboot.core.plan.derive import Plan
from gumboot.core.record import AnyRecord, Reading
from gumboot.core.standing.since import Since


def _exchanged(act: Act, record: AnyRecord) -> str:
    """Which equipment is another than the record speaks of. Rows of earlier versions do not say."""
    before = record.stood.cards if record.stood is not None else {}
    now = act.lasts.cards
    return next(
        (f"done with {card} at {place}; {now[place]} stands there now" for place, card in before.items() if now.get(place, card) != card),
        "",
    )


def _too_cold(plan: Plan, act: Act, record: AnyRecord) -> str:
    """Why a voltage of cells is true no more: they have become so cold since that it would pass what it must not."""
    most = act.lasts.below
    if most is None or not isinstance(record, Reading) or record.value is None or record.cell_c is None:
        return ""
    check = next((c for c in plan.all_checks() if c.id == act.name), None)
    if check is None or check.cell is None:
        return ""
    now = check.now(record.value, record.cell_c)
    if now <= most.value:
        return ""
    measured = f"measured with the cells at {record.cell_c:.3g} °C"
    return f"{measured}; at {check.cell.value:.3g} °C it is {now:.4g} V, above {most.value:.4g} V: let nothing on, and measure again"


def ended(plan: Plan, since: Since, now: datetime, act: Act, record: AnyRecord) -> Stands | None:
    """What has ended the truth of a good record; None where it is true still."""
    lasts, at = act.lasts, record.at
    if (undone := since.undone.get(act.id)) is not None and undone >= at:
        return Stands(State.LAPSED, "switched off since")
    again = [c for c in lasts.landed if (landed := since.landed.get(c)) is not None and landed > at]
    if again:
        return Stands(State.LAPSED, f"{again[0]} was landed anew since")
    if lasts.firmware and since.updated is not None and since.updated > at:
        return Stands(State.LAPSED, "the firmware is another since: read it again")
    rested = record.stood.rests if record.stood is not None else ""
    if rested and lasts.rests and rested != lasts.rests:
        return Stands(State.LAPSED, f"done for {rested}; the plan is now {lasts.rests}")
    if other := _exchanged(act, record):
        return Stands(State.LAPSED, other)
    if colder := _too_cold(plan, act, record):
        return Stands(State.LAPSED, colder)
    if lasts.moves and since.moved is not None and since.moved > at:
        return Stands(State.USED, "a switch was moved since")
    if lasts.hours is not None and now - at > timedelta(hours=lasts.hours):
        return Stands(State.USED, f"it is older than {lasts.hours:g} h")
    return None
