"""What do the meter tests on record say of the CTs?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.plan.derive import Plan
from gumboot.core.plan.sensing import CtSet
from gumboot.core.record import AnyRecord, MeterReading
from gumboot.core.sim.ct_readings import MeterTest, MeterVerdict, solve


def _meter_tests(records: Sequence[AnyRecord], tested: CtSet) -> list[MeterTest]:
    """The newest meter test, and those before it from which on nothing was moved; of records in order that count."""
    tests, channels = list[MeterTest](), {channel.id for channel in tested.placed}
    rows = [r for r in records if isinstance(r, MeterReading) and r.name == tested.test]
    for record in reversed(rows):
        after, before = record.after, record.before
        # A record from before both readings were taken, or of a load that is none, cannot tell what the loads changed.
        if before is None or not channels <= set(after) or not channels <= set(before) or not 0 < record.power_factor <= 1:
            break
        loads = {leg: record.loads.get(leg, 0.0) for leg in tested.legs}
        shown = {c: float(before[c]) for c in channels}, {c: float(after[c]) for c in channels}
        tests.insert(0, MeterTest(loads, *shown, record.power_factor))
        if not record.unmoved:
            break
    return tests


def meter_verdicts(plan: Plan, records: Sequence[AnyRecord]) -> dict[str, MeterVerdict]:
    """What the meter tests say, by the test; without those that have no record that counts."""
    said = ((each.test, _verdict(each, records)) for each in plan.sensing.sets)
    return {test: verdict for test, verdict in said if verdict is not None}


def _verdict(tested: CtSet, records: Sequence[AnyRecord]) -> MeterVerdict | None:
    tests = _meter_tests(records, tested) if tested.cts else []
    return solve(tested.placed, tests, tested.flow) if tests else None
