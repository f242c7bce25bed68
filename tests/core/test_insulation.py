"""Types of insulation under each book: the column that is used, the roof, and the places where a type may lie."""

from __future__ import annotations

from typing import Any

import pytest

from gumboot.core.rulebook.books.wiring_nec import smallest_size
from gumboot.core.rulebook.north_american import conductors as nec
from gumboot.core.rules.readings import faults_of
from gumboot.core.sums import SUMS, ask_sum
from gumboot.web.asking import read_question
from tests.helpers import codes, plan_of

D1, D2 = "d1-saltmarsh", "d2-schoolhouse"
FREE: dict[str, Any] = {"runs.backup.raceway": None}


# NEC 2023 Table 310.16, copper, 60, 75 and 90 °C columns (from memory).
ROWS = {"14 AWG": (15, 20, 25), "12 AWG": (20, 25, 30), "10 AWG": (30, 35, 40), "8 AWG": (40, 50, 55), "6 AWG": (55, 65, 75)}


@pytest.mark.parametrize("size", ROWS)
def test_each_type_is_used_in_its_column(size: str) -> None:
    at_60, at_75, _ = ROWS[size]
    plan = plan_of({**FREE, "runs.backup.installed_size": size})
    keys = {}
    for wire in ("THWN-2", "THWN", "NM-B", "XLPE"):
        keys[wire] = plan_of({**FREE, "runs.backup.installed_size": size, "runs.backup.insulation": wire}).circuits.sized["backup"]
    assert plan.circuits.sized["backup"].ampacity.value == keys["THWN-2"].ampacity.value <= at_75
    # NM-B is derated from 90 °C and used no higher than at 60 °C; of what the book does not know the lowest column is taken for both.
    assert keys["NM-B"].ampacity.value == min(at_60, keys["THWN-2"].table_ampacity.value * keys["THWN-2"].ambient_factor.value)
    assert keys["XLPE"].ampacity.value == pytest.approx(at_60 * keys["XLPE"].ambient_factor.value)
    assert keys["THWN"].table_ampacity.value == at_75
    assert keys["THWN"].ambient_factor.value <= keys["THWN-2"].ambient_factor.value


@pytest.mark.parametrize(
    ("load", "device", "thwn", "nm"), [(32, 40, "8 AWG", "8 AWG"), (40, 50, "8 AWG", "6 AWG"), (12, 15, "14 AWG", "14 AWG")]
)
def test_cable_used_at_60_degrees_wants_a_larger_size(load: float, device: float, thwn: str, nm: str) -> None:
    """40 A for hours are 50 A: 8 AWG in the 75 °C column, 6 AWG in the 60 °C one (334.80)."""
    wanted = (load, 1.25 * load, device)
    assert smallest_size(wanted, (90, 75), (1, 1)) == thwn
    assert smallest_size(wanted, (nec.insulation_c("NM-B"), nec.cable_column_c("NM-B", 75)), (1, 1)) == nm


def test_a_conductor_on_a_sunlit_roof_is_33_k_warmer_unless_it_is_xhhw() -> None:
    for wire, warm in (("THWN-2", True), ("RHW-2", True), ("XHHW-2", False)):
        question = {"current": 20, "ambient": 35, "wire": wire, "roof": 10}
        keys = {f.key: f.value for f in ask_sum("conductor", read_question(SUMS["conductor"], question)).figures}
        assert keys.get("roof_ambient", 35) == (68 if warm else 35)
    high = ask_sum("conductor", read_question(SUMS["conductor"], {"current": 20, "ambient": 35, "roof": 22}))
    assert next(f.value for f in high.figures if f.key == "roof_ambient") == 35


@pytest.mark.parametrize(
    ("edits", "says"),
    [
        ({"runs.backup.insulation": "NM-B", **FREE}, ""),
        ({"runs.backup.insulation": "NM-B"}, "in a raceway"),
        ({"runs.backup.insulation": "NM-B", "runs.backup.roof_height_mm": 100, **FREE}, "on a roof"),
        ({"runs.pv-pv1.insulation": "NM-B", "runs.pv-pv1.raceway": None}, "on the DC side"),
        ({"runs.backup.insulation": "NM-B", "walls.wall.room": "outdoor", **FREE}, "to a box outdoors"),
    ],
)
def test_non_metallic_cable_lies_indoors_on_the_ac_side(edits: dict[str, Any], says: str) -> None:
    edits = {"runs.backup.raceway": "EMT", **edits} if "runs.pv-pv1.insulation" not in edits else edits
    told = [f.text for f in plan_of(edits).findings if f.code == "COND-NM"]
    assert [says in text for text in told] == ([True] if says else [])


def test_a_type_of_the_other_book_is_a_stop() -> None:
    assert "COND-INSULATION" in codes({"runs.grid.insulation": "PVC"})
    assert "COND-INSULATION" in codes({"runs.grid.insulation": "THWN-2"}, name=D2)
    assert "COND-INSULATION" not in codes({"runs.grid.insulation": "XLPE"}, name=D2)
    # A flexible cable has a table of its own.
    assert "COND-INSULATION" not in codes({"runs.bat-main.insulation": "XLPE", "runs.bat-main.cable": "flexible cable"})


def test_a_pv_run_is_never_pvc_by_default() -> None:
    plan = plan_of({"runs.pv-pv1.insulation": None}, name=D2)
    assert "PV-WIRE" not in {f.code for f in plan.findings}
    said = plan_of({"runs.pv-pv1.insulation": "XLPE"}, name=D2).circuits.sized["pv-pv1"]
    assert plan.circuits.sized["pv-pv1"].ampacity.value == said.ampacity.value


@pytest.mark.parametrize(("house", "kohm"), [("d2-schoolhouse", 1000 / 30), ("k02-weaver", 600 / 30), ("g02-dairy", 500 / 30)])
def test_what_an_inverter_shows_of_its_array_is_read_against_its_own_limit(house: str, kohm: float) -> None:
    """The highest PV voltage of the input over 30 mA; in North America the listing of the inverter stands for it."""
    plan = plan_of({}, None, house)
    found = [c for c in plan.live_checks if c.id.startswith("isolation")]
    assert len(found) == len(plan.seats.inverters)
    assert all(c.low is not None and c.low.value == pytest.approx(kohm) for c in found)
    assert not faults_of(found[0].read(None, over=True))
    assert faults_of(found[0].read(kohm - 0.1))
    assert not [c for c in plan_of().live_checks if c.id.startswith("isolation")]
