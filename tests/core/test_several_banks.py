"""A house whose inverters hang on banks of their own: every bank worked out, linked, proved and switched on by itself."""

from __future__ import annotations

from typing import Any

import pytest

from gumboot.catalogue import demo_house, shelf
from gumboot.core.acts import Kind, acts
from gumboot.core.job import Job
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.record import AnyRecord
from gumboot.core.sim.switch_line import rehearse
from gumboot.core.standing import stand
from gumboot.core.study.growth import room_to_grow
from gumboot.core.study.year import store_of
from gumboot.drawing import single_line
from tests.core.test_standing import NOW, record
from tests.helpers import bank_each

TWO = derive(Job.model_validate(bank_each()), shelf())
ONE = derive(demo_house("g01-cooperage"), shelf())


def changed(change: dict[str, Any]) -> Plan:
    document = bank_each()
    for name, units in change.items():
        next(bank for bank in document["banks"] if bank["id"] == name)["units"] = units
    return derive(Job.model_validate(document), shelf())


def test_each_bank_stands_by_itself_without_gap_or_stop() -> None:
    assert TWO.gaps == ()
    assert TWO.stops == ()
    assert [bank.id for bank in TWO.banks] == ["bank", "bank-2"]
    # Two batteries of 5120 Wh each, from full to a tenth.
    assert [bank.supply.usable.value for bank in TWO.banks] == [2 * 5120 * 0.9] * 2
    # Two batteries that feed 2900 A into a short; the main carries 6000 W at 46.4 V and 94 %.
    for bank, inverter in zip(TWO.banks, ("inv-1", "inv-2"), strict=True):
        assert bank.supply.fault_a.value == 2 * 2900
        assert bank.supply.mains == {inverter: bank.supply.design_a}
        assert bank.supply.design_a.value == pytest.approx(6000 / 46.4 / 0.94, rel=1e-3)
        assert [share.value for share in bank.shares] == [pytest.approx(bank.supply.design_a.value / 2)] * 2


def test_together_they_hold_what_one_bank_of_all_batteries_holds() -> None:
    assert TWO.loads.energy.value == pytest.approx(ONE.loads.energy.value)
    assert store_of(TWO).capacity_wh == store_of(ONE).capacity_wh
    assert store_of(TWO).discharge_w == pytest.approx(store_of(ONE).discharge_w)
    assert TWO.figures["settings.reserve_hours"].value == pytest.approx(ONE.figures["settings.reserve_hours"].value)
    # A short on the bars of half the batteries is half as large.
    assert TWO.banks[0].supply.fault_a.value == ONE.banks[0].supply.fault_a.value / 2


def test_the_bank_that_is_empty_first_ends_it() -> None:
    units = [{"id": f"bat-{n}", "dip_address": n, "terminator": n == 3, "protocol": 7} for n in (1, 2, 3)]
    last = [{"id": "bat-4", "dip_address": 1, "terminator": True, "protocol": 7}]
    plan = changed({"bank": units, "bank-2": last})
    small = plan.banks[1].supply.delivered.value
    # Inverters of one size: the bank of one battery of four is empty when the other still holds two.
    assert plan.loads.energy.value == pytest.approx(2 * small)
    finding = next(f for f in plan.findings if f.code == "PAR-EMPTY")
    assert (finding.where, finding.level) == ("bank-2", "note")
    assert finding.limit is not None
    assert finding.limit.value == pytest.approx(4 * small)


def test_each_bus_is_programmed_and_proved() -> None:
    assert [(bus.seat.id, bus.inverter.id) for bus in TWO.links.wired] == [("bank", "inv-1"), ("bank-2", "inv-2")]
    ritual = [act.name for act in acts(TWO).values() if act.kind is Kind.RITUAL]
    assert ritual == [
        "off",
        *(f"{turn}.{unit}" for unit in ("bat-1", "bat-2") for turn in ("program", "address", "rest")),
        "off-bank-2",
        *(f"{turn}.{unit}" for unit in ("bat-3", "bat-4") for turn in ("program", "address", "rest")),
        *("group.inv-1", "group.inv-2"),
    ]
    checks = {check.id: check for check in TWO.all_checks()}
    assert {"pack-spread", "pack-spread-bank-2", "bus-pair", "bus-pair-bank-2", "dead-dc-bank-2", "soc-agree-bank-2"} <= set(checks)
    assert checks["pack-spread-bank-2"].spread_of == ("pack-bat-3", "pack-bat-4")
    assert checks["soc-agree-bank-2"].after == "inverter-on-inv-2"


