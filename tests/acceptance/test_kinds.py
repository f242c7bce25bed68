"""Demo houses D2, D3 and D4 and every kind: derived without gap or stop, chosen figures by hand."""

from __future__ import annotations

import pytest

from gumboot.catalogue import demo_house, demo_houses, shelf
from gumboot.catalogue.begin import KINDS
from gumboot.core.plan.derive import derive
from tests.helpers import BAD, plan_of

HOUSES = [path.name.removesuffix(".gumboot.json") for path in demo_houses()]
D2, D3, D4 = "d2-schoolhouse", "d3-lockkeeper", "d4-lookout"


@pytest.mark.parametrize("house", [h for h in HOUSES if h != BAD])
def test_no_gap_no_stop(house: str) -> None:
    plan = derive(demo_house(house), shelf())
    assert plan.gaps == ()
    assert plan.stops == ()
    assert {c.id for c in plan.circuits.all} == set(plan.circuits.sized)
    assert plan.terminations
    assert plan.labels


def test_every_kind_has_a_house() -> None:
    assert [kind.id for kind in KINDS] == [f"K{n}" for n in range(1, 14)]
    assert {kind.pattern for kind in KINDS} <= set(HOUSES)


def test_every_book_has_a_house() -> None:
    assert {demo_house(house).rule_book for house in HOUSES} == {"nec-2023", "iec-60364", "bs-7671", "as-nzs-3000"}


@pytest.mark.parametrize("house", HOUSES)
def test_no_card_names_a_size_that_no_table_holds(house: str) -> None:
    from gumboot.core.sizes import area_mm2

    for card_id in filter(None, demo_house(house).equipment.model_dump().values()):
        for port in getattr(shelf()[card_id], "ports", []):
            for terminal in port.terminals:
                assert area_mm2(terminal.size_min) <= area_mm2(terminal.size_max)


# house, figure, value, half of the last digit worked by hand
@pytest.mark.parametrize(
    ("house", "key", "value", "digits"),
    [
        # 6 modules of 46.4 V: 10 000 W / (278.4 V x 0.97) = 37.03 A.
        (D2, "bank.drawn_a", 37.03, 0.005),
        (D2, "bank.v_max", 345.6, 0.05),
        # 14 x 38.9 x (1 + 0.0025 x 29) = 584.08 V.
        (D2, "strings.PV1.cold_v", 584.08, 0.005),
        # 1.25 x 13.9.
        (D2, "strings.PV1.maximum_a", 17.375, 0.0005),
        # 25 A, 41 °C read in the 45 °C row: PVC 0.79; B1, three loaded, 6 mm2: 36 x 0.79 = 28.44 A.
        (D2, "circuits.grid.ampacity", 28.44, 0.005),
        # 3.08 x (1 + 0.00393 x 50) = 3.685 ohm/km; root 3 x 0.014 km x 3.685 x 14.5 / 400 = 0.324 %.
        (D2, "circuits.rise_pct", 0.3239, 0.0005),
        # 0.22 + 0.014 x 2 x 3.685 = 0.3232 ohm; 25 A curve C under AS/NZS 3000: 230 / 187.5 = 1.2267.
        (D2, "circuits.grid.loop_ohm", 0.3232, 0.0005),
        (D2, "circuits.grid.loop_most", 1.2267, 0.0005),
        # 230 / (230 / 3200 + 2 x 0.014 x 3.685) = 1314 A.
        (D2, "circuits.grid.fault_far_a", 1314, 0.5),
        # 110 A x 46.4 V / 0.945.
        (D3, "coupling.absorbed_w", 5401.1, 0.05),
        # 5000 / (46.4 x 0.945) = 114.03 A; three alike batteries.
        (D3, "bank.share.bat-2", 38.01, 0.005),
        (D3, "circuits.busbar_sum", 100.4, 0.05),
        (D3, "circuits.grid.electrode_most", 166.67, 0.005),
        # 57.6 V against 3 x 2700 A: 7.111 mohm; 2 x 1.6 m of 50 mm2 class 5 at 90 °C: 0.386 x 1.2751 = 0.4922 ohm/km, 1.575 mohm.
        (D3, "bank.fault_far_a", 6631, 1.5),
        # Eight blocks of 5.7 V: 4000 / (45.6 x 0.92) = 95.35 A.
        (D4, "bank.drawn_a", 95.35, 0.005),
        # 8 x 1950 Wh from 100 to 50 %.
        (D4, "bank.usable", 7800, 0.5),
        # 90 + 110 + 110 + 450 W and 40 A x 64 V / 0.92.
        (D4, "circuits.generator_need", 3542.6, 0.05),
        # The heavier leg: 90 + 450 W.
        (D4, "circuits.backup.leg_a", 4.5, 0.0005),
        # 48 V: absorb 8 x 7.3 V.
        (D4, "bank.open_loop.absorb_v", 58.4, 0.05),
    ],
)
def test_figure_by_hand(house: str, key: str, value: float, digits: float) -> None:
    assert plan_of({}, None, house).figures[key].value == pytest.approx(value, abs=digits)


