"""Materials, other sizes, what changes a figure, comparison, growth and fit: by hand and by law."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

import pytest

from gumboot.catalogue import demo_house, demo_houses, shelf
from gumboot.catalogue.begin import KINDS, begin, copy
from gumboot.core.card.inverter import InverterCard
from gumboot.core.card.parts import older
from gumboot.core.card.storage import BatteryCard
from gumboot.core.plan.derive import derive
from gumboot.core.plan.upkeep import chosen, completed
from gumboot.core.standing import stand
from gumboot.core.study.alternatives import alternatives
from gumboot.core.study.compare import changed_fields, compare, flat
from gumboot.core.study.conduit import smallest_for
from gumboot.core.study.fit import fits
from gumboot.core.study.growth import Addition, helps_power, refusals, room_to_grow
from gumboot.core.study.materials import TAIL_M, materials, wall_length_m
from gumboot.core.study.sensitivity import sensitivity
from gumboot.documents.buying import cut_list_csv, materials_csv, materials_xlsx
from tests.helpers import edited, plan_of, with_card

HOUSES = [p.name.removesuffix(".gumboot.json") for p in demo_houses()]


def circuit(plan: Any, name: str) -> Any:
    return next(c for c in plan.circuits.all if c.id == name)


def test_the_cut_list_by_hand() -> None:
    """Grid feed 9 m, a tenth of slack, 0.3 m free at each end: 10.5 m; two lines, neutral and earth."""
    found = materials(plan_of({}))
    grid = [c for c in found.cuts if c.circuit == "grid"]
    assert [(c.role, c.colour, c.size, c.count) for c in grid] == [
        ("line1", "black", "6 AWG", 1), ("line2", "red", "6 AWG", 1), ("neutral", "white", "6 AWG", 1), ("earth", "green", "8 AWG", 1),
    ]  # fmt: skip
    assert {round(c.length.value, 6) for c in grid} == {10.5}
    assert TAIL_M == 0.3


@pytest.mark.parametrize("house", HOUSES)
def test_what_is_bought_is_what_is_cut(house: str) -> None:
    plan = plan_of({}, None, house)
    found = materials(plan)
    cut = sum(c.count * c.length.value for c in found.cuts)
    bought = sum(i.quantity for i in found.items if i.group == "Cable")
    lines = sum(i.group == "Cable" for i in found.items)
    assert cut <= bought + 1e-9 <= cut + 0.1 * lines + 1e-6
    lugs = sum(t.terminal.end in ("lug", "ferrule") for t in plan.terminations)
    assert sum(i.quantity for i in found.items if i.group == "Lugs and ferrules") == lugs
    assert {i.item for i in found.items if i.group == "Labels"} >= {x.text for x in plan.labels}
    assert found.waits == ()


def test_what_is_not_sized_is_named_and_left_out() -> None:
    found = materials(plan_of({"runs.grid.length_m": None}))
    assert found.waits == ("Grid feed is not sized: it is not in the list.",)
    assert not [c for c in found.cuts if c.circuit == "grid"]


def test_lists_as_files() -> None:
    import csv
    import io

    from openpyxl import load_workbook

    found = materials(plan_of({}))
    rows = list(csv.DictReader(io.StringIO(cut_list_csv(found))))
    assert len(rows) == len(found.cuts)
    assert rows[0]["length_m"] == f"{found.cuts[0].length.value:g}"
    assert len(list(csv.reader(io.StringIO(materials_csv(found))))) == len(found.items) + 1
    book = load_workbook(io.BytesIO(materials_xlsx(found, "Saltmarsh Cottage, revision 1")))
    assert book.sheetnames == ["Material", "Cut list"]
    assert book["Material"]["A1"].value == "Saltmarsh Cottage, revision 1"
    assert book["Material"].max_row == len(found.items) + 2


def test_a_formula_in_a_name_stays_text() -> None:
    found = materials(plan_of({"strings.S1.label_top": "=1+1", "strings.S1.label_bottom": "=1+1"}))
    assert "String label =1+1" in materials_csv(found)
    from gumboot.documents.buying import safe

    assert safe("=HYPERLINK()") == "'=HYPERLINK()"


def test_wall_length_by_hand() -> None:
    """Inverter 520 x 690 at 1364, 1110; sub-board's middle at its own: along and up."""
    plan = plan_of({})
    boxes = {b.id: b.rect for b in plan.walls[0].boxes}
    a, b = boxes["inverter"], boxes["sub-board"]
    wanted = abs(a.x + a.w / 2 - b.x - b.w / 2) + abs(a.y + a.h / 2 - b.y - b.h / 2)
    assert wall_length_m(plan, circuit(plan, "backup")) == pytest.approx(wanted / 1000)
    assert wall_length_m(plan, circuit(plan, "grid")) is None


