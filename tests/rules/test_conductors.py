"""The rules of conductors, raceways and terminations at their limits."""

from __future__ import annotations

from typing import Any

import pytest

from gumboot.core.card import Terminal
from gumboot.core.figure import Figure
from gumboot.core.rules import conductors as rules
from gumboot.core.rules import insulation, raceways
from gumboot.core.rules import terminations as landing
from gumboot.core.sizes import area_mm2
from tests.rules.cases import Case, f, prove


def size(name: str, label: str) -> Figure:
    return Figure(name, name, name, area_mm2(label), "mm2", source="arith", label=label)


def terminal(**changes: Any) -> Terminal:
    made = {
        "id": "L1", "title": "L1", "role": "line1", "size_min": "8 AWG", "size_max": "2 AWG", "wire_classes": ["stranded"], "strip_mm": 14,
        "end": "bare", "tool": "4 mm hex", "torque_nm": 3, "x": 0.1, "y": 0.2,
    }  # fmt: skip
    return Terminal.model_validate({**made, **changes})


PULLED = rules.Pulled(
    circuit="grid", installed=size("in", "6 AWG"), code=size("code", "6 AWG"), maker="6 AWG", field="runs.grid.installed_size"
)
BEHIND = rules.Behind(circuit="grid", device=f("dev", 60), most=f("most", 60), size="6 AWG", code="4 AWG", field="x")
DEVICE = rules.Device(circuit="grid", device=f("dev", 40), needed=f("need", 40), least=f("least", 40), is_continuous=True, field="x")
LAID_IN = insulation.Insulated(circuit="grid", insulation="THWN-2", known=("THWN-2", "NM-B"), field="x")
KIND = rules.Kind(
    circuit="c", installed=size("in", "1/0 AWG"), sets=2, cable="building wire", parallel_allowed=True, cord_allowed=False,
    flexible_allowed=False, run="r",
)  # fmt: skip
EARTH = rules.Earth(circuit="grid", installed=size("in", "10 AWG"), required=size("req", "10 AWG"), field="x")
LOST = rules.Lost(where="backup", pct=f("pct", 3, "%"), most=f("most", 3, "%"), field="runs.backup.length_m")
FILLED = raceways.Filled(where="grid", raceway="EMT 3/4", fill=f("fill", 40, "%"), most=f("most", 40, "%"), clause="nec.ch9t1", field="x")
TOGETHER = raceways.Together(
    names=("grid", "backup"), titles=("Grid feed", "Backed-up feed"), kinds=("grid", "backup"), direct=(False, False), field="x"
)
LANDING = landing.Landing(
    where="inverter GRID L1", terminal=terminal(), size="8 AWG", wire_class="stranded", material="copper", circuit="grid",
    field="runs.grid.installed_size",
)  # fmt: skip
PREPARED = landing.Prepared(where="inverter GRID L1", found=f("found", 15, "mm"), wanted=f("wanted", 14, "mm"), stud="M8", field="x")
BEND = landing.Bend(where="w", size="2/0 AWG", room=f("room", 100, "mm"), need=f("need", 100, "mm"), circuit="bat-main")
TORQUED = landing.Torqued(where="w", size="6 AWG", from_card=True, has_screw=True, fallback_nm=4.0)

