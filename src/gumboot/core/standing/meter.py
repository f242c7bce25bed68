"""What do the meter tests on record say of the CTs?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.plan.derive import Plan
from gumboot.core.sim.ct_readings import Channel, MeterTest, MeterVerdict, solve
from gumboot.core.standing.records import Record


def _meter_tests(records: Sequence[Record], channels: set[str]) -> list[MeterTest]:
    """The newest meter test, and those before it from which on nothing was moved."""
    tests: list[MeterTest] = []
    rows = sorted((r for r in records if r.kind == "ct" and r.subject == "ct-test"), key=lambda r: r.at)
    for record in reversed(rows):
        after, before = record.value.get("readings", {}), record.value.get("before")
        # A record from before both readings were taken cannot tell what the loads changed.
        if before is None or not channels <= set(after) or not channels <= set(before):
            break
        loads = {leg: float(record.value.get(f"test_{leg.lower()}_w", 0)) for leg in ("L1", "L2", "L3")}
        factor = float(record.value.get("power_factor", 1))
        tests.insert(0, MeterTest(loads, {c: float(before[c]) for c in channels}, {c: float(after[c]) for c in channels}, factor))
        if not record.value.get("unmoved"):
            break
    return tests


def meter_verdict(plan: Plan, records: Sequence[Record]) -> MeterVerdict | None:
    """What the meter tests say; None while there is none that counts."""
    inverter = plan.seats.inverter
    placed = {ct.place.channel for ct in plan.sensing.cts}
    channels = [Channel(c.id, c.leg, c.reference) for c in inverter.ct_channels if c.id in placed]
    tests = _meter_tests(records, placed) if channels else []
    return solve(channels, tests, plan.house.output) if tests else None