def test_other_sizes_cost_copper_and_save_drop() -> None:
    rows = alternatives(plan_of({}), "grid")
    assert [r.size for r in rows] == ["8 AWG", "6 AWG", "4 AWG", "3 AWG", "2 AWG", "1 AWG"]
    assert [r.pulled for r in rows].count(True) == 1
    assert {f.code for f in rows[0].breaks} == {"COND-MAKER"}
    drops = [r.sized.drop_pct.value for r in rows if r.sized]
    assert drops == sorted(drops, reverse=True)
    assert [r.copper_kg for r in rows] == sorted(r.copper_kg for r in rows)
    # Three cores of 9 m and 13.3 mm2 at 8.89 kg/dm3.
    assert rows[1].copper_kg == pytest.approx(3 * 9 * 13.3 * 8.89e-3, rel=0.001)
    assert rows[1].headroom_pct == pytest.approx(100 * (65 / 26.16 - 1), abs=0.2)
    assert alternatives(plan_of({"runs.grid.length_m": None}), "grid") == ()


def test_what_would_change_a_figure_by_hand() -> None:
    found = sensitivity(plan_of({}), "strings.PV1.cold_v")
    becomes = {(e.decision.name, e.to): e.becomes.value for e in found.effects if e.becomes}
    assert becomes["Modules in series, S1", 12.0] == pytest.approx(12 * 37.6 * (1 - 0.0026 * -39), abs=0.01)
    assert becomes["Modules in series, S1", 10.0] == pytest.approx(10 * 37.6 * (1 - 0.0026 * -39), abs=0.01)
    assert becomes["Record low air temperature", -15.4] == pytest.approx(11 * 37.6 * (1 - 0.0026 * -40.4), abs=0.01)


def test_a_step_that_breaks_a_rule_says_which() -> None:
    found = sensitivity(plan_of({"strings.S1.modules": 12}), "strings.PV1.cold_v")
    more = next(e for e in found.effects if e.to == 13)
    assert {f.code for f in more.newly} >= {"PV-COLD-VOC"}
    with pytest.raises(KeyError):
        sensitivity(plan_of({}), "no.such")


def test_every_figure_of_a_house_can_be_asked() -> None:
    plan = plan_of({})
    for key in list(plan.figures)[::40]:
        sensitivity(plan, key, 2)


def test_comparing_a_design_with_itself_finds_nothing() -> None:
    plan = plan_of({})
    found = compare(plan, plan_of({}))
    assert (found.decisions, found.figures, found.gone, found.come, found.material) == ((), (), (), (), ())
    assert found.same_figures == len(plan.figures)


def test_comparison_turned_round_is_the_same_turned_round() -> None:
    a, b = plan_of({}), plan_of({"strings.S1.modules": 13, "runs.grid.length_m": 20.0})
    there, back = compare(a, b), compare(b, a)
    assert {(d.path, d.before, d.after) for d in there.decisions} == {(d.path, d.after, d.before) for d in back.decisions}
    assert {(d.path, d.before, d.after) for d in there.decisions} == {("strings.S1.modules", 11, 13), ("runs.grid.length_m", 9.0, 20.0)}
    assert {f.key for f in there.come} == {f.key for f in back.gone}
    assert "PV-COLD-VOC" in {f.code for f in there.come}
    assert {m.key for m in there.figures} == {m.key for m in back.figures}
    assert "circuits.grid.drop_pct" in {m.key for m in there.figures}
    module = next(m for m in there.material if "Slate" in m.item.item)
    assert (module.before, module.after) == (19, 21)


def test_a_hair_left_by_another_order_of_adding_is_no_change() -> None:
    """The blower begins later; from four o'clock on nothing is another, though the hours before were added up otherwise."""
    a, b = plan_of({}), plan_of({"loads.blower.from_hour": 4})
    moved = {m.key for m in compare(a, b).figures}
    assert "loads.carried.3" in moved
    assert "loads.carried.4" not in moved
    near, far = plan_of({"runs.grid.length_m": 9.0 * (1 + 1e-10)}), plan_of({"runs.grid.length_m": 9.0 * (1 + 1e-8)})
    assert compare(a, near).figures == ()
    assert "circuits.grid.drop_pct" in {m.key for m in compare(a, far).figures}