CASES = [
    Case(rules.large_enough, PULLED, {"installed": size("in", "8 AWG")}, "grid", "8 AWG is pulled; the code asks 6 AWG.",
         "Pull 6 AWG or larger.", "in", "code", "runs.grid.installed_size"),
    Case(rules.as_the_maker_asks, PULLED, {"maker": "4 AWG"}, "grid", "6 AWG is pulled; the maker asks at least 4 AWG.", "Pull 4 AWG or larger.",
         "in", "", "runs.grid.installed_size"),
    Case(rules.maker_above_code, PULLED, {"maker": "8 AWG"}, "grid", "The maker's minimum is 8 AWG; the code asks 6 AWG.",
         "The larger wins: 6 AWG.", "code"),
    Case(rules.protected, BEHIND, {"device": f("dev", 61)}, "grid", "A 61 A device does not protect 6 AWG; the largest is 60 A.",
         "Pull 4 AWG or fit a smaller device.", "dev", "most", "x"),
    Case(rules.device_carries, DEVICE, {"device": f("dev", 39.9)}, "grid", "carries 80 % of its rating for hours; this circuit needs 40.0 A",
         "Fit 40 A, and the conductor for it.", "dev", "need", "x"),
    Case(rules.device_carries, DEVICE, {"device": f("dev", 35), "is_continuous": False, "least": None}, "grid",
         "A 35 A device is smaller than the 40.0 A it would carry.", "Choose the device for the load first", "dev", "need", "x"),
    Case(rules.cool_enough, rules.Refused(circuit="c", refusal="", field="x"), {"refusal": "too hot"}, "c", "too hot", "cooler place", field="x"),
    Case(rules.some_conductor, rules.Refused(circuit="c", refusal="", field="x"), {"refusal": "exhausted"}, "c", "exhausted", "parallel sets",
         field="x"),
    Case(rules.parallel_sets, KIND, {"parallel_allowed": False}, "c", "2 conductors of 1/0 AWG lie in parallel", "one larger conductor", "in", "",
         "runs.r.sets"),
    Case(rules.no_cord, KIND, {"cable": "cord"}, "c", "a cord is no fixed wiring", "portable generator only", "in", "", "runs.r.cable"),
    Case(rules.flexible_cable, KIND, {"cable": "flexible cable"}, "c", "1/0 AWG welding-type cable is laid", "2/0 AWG and larger", "in", "",
         "runs.r.cable"),
    Case(rules.earth_large_enough, EARTH, {"installed": size("in", "12 AWG")}, "grid", "The earth conductor is 12 AWG; 10 AWG is required.",
         "Pull 10 AWG.", "in", "req", "x"),
    Case(insulation.insulation_known, LAID_IN, {"insulation": "PVC"}, "grid", "grid is laid in PVC, which is no type of this rule book",
         "Choose one of: THWN-2, NM-B.", field="x"),
    Case(insulation.cable_in_its_place, LAID_IN, {"insulation": "NM-B", "astray": "on a roof"}, "grid", "grid is laid in NM-B on a roof.",
         "Pull THWN-2", field="x"),
    Case(insulation.pv_wire, insulation.PvWire(circuit="pv-pv1", taken=True, advice="Use better.", field="x"), {"taken": False}, "pv-pv1",
         "pv-pv1 is laid in PVC", "Use better.", field="x"),
    Case(rules.drop_wanted, LOST, {"pct": f("pct", 3.01, "%")}, "backup", "3.01 % is lost along backup; the wish is at most 3 %.",
         "larger conductor", "pct", "most", "runs.backup.length_m"),
    Case(rules.drop_in_all, LOST, {"pct": f("pct", 3.01, "%")}, "backup", "3.01 % is lost from the main board to the backed-up board",
         "longest segment", "pct", "most", "runs.backup.length_m"),
    Case(rules.rise_held, LOST, {"pct": f("pct", -3.01, "%")}, "backup", "rises by 3.01 % at full export; 3 % is the most", "lower the export",
         "pct", "most", "runs.backup.length_m"),
    Case(raceways.room_inside, FILLED, {"fill": f("fill", 40.1, "%")}, "grid", "The EMT 3/4 of grid is filled to 40 %; 40 % is the most.",
         "next size", "fill", "most", "x", source="nec.ch9t1"),
    Case(raceways.room_inside, FILLED, {"fill": None, "refusal": "no such size."}, "grid", "The fill of grid cannot be judged: no such size.",
         "Write the size as the table does", field="x"),
    Case(raceways.names_are_known, raceways.Named(run="grid", unknown=()), {"unknown": ("pv-pvl",)}, "grid",
         "grid is said to lie with pv-pvl, which this house does not have.", "as they stand in the list of runs", field="runs.grid.shares_with"),
    Case(raceways.may_share, TOGETHER, {"direct": (False, True)}, "grid and backup", "Grid feed and backed-up feed lie in one raceway.",
         "its own raceway", field="x"),
    Case(raceways.may_share, TOGETHER, {"kinds": ("pv", "battery"), "direct": (True, True)}, "grid and backup", "lie in one raceway", "a barrier",
         field="x"),
    Case(landing.size_in_range, LANDING, {"size": "10 AWG"}, "inverter GRID L1", "10 AWG does not fit inverter GRID L1: it takes 8 AWG to 2 AWG.",
         "pin adapter", field="runs.grid.installed_size"),
    Case(landing.size_in_range, LANDING, {"size": "1 AWG"}, "inverter GRID L1", "1 AWG does not fit", "Use a size in range",
         field="runs.grid.installed_size"),
    Case(landing.class_accepted, LANDING, {"wire_class": "fine strand"}, "inverter GRID L1", "takes stranded wire; fine strand is planned",
         "Pull stranded wire.", field="runs.grid.wire_class"),
    Case(landing.metal_accepted, LANDING, {"material": "aluminium"}, "inverter GRID L1", "is not marked for aluminium", "Use copper",
         field="runs.grid.material"),
    Case(landing.stripped_to_length, PREPARED, {"found": f("found", 15.1, "mm")}, "inverter GRID L1", "15.1 mm are stripped",
         "Strip it to length", "found", "wanted", "x"),
    Case(landing.stripped_to_length, PREPARED, {"found": f("found", 12.9, "mm")}, "inverter GRID L1", "its card asks 14 mm", "Strip it to length",
         "found", "wanted", "x"),
    Case(landing.lug_fits, PREPARED, {"found": f("found", 15.1, "mm")}, "inverter GRID L1", "The lug's hole is 15.1 mm", "Use a lug for M8.",
         "found", "wanted", "x"),
    Case(landing.lug_fits, PREPARED, {"found": f("found", 13.9, "mm")}, "inverter GRID L1", "has an M8 stud", "Use a lug for M8.", "found",
         "wanted", "x"),
    Case(landing.room_to_bend, BEND, {"room": f("room", 99.9, "mm")}, "w", "2/0 AWG needs 100 mm to bend; w has 99.9 mm.", "from another side",
         "room", "need", "runs.bat-main.installed_size"),
    Case(landing.torque_of_the_maker, TORQUED, {"from_card": False}, "w", "The maker gives no torque for w. Annex I gives 4.0 N m for 6 AWG",
         "record that it was used", level="caution"),
    Case(landing.torque_of_the_maker, TORQUED, {"from_card": False, "fallback_nm": None}, "w", "Annex I has no value for it either",
         "Ask the maker before landing it.", level="stop"),
    Case(landing.one_clamp, landing.Crowded(where="w", conductors=1, most=1), {"conductors": 2}, "w", "w has 2 conductors under one clamp; it takes 1.",
         "another terminal"),
]  # fmt: skip


@pytest.mark.parametrize("case", CASES, ids=[f"{c.rule.code}-{i}" for i, c in enumerate(CASES)])
def test_at_the_limit_and_just_beyond(case: Case) -> None:
    prove(case)


def test_what_is_not_asked_holds() -> None:
    assert raceways.may_share(raceways.Together(names=("a", "b"), titles=("A", "B"), kinds=("pv", "pv"), direct=(True, True))) is None
    spring = landing.Torqued(where="w", size="6 AWG", from_card=False, has_screw=False, fallback_nm=None)
    assert landing.torque_of_the_maker(spring) is None
    assert rules.parallel_sets(KIND) is None
    assert rules.as_the_maker_asks(rules.Pulled(circuit="c", installed=size("a", "6 AWG"), code=size("b", "8 AWG"))) is None