@pytest.mark.parametrize(
    ("house", "circuit", "code", "pulled", "earth"),
    [
        # 63 A breaker of the stack: XLPE B1 two loaded at 41 °C (0.87): 10 mm2 75 x 0.87 = 65.3 A.
        (D2, "bat-main", "10 mm2", "10 mm2", "10 mm2"),
        # 40 A main of the board: XLPE B1 three loaded: 6 mm2 48 x 0.87 = 41.8 A.
        (D2, "backup", "6 mm2", "6 mm2", "6 mm2"),
        # 160 A fuse as a breaker-type device in free air: 35 mm2 185 x 0.91 = 168 A; the maker asks 50 mm2, its earth 25 mm2.
        (D3, "bat-main", "35 mm2", "50 mm2", "25 mm2"),
        # 125 % of 95.35 A is 119.2 A: 1 AWG carries 130 A at 75 °C behind 150 A; the maker asks 2/0 AWG.
        (D4, "bat-main", "1 AWG", "2/0 AWG", ""),
    ],
)
def test_conductor_by_hand(house: str, circuit: str, code: str, pulled: str, earth: str) -> None:
    sized = plan_of({}, None, house).circuits.sized[circuit]
    assert (sized.code_size.label, sized.size, sized.earth_size) == (code, pulled, earth)


def test_colours_follow_the_book() -> None:
    def colour(house: str, circuit: str, role: str) -> str:
        return next(t.colour for t in plan_of({}, None, house).terminations if t.circuit == circuit and t.role == role)

    assert colour(D2, "grid", "line1") == "red"
    assert colour(D2, "grid", "neutral") == "black"
    assert colour(D3, "grid", "line1") == "brown"
    assert colour(D3, "grid", "neutral") == "blue"
    assert colour(D3, "bat-main", "positive") == "brown"
    assert colour(D4, "backup", "line2") == "red"
    assert colour(D4, "backup", "neutral") == "white"


def test_labels_follow_the_system() -> None:
    def places(house: str) -> set[str]:
        return {label.place for label in plan_of({}, None, house).labels}

    assert "Meter" in places(D2)
    assert "Backed-up board, PV breaker" in places(D3)
    assert "Generator inlet" in places(D4)
    assert not any("Service" in place for place in places(D4) if "RAPID" not in place) or "Meter" not in places(D4)
    texts = [label.text for label in plan_of({}, None, D2).labels]
    assert any("584 V DC" in text for text in texts)


def test_power_up_has_what_the_house_has() -> None:
    steps = {house: [s.id for s in plan_of({}, None, house).power_up.steps] for house in (D2, D3, D4)}
    assert "precharge" not in steps[D2]
    assert steps[D2].count("on-bat-1") == 1
    assert "on-bat-2" not in steps[D2]
    assert "precharge" in steps[D3]
    assert "grid-breaker" not in steps[D4]
    assert steps[D4][-1] == "generator-breaker"


def test_the_report_and_the_plan_hold_the_same_figures() -> None:
    from gumboot.documents.report import plan_json

    plan = plan_of({}, None, D2)
    report = plan_json(plan)
    assert {k: f["value"] for k, f in report["figures"].items()} == {k: f.value for k, f in plan.figures.items()}
    assert [r["text"] for r in report["labels"]] == [label.text for label in plan.labels]
    told = {(r["place"], r["side"]): report["figures"][r["current"]]["value"] for r in report["faults"] if r["current"]}
    assert told[("main-board", "AC")] == plan.job.site.grid_fault_a + plan.seats.inverter.source.island_fault_a  # type: ignore[operator]
    assert {r["side"] for r in report["faults"]} == {"AC", "battery", "PV"}
