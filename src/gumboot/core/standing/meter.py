"""What do the meter tests on record say of the CTs?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.plan.derive import Plan
from gumboot.core.plan.sensing import CtSet
from gumboot.core.sim.ct_readings import MeterTest, MeterVerdict, solve
from gumboot.core.standing.records import Record


def _meter_tests(records: Sequence[Record], tested: CtSet) -> list[MeterTest]:
    """The newest meter test, and those before it from which on nothing was moved."""
    tests, channels = list[MeterTest](), {channel.id for channel in tested.placed}
    rows = sorted((r for r in records if r.kind == "ct" and r.subject == tested.test), key=lambda r: r.at)
    for record in reversed(rows):
        after, before = record.value.get("readings", {}), record.value.get("before")
        # A record from before both readings were taken cannot tell what the loads changed.
        if before is None or not channels <= set(after) or not channels <= set(before):
            break
        loads = {leg: float(record.value.get(f"test_{leg.lower()}_w", 0)) for leg in tested.legs}
        factor = float(record.value.get("power_factor", 1))
        tests.insert(0, MeterTest(loads, {c: float(before[c]) for c in channels}, {c: float(after[c]) for c in channels}, factor))
        if not record.value.get("unmoved"):
            break
    return tests


def meter_verdicts(plan: Plan, records: Sequence[Record]) -> dict[str, MeterVerdict]:
    """What the meter tests say, by the test; without those that have no record that counts."""
    said = ((each.test, _verdict(each, records)) for each in plan.sensing.sets)
    return {test: verdict for test, verdict in said if verdict is not None}


def _verdict(tested: CtSet, records: Sequence[Record]) -> MeterVerdict | None:
    tests = _meter_tests(records, tested) if tested.cts else []
    return solve(tested.placed, tests, tested.flow) if tests else None