def test_a_document_flattened_names_items_by_id() -> None:
    rows = flat(edited({}).model_dump(mode="json"))
    assert rows["loads.blower.running_w"] == 1150
    assert rows["sensing.meters.meter.cts.CT1.leg"] == "L1"
    assert rows["banks.bank.lead_as_made.1.inverter_pin"] == 1
    assert changed_fields({"a": [1]}, {"a": [2]})[0].path == "a"


def test_room_to_grow_by_hand() -> None:
    rows = {r.limit: r.more for r in room_to_grow(plan_of({}))}
    assert rows == {"busbar box": 0, "maker": 5, "addresses": 12}
    stack = {r.limit: r.more for r in room_to_grow(plan_of({}, None, "d2-schoolhouse"))}
    battery = shelf()["sill-3"]
    inverter = shelf()["heron-10t"]
    assert isinstance(battery, BatteryCard)
    assert isinstance(inverter, InverterCard)
    assert stack["series"] == battery.series_max - 6
    assert stack["inverter's window"] == int(inverter.battery.v_max / battery.v_max) - 6
    # Eight blocks of 8 V reach the 64 V of the inverter exactly.
    blocks = plan_of({}, None, "d4-lookout")
    assert {r.limit: r.more for r in room_to_grow(blocks)}["inverter's window"] == 8 - len(blocks.job.banks[0].stacks()[0])
    assert "hours, not power" in helps_power(plan_of({}))


GOOD = {"age_months": 3.0, "firmware": "2.14", "volts": 52.2, "bank_age_months": 5.0, "bank_volts": 52.3}


def join(plan: Any, card: str = "cobble-5", **changes: Any) -> list[str]:
    firmware = shelf()["cobble-5"].firmware  # type: ignore[union-attr]
    given = {**GOOD, "firmware": firmware, **changes}
    return [r.text for r in refusals(plan, Addition(shelf()[card], **given))]


def test_a_dissimilar_battery_is_refused_with_the_reason() -> None:
    roomy = plan_of({}, with_card("trough-300", {}))
    only_room = join(roomy)
    assert only_room == ["There is no room: Trough 300 DC busbar box has studs for 3 batteries."]
    two = derive(edited({"banks.bank.units": [u.model_dump() for u in edited({}).banks[0].units[:2]]}), shelf())
    assert join(two) == []
    assert any("months old" in t for t in join(two, age_months=18.0))
    assert join(two, age_months=17.0) == []
    assert any("firmware" in t for t in join(two, firmware="0.1"))
    window = shelf()["cobble-5"].join_window_v  # type: ignore[union-attr]
    assert join(two, volts=52.3 + window) == []
    assert any("apart" in t for t in join(two, volts=52.3 + window + 0.01))
    assert any("another type" in t for t in join(two, "mast-10"))
    assert any("lead-acid" in t for t in join(two, "anvil-6v"))
    assert join(two, "mica-430") == [f"{shelf()['mica-430'].title} is no battery."]


def test_what_is_not_known_of_an_addition_blocks() -> None:
    two = derive(edited({"banks.bank.units": [u.model_dump() for u in edited({}).banks[0].units[:2]]}), shelf())
    found = refusals(two, Addition(shelf()["cobble-5"]))
    assert [r.known for r in found] == [False] * 3
    assert {r.text for r in found} == {"The ages are not given.", "Its firmware is not given.", "The voltages are not measured."}


@pytest.mark.parametrize("house", [h for h in HOUSES if "mistakes" not in h])
def test_what_a_house_has_fits_it(house: str) -> None:
    job = demo_house(house)
    for role, card in job.equipment.model_dump().items():
        if card:
            mine = next(x for x in fits(job, shelf(), role) if x.card.id == card)
            assert mine.fits, (role, mine.against)


def test_why_a_battery_does_not_fit() -> None:
    found = {x.card.id: x for x in fits(demo_house("d1-saltmarsh"), shelf(), "battery")}
    assert found["cobble-5"].against == ()
    assert "The battery works from 179.2 to 230.4 V; the inverter takes 42 to 60 V." in found["sill-3"].against
    assert "BANK-CHEMISTRY" in found["anvil-6v"].codes
    assert "LINK-PROTOCOL" in found["mast-10"].codes
    cold = edited({"site.room_low_c": -5.0})
    assert any("BANK-COLD" in x.codes for x in fits(cold, shelf(), "battery"))
    old = with_card("plover-6s", {"firmware": "0.1"})
    assert any("LINK-FIRMWARE" in x.codes for x in fits(demo_house("d1-saltmarsh"), old, "battery"))
    assert [older("2.9", "2.10"), older("2.10", "2.9"), older("", "1"), older("", ""), older("1.0", "1.0")] == [
        True,
        False,
        True,
        False,
        False,
    ]
    weak = with_card("cobble-5", {"discharge_a": 10.0})
    assert any("BANK-WEAK" in x.codes for x in fits(demo_house("d1-saltmarsh"), weak, "battery") if x.card.id == "cobble-5")


