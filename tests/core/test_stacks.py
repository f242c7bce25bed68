"""Two stacks of one bank side by side: in series within each, in parallel together, proved one by one before they meet."""

from __future__ import annotations

from typing import Any

import pytest

from gumboot.catalogue import demo_house, shelf
from gumboot.core.card import Shelf
from gumboot.core.job import Job
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.sim.switch_line import rehearse
from gumboot.core.standing import stand
from gumboot.core.study.year import store_of
from gumboot.drawing import bank, single_line
from tests.core.test_standing import NOW, record

Document = dict[str, Any]


def cards(most: int = 2, volts: float = 600) -> Shelf:
    """The shelf with a stack that its maker lets stand in parallel, and bars for its voltage."""
    stack = shelf()["sill-3"].model_copy(update={"strings_max": most, "units_max": 18})
    bars = shelf()["channel-400"].model_copy(update={"dc_voltage": volts})
    fuse = shelf()["stile-160m"].model_copy(update={"voltage_dc": 600, "rated_a": 50})
    return {**shelf(), "sill-3": stack, "channel-400": bars, "stile-160m": fuse}


def schoolhouse(strings: int = 2, units: int = 12, *, bars: bool = True, fuse: bool = True) -> Job:
    document = demo_house("d2-schoolhouse").model_dump(mode="json")
    own = document["banks"][0]
    first = own["units"][0]
    names = [f"mod-{n}" for n in range(1, units + 1)]
    tops = {names[0]: (1, False), names[units // strings]: (2, True)} if strings > 1 else {}
    own |= {
        "strings": strings,
        "units": [
            {**first, "id": name, "dip_address": tops.get(name, (n, False))[0], "terminator": tops.get(name, (0, False))[1]}
            for n, name in enumerate(names, 1)
        ],
    }
    if bars:
        document["things"].append({"seat": "busbar", "id": "busbar", "card": "channel-400", "bank": own["id"]})
    if fuse:
        inverter = next(t["id"] for t in document["things"] if t["seat"] == "inverter")
        document["things"].append({"seat": "switch-fuse", "id": "qf", "card": "stile-160m", "inverter": inverter})
    runs = [{"id": name, "length_m": 1.5, "ambient_c": 30} for name in (names[0], names[units // strings])]
    for wall in document["walls"]:
        for place in wall["placements"]:
            place["id"] = names[0] if place["id"] == first["id"] else place["id"]
        wall["placements"].append({"id": names[units // strings], "x_mm": 2400, "y_mm": 0})
    document["runs"] = [*document["runs"], *(runs if bars else [])]
    return Job.model_validate(document)


def plan_of(strings: int = 2, units: int = 12, most: int = 2, volts: float = 600, *, bars: bool = True) -> Plan:
    return derive(schoolhouse(strings, units, bars=bars), cards(most, volts))


TWO, ONE = plan_of(), derive(demo_house("d2-schoolhouse"), shelf())


def test_two_stacks_have_one_stack_s_voltage_and_twice_its_current() -> None:
    assert TWO.figures["bank.series"].value == ONE.figures["bank.series"].value == 6
    assert TWO.figures["bank.parallel"].value == 2
    for key in ("bank.nominal_v", "bank.v_max", "bank.v_min"):
        assert TWO.figures[key].value == ONE.figures[key].value
    for key, times in (("bank.bms_a", 2), ("bank.fault_a", 2), ("bank.usable", 2), ("bank.units", 2)):
        assert TWO.figures[key].value == pytest.approx(times * ONE.figures[key].value), key
    assert store_of(TWO).capacity_wh == 2 * store_of(ONE).capacity_wh


def test_each_stack_has_its_lead_to_the_bars_its_breaker_and_its_share() -> None:
    leads = [c for c in TWO.circuits.all if c.kind == "battery-unit"]
    assert [c.cores[0].ends[0].place for c in leads] == ["mod-1", "mod-7"]
    assert [share.value for share in TWO.banks[0].shares] == [pytest.approx(TWO.banks[0].supply.design_a.value / 2)] * 2
    card = shelf()["sill-3"].model_dump()
    assert TWO.figures["bank.stack_mohm"].value == pytest.approx(6 * card["cell_mohm"])
    assert [switch.id for switch in TWO.power_up.line.switches if switch.part == "battery"] == ["mod-1", "mod-7"]
    played = rehearse(TWO.power_up.line, TWO.power_up.moves)
    assert [o.text for o in played.outcomes if not o.allowed] == []


def test_unlike_stacks_are_found_before_they_meet() -> None:
    first = next(step for step in TWO.power_up.steps if step.id == "on-mod-1")
    assert {"pack-mod-1", "pack-mod-7", "pack-spread"} <= set(first.holds)
    volts = TWO.figures["bank.nominal_v"].value
    read = [record("measurement", "pack-mod-1", {"value": volts}), record("measurement", "pack-mod-7", {"value": volts + 20})]
    assert "20 V is above" in stand(TWO, read, NOW).checks["pack-spread"].faults[0]
    assert {c.id: c for c in TWO.checks}["pack-mod-7"].high == TWO.figures["bank.v_max"]


def test_nothing_is_missing_and_nothing_stops_the_batteries() -> None:
    assert TWO.gaps == ()
    assert {f.code for f in TWO.stops if f.station in ("bank", "circuits", "links")} == set()


def test_a_main_without_a_fuse_of_its_own_bears_the_breakers_of_all_stacks() -> None:
    bare = derive(schoolhouse(fuse=False), cards())
    own = shelf()["sill-3"].model_dump()["breaker_a"]
    device = bare.circuits.sized["bat-main"].demand.fixed_device_a
    assert device is not None
    assert device.value == 2 * own
    assert TWO.circuits.sized["bat-main"].demand.fixed_device_a == TWO.figures["card.stile-160m.rated_a"]


def test_both_stacks_stand_on_the_bus_and_in_the_drawings() -> None:
    chain = TWO.links.buses[0].chain
    assert [(c.unit.id, c.wanted_address, c.wants_terminator) for c in chain] == [("mod-1", 1, False), ("mod-7", 2, True)]
    assert {"mod-1", "mod-7"} <= {shape.words for shape in single_line.canvas(TWO).shapes}
    assert "6 × mod-7" in str(bank.bank_drawing(TWO))


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"most": 1}, "the maker allows 1"),
        ({"units": 13}, "13 units do not make 2 of one length"),
        ({"bars": False}, "have no bars to meet at"),
    ],
)
def test_stacks_that_may_not_stand_so_stop_the_plan(change: Document, says: str) -> None:
    found = next(f for f in plan_of(**change).stops if f.code == "BANK-STACKS")
    assert says in found.text


def test_bars_below_the_voltage_of_a_stack_stop_it_and_one_stack_asks_for_none() -> None:
    assert "DC-VOLTAGE" in {f.code for f in plan_of(volts=300).stops}
    assert "BANK-STACKS" not in {f.code for f in ONE.findings}
    assert "BANK-STACKS" not in {f.code for f in TWO.findings}
