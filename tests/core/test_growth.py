"""A bank as large as the job allows still derives, and says what its switches cannot hold."""

from __future__ import annotations

import pytest

from gumboot.cli.bench import grown
from gumboot.core.plan.derive import derive
from gumboot.drawing.links import bus_drawing


@pytest.mark.parametrize(("factor", "refused"), [(1, False), (4, False), (7, False), (8, True), (16, True)])
def test_addresses_run_out_with_the_switches(factor: int, refused: bool) -> None:
    # Four switches hold 1 to 15: fourteen batteries fit, sixteen do not.
    plan = derive(*grown(factor))
    assert len(plan.banks[0].shares) == 2 * factor
    assert any(f.code == "LINK-ADDRESS-RANGE" and f.where == "chain" for f in plan.findings) == refused
    assert str(bus_drawing(plan)).startswith("<div")


def test_sixteen_times_the_circuits_are_sized() -> None:
    plan = derive(*grown(16))
    assert len(plan.circuits.sized) == 32 + 5
    assert sum(f.value for f in plan.banks[0].shares) == pytest.approx(plan.banks[0].supply.design_a.value)