def test_an_inverter_of_another_supply_does_not_fit() -> None:
    said = {x.card.id: x.against for x in fits(demo_house("d1-saltmarsh"), shelf(), "inverter")}
    assert any("three phase" in w for w in said["heron-10t"])
    assert any("transfer" in w for w in said["ferry-5"])


@pytest.mark.parametrize("kind", [k.id for k in KINDS])
def test_a_job_of_each_kind_begins_without_a_stop_and_with_its_questions(kind: str) -> None:
    job = completed(begin(kind, "new", "New"), shelf(), fit_cts=True)
    plan = derive(job, shelf())
    assert plan.stops == ()
    assert len(plan.gaps) > 12
    stations = stand(plan, [], datetime(2026, 11, 25, tzinfo=UTC)).stations
    for station in ("survey", "loads", "strings", "circuits", "wall", "wire"):
        assert stations[station].state != "clear", f"{station} has nothing entered and must not say that it is clear"
    assert {r.id for r in job.runs} >= {c.id for c in plan.circuits.all}
    assert job.site.record_low_c is None
    assert job.loads == []
    assert set(job.cards) == set(chosen(job))


def test_a_copy_has_the_answers_or_has_not() -> None:
    job = demo_house("d1-saltmarsh")
    assert copy(job, "x", "X", True).model_dump(exclude={"id", "title"}) == job.model_dump(exclude={"id", "title"})
    bare = copy(job, "x", "X", False)
    assert bare.equipment == job.equipment
    assert bare.loads == []
    assert bare.site.service_main_a is None
    asked = edited({"banks.bank.lead_m": 12, "modbus.devices": [{"id": "m", "title": "Meter", "address": 3}]})
    bare = copy(asked, "x", "X", False)
    assert (bare.demand.method, bare.modbus.devices, bare.banks[0].lead_m) == (None, [], None)


def test_upkeep_adds_and_never_changes() -> None:
    job = edited({"strings": []})
    bare = job.model_copy(
        update={
            "runs": [r for r in job.runs if not r.id.startswith("pv-")],
            "sensing": job.sensing.model_copy(update={"meters": [job.sensing.meters[0].model_copy(update={"cts": []})]}),
        }
    )
    back = bare.model_copy(update={"strings": edited({}).strings})
    assert completed(back, shelf()).sensing.meters[0].cts == []
    whole = completed(back, shelf(), fit_cts=True)
    assert {"pv-pv1", "pv-pv2"} <= {r.id for r in whole.runs}
    assert [c.channel for c in whole.sensing.meters[0].cts] == ["CT1", "CT2"]
    assert completed(whole, shelf()) == whole
    assert [r for r in whole.runs if r in bare.runs] == bare.runs


def test_the_smallest_conduit() -> None:
    # Four 10 AWG THWN-2 and two 12 AWG: 4 x 13.61 + 2 x 8.58 mm2 = 71.6 mm2 of 40 %: 179 mm2: 1/2 EMT has 196 mm2.
    assert smallest_for(plan_of({}), "pv-pv1") == "EMT 1/2"
    assert "inside" in smallest_for(plan_of({}, None, "d3-lockkeeper"), "grid")
    assert smallest_for(plan_of({"runs.grid.length_m": None}), "grid") == ""


def test_cold_energy_by_hand() -> None:
    # 13 824 Wh, 2 °C, 0.5 % for each kelvin below 10 °C: 4 % less.
    assert plan_of({}).figures["bank.usable_cold"].value == pytest.approx(13824 * 0.96)
    assert plan_of({"site.room_low_c": 10.0}).figures["bank.usable_cold"].value == pytest.approx(13824)
    assert plan_of({"site.room_low_c": 9.0}).figures["bank.usable_cold"].value == pytest.approx(13824 * 0.995)
    lead = plan_of({"site.room_low_c": 5.0}, None, "d4-lookout").figures
    assert lead["bank.usable_cold"].value == pytest.approx(lead["bank.usable"].value * (1 - 0.008 * 20))
    assert "bank.usable_cold" not in plan_of({"site.room_low_c": None}).figures