def test_the_spread_of_a_bank_follows_from_its_own_batteries() -> None:
    volts = {"bat-1": 52.0, "bat-2": 52.1, "bat-3": 53.0, "bat-4": 55.0}
    records: list[AnyRecord] = [record("measurement", f"pack-{unit}", {"value": v}) for unit, v in volts.items()]
    checks = stand(TWO, records, NOW).checks
    assert checks["pack-spread"].good
    assert "2 V is above" in checks["pack-spread-bank-2"].faults[0]


def test_each_bank_is_switched_on_before_its_own_inverter_and_the_board_allows_every_step() -> None:
    steps = [step.id for step in TWO.power_up.steps]
    assert steps.index("on-bat-3") < steps.index("precharge-inv-2") < steps.index("inverter-on-inv-2")
    assert {"soc-agrees", "soc-agrees-bank-2"} <= set(steps)
    played = rehearse(TWO.power_up.line, TWO.power_up.moves)
    assert [o.text for o in played.outcomes if not o.allowed] == []
    # The first bank on makes nothing live at the second inverter's main.
    lands = {step.id: step.lands for step in TWO.power_up.steps}
    assert "bat-main-inv-2" not in lands["on-bat-1"]
    assert "bat-main-inv-2" in lands["on-bat-3"]
    half = [s.move for s in TWO.power_up.steps if s.move and s.id in ("on-bat-1", "on-bat-2")]
    refused = rehearse(TWO.power_up.line, [*half, "precharge-inv-2"]).outcomes[-1]
    assert "switch the batteries on first" in refused.text


def test_settings_stand_for_each_bank() -> None:
    rows = {row.key: row for row in TWO.settings.sheet}
    # Two batteries of 50 A charge; the one inverter of each bank takes all of it.
    assert rows["charge_a"].amount.value == rows["charge_a-bank-2"].amount.value == 100
    assert rows["capacity-bank-2"].title == "Battery capacity, bank-2"
    assert "absorb_v-bank-2" in rows
    assert [ruler.bank for ruler in TWO.settings.rulers] == ["bank", "bank-2"]


def test_growth_and_drawing_speak_of_each_bank() -> None:
    assert [room.more for room in room_to_grow(TWO, "bank-2")] == [room.more for room in room_to_grow(TWO)]
    assert {room.figure(2).key for room in room_to_grow(TWO)}.isdisjoint(room.figure(2).key for room in room_to_grow(TWO, "bank-2"))
    words = [shape.words for shape in single_line.canvas(TWO).shapes]
    assert {"bank", "bank-2", "bat-1", "bat-4"} <= set(words)


def test_a_card_that_lets_a_group_have_one_bank_only_is_believed() -> None:
    document = demo_house("g02-dairy").model_dump(mode="json")
    own = document["banks"][0]
    document["banks"].append({**own, "id": "second", "units": [{**own["units"][0], "id": "x-1"}]})
    next(thing for thing in reversed(document["things"]) if thing["seat"] == "inverter")["bank"] = "second"
    found = next(f for f in derive(Job.model_validate(document), shelf()).stops if f.code == "PAR-BANKS")
    assert found.field.endswith(".bank")
    assert "several banks" in found.text


def test_without_a_fuse_the_breakers_of_all_batteries_protect_the_main() -> None:
    document = demo_house("d1-saltmarsh").model_dump(mode="json")
    document["things"] = [thing for thing in document["things"] if thing["seat"] != "switch-fuse"]
    three = derive(Job.model_validate(document), shelf())
    # Three breakers of 100 A feed the bars: one of them alone says nothing of what may flow.
    assert three.figures["bank.breakers_a"].value == 300
    assert three.circuits.sized["bat-main"].demand.fixed_device_a == three.figures["bank.breakers_a"]
    document["banks"][0]["units"] = document["banks"][0]["units"][:1]
    one = derive(Job.model_validate(document), shelf())
    assert "bank.breakers_a" not in one.figures
