"""Strings that meet at one input: each proved before it is joined, on several faces with a loss, under the limit of their place."""

from __future__ import annotations

from typing import Any, cast

import pvlib
import pytest

from gumboot.catalogue import shelf
from gumboot.core.card import ModuleCard
from gumboot.core.plan.derive import Plan
from gumboot.core.sim.diode import Panel, current_a, lost_share, most_w
from tests.helpers import codes, edited, plan_of, with_card

SLATE = cast("ModuleCard", shelf()["slate-410"])
PANEL = Panel(SLATE.voc_v, SLATE.vmp_v, SLATE.isc_a, SLATE.imp_a, SLATE.vmp_per_k)
# Two equal strings of eight on PV1, one of them on the west face.
PAIR: dict[str, Any] = {"strings.S1.modules": 8, "strings.W1.tracker": "PV1"}
WIDE = {"trackers.PV1.i_max_a": 40, "trackers.PV1.isc_max_a": 50, "trackers.PV1.terminal_max_a": 50}


def checks(plan: Plan) -> dict[str, str]:
    return {c.id: c.title for c in plan.checks if c.id.startswith(("polarity", "iso-", "voc"))}


def test_every_string_of_an_input_is_proved_by_itself() -> None:
    plan = plan_of(PAIR)
    assert [*checks(plan)] == [f"{what}-PV1-{s}" for s in ("S1", "W1") for what in ("polarity", "iso", "voc")]
    assert checks(plan)["voc-PV1-W1"] == "Open-circuit voltage of W1 on PV1, before it is joined"
    bands = {c.id: c.expected.value for c in plan.checks if c.expected is not None and c.id.startswith("voc")}
    alone = plan_of({"strings.S1.modules": 8}).strings.by_id("PV1").today_v.value  # type: ignore[union-attr]
    assert bands == {"voc-PV1-S1": pytest.approx(alone), "voc-PV1-W1": pytest.approx(alone)}
    # Of unlike length each has its own band, the shorter one too.
    uneven = plan_of({**PAIR, "strings.W1.modules": 7})
    assert {c.id: c.expected.value for c in uneven.checks if c.id == "voc-PV1-W1"} == {"voc-PV1-W1": pytest.approx(alone * 7 / 8)}  # type: ignore[union-attr]
    # One that is alone keeps the name of its input.
    assert [*checks(plan_of({}))] == [f"{what}-{t}" for t in ("PV1", "PV2") for what in ("polarity", "iso", "voc")]


def test_optimised_strings_give_about_a_volt_each_before_they_are_commanded() -> None:
    job = {"equipment.optimiser": "ripple-o", "strings.S1.modules": 9}
    (check,) = [c for c in plan_of(job).checks if c.id == "voc-PV1"]
    assert (check.expected.value, check.low.value, check.high.value) == (9, pytest.approx(7.2), pytest.approx(10.8))  # type: ignore[union-attr]
    # Its cells' temperature moves nothing.
    assert check.moved_by(60) == 1
    silent = plan_of(job, with_card("ripple-o", {"safe_v": None}))
    assert "voc-PV1" not in checks(silent)


@pytest.mark.parametrize(
    ("edits", "says"),
    [
        (PAIR, {"PV-FACES"}),
        ({**PAIR, "strings.W1.modules": 7}, {"PV-UNLIKE"}),
        ({**PAIR, "strings.W1.face": "south", "strings.S1.modules": 6, "strings.W1.modules": 6}, set()),
        ({"strings.S1.modules": 8}, set()),
    ],
)
def test_equal_strings_on_two_faces_are_a_caution(edits: dict[str, Any], says: set[str]) -> None:
    assert codes(edits, with_card("plover-6s", WIDE)) & {"PV-FACES", "PV-UNLIKE"} == says


def test_parallel_inputs_still_want_identical_strings() -> None:
    wide = with_card("plover-6s", {**WIDE, "pv_modes": ["independent", "parallel"]})
    assert "PV-MODE" in codes({**PAIR, "pv_mode": "parallel"}, wide)


def test_the_loss_of_two_faces_is_told_with_its_working() -> None:
    plan = plan_of(PAIR, with_card("plover-6s", WIDE))
    lost = plan.figures["strings.PV1.faces_lost"]
    (told,) = [f for f in plan.findings if f.code == "PV-FACES"]
    assert told.found is lost
    assert 0.1 < lost.value < 5
    # The warmer face of an input is the one that limits its voltage in summer.
    south = plan_of({**PAIR, "faces.south.cell_rise_k": 45}).figures["strings.PV1.hot_cell"].value
    west = plan_of({**PAIR, "faces.west.cell_rise_k": 45}).figures["strings.PV1.hot_cell"].value
    assert south == west == edited({}).site.summer_high_c + 45  # type: ignore[operator]


def test_the_curve_goes_through_the_four_points_of_the_card() -> None:
    assert current_a(PANEL, 0, 1, 25) == pytest.approx(PANEL.isc_a, rel=1e-3)
    assert current_a(PANEL, PANEL.voc_v, 1, 25) == pytest.approx(0, abs=1e-8)
    assert current_a(PANEL, PANEL.vmp_v, 1, 25) == pytest.approx(PANEL.imp_a)
    assert current_a(PANEL, PANEL.voc_v * (1 + 40 * PANEL.per_k), 1, 65) == pytest.approx(0, abs=1e-8)
    assert most_w(PANEL, [(1.0, 25.0)]) == pytest.approx(PANEL.vmp_v * PANEL.imp_a, rel=2e-3)


