"""What do the meter tests on record say of the CTs?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.plan.derive import Plan
from gumboot.core.plan.sensing import CtSet
from gumboot.core.record import AnyRecord, MeterReading
from gumboot.core.sim.ct_readings import MeterTest, MeterVerdict, solve


def _tests_in(record: MeterReading, tested: CtSet) -> list[MeterTest]:
    """Every switching of a record, as a test of the channels that were read."""
    before = record.before or {}
    return [
        MeterTest({leg: run.loads.get(leg, 0.0) for leg in tested.legs}, before, run.after, record.power_factor) for run in record.switched
    ]


def read_in(record: MeterReading, channels: set[str]) -> set[str]:
    """The channels that a record says something of: shown before, and in every switching.

    A record from before both readings were taken, or of a load that is none, cannot tell what the loads changed.
    """
    if record.before is None or not 0 < record.power_factor <= 1:
        return set()
    return {channel for channel in channels & set(record.before) if all(channel in run.after for run in record.switched)}


def _tests_of(channel: str, rows: Sequence[MeterReading], tested: CtSet) -> list[MeterTest]:
    """The newest test of a channel, and those before it from which on its core was not touched; of records in order that count."""
    tests, every = list[MeterTest](), {each.id for each in tested.placed}
    for record in reversed(rows):
        read = read_in(record, every)
        if channel in read:
            tests[:0] = _tests_in(record, tested)
            if not record.unmoved:
                break
        elif not record.runs or not read:
            break
    return tests


def meter_verdicts(plan: Plan, records: Sequence[AnyRecord]) -> dict[str, MeterVerdict]:
    """What the meter tests say, by the test; without those that have no record that counts."""
    said = ((each.test, _verdict(each, records)) for each in plan.sensing.sets)
    return {test: verdict for test, verdict in said if verdict is not None}


def _verdict(tested: CtSet, records: Sequence[AnyRecord]) -> MeterVerdict | None:
    rows = [r for r in records if isinstance(r, MeterReading) and r.name == tested.test]
    tests = {channel.id: _tests_of(channel.id, rows, tested) for channel in tested.placed}
    return solve(tested.placed, tests, tested.flow) if any(tests.values()) else None