@pytest.mark.parametrize("second", [(0.2, 31.0), (0.5, 40.0), (1.0, 55.0)])
def test_the_loss_is_that_of_a_whole_diode_model(second: tuple[float, float]) -> None:
    """Two modules at one voltage by a five-parameter model of another library, which leakage is part of."""
    fitted, _ = pvlib.ivtools.sdm.fit_desoto(
        SLATE.vmp_v, SLATE.imp_a, SLATE.voc_v, SLATE.isc_a, alpha_sc=0.0005 * SLATE.isc_a, beta_voc=SLATE.voc_per_k * SLATE.voc_v,
        cells_in_series=54, root_kwargs={"method": "lm", "options": {"maxiter": 20000}},
    )  # fmt: skip
    suns = [(1.0, 55.0), second]
    curves = []
    for sun, cell in suns:
        photo, saturation, series, shunt, thermal = pvlib.pvsystem.calcparams_desoto(
            1000.0 * sun,
            cell,
            0.0005 * SLATE.isc_a,
            fitted["a_ref"],
            fitted["I_L_ref"],
            fitted["I_o_ref"],
            fitted["R_sh_ref"],
            fitted["R_s"],
        )
        curves.append((photo, saturation, series, shunt, thermal))
    best = sum(float(pvlib.pvsystem.singlediode(*c)["p_mp"]) for c in curves)
    volts = [SLATE.voc_v * n / 400 for n in range(200, 400)]
    joined = max(v * sum(float(pvlib.pvsystem.i_from_v(v, *c)) for c in curves) for v in volts)
    theirs, ours = 1 - joined / best, lost_share(PANEL, suns)
    assert ours == pytest.approx(theirs, abs=0.004)
    assert most_w(PANEL, suns) <= sum(most_w(PANEL, [sun]) for sun in suns) + 1e-9


@pytest.mark.parametrize(
    ("book", "where", "limit"),
    [
        ("nec-2023", "dwelling", 600),
        ("nec-2023", "other building", 1000),
        ("nec-2023", "ground", 1500),
        ("iec-60364", "dwelling", 1000),
        ("iec-60364", "ground", 1500),
        ("as-nzs-3000", "dwelling", 600),
        ("as-nzs-3000", "other building", 1000),
    ],
)
def test_the_limit_of_the_book_goes_by_the_place(book: str, where: str, limit: float) -> None:
    wide = with_card("plover-6s", {"trackers.PV1.v_max": 2000})
    wide = {**wide, "slate-410": SLATE.model_copy(update={"system_v_max": 2000})}
    plan = plan_of({"rule_book": book, "faces.south.building": where}, wide)
    assert plan.figures["strings.PV1.limit_v"].value == limit
    # The other input keeps the limit of its own face.
    assert plan.figures["strings.PV2.limit_v"].value == min(500, plan_of({"rule_book": book}).figures["strings.PV2.limit_v"].value)


def test_of_two_places_on_one_input_the_stricter_holds() -> None:
    wide = with_card("plover-6s", {**WIDE, "trackers.PV1.v_max": 2000})
    one = plan_of({**PAIR, "faces.south.building": "ground"}, wide).figures["strings.PV1.limit_v"].value
    both = plan_of({**PAIR, "faces.south.building": "ground", "faces.west.building": "other building"}, wide)
    assert (one, both.figures["strings.PV1.limit_v"].value) == (600, min(1000, SLATE.system_v_max))


def test_what_the_other_strings_feed_back_is_a_figure() -> None:
    wide = with_card("plover-6s", WIDE)
    back = plan_of({**PAIR, "strings.W1.face": "south"}, wide).figures["strings.PV1.back_a"]
    assert back.value == pytest.approx(1.25 * SLATE.isc_a)
    iec = plan_of({**PAIR, "rule_book": "iec-60364"}, wide).figures["strings.PV1.back_a"]
    assert iec.value == pytest.approx(SLATE.isc_a)
    assert "strings.PV1.back_a" not in plan_of({}).figures
    short = {**wide, "slate-410": SLATE.model_copy(update={"fuse_max_a": back.value - 0.01})}
    assert "PV-FUSE" in codes(PAIR, short)
    assert "PV-FUSE" not in codes(PAIR, {**short, "slate-410": SLATE.model_copy(update={"fuse_max_a": back.value})})
    assert edited(PAIR).string_fuse_a is None


@pytest.mark.parametrize(("noct_c", "rise_k"), [(None, 32), (40, 32), (45, 32), (50, 37.5)])
def test_cells_are_never_cooler_than_their_maker_measured_in_the_open(noct_c: float | None, rise_k: float) -> None:
    plan = plan_of({"site.summer_high_c": 34}, with_card("slate-410", {"noct_c": noct_c}))
    hottest = plan.figures["strings.PV1.hot_cell"].value
    assert hottest == pytest.approx(34 + rise_k)
    if noct_c is not None:
        assert hottest >= float(pvlib.temperature.ross(1000, 34, noct=noct_c)) - 1e-9
