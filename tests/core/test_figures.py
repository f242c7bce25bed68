"""Every figure shown can be worked again from what its working shows."""

from __future__ import annotations

import gc
import math
import weakref
from typing import Any

import pytest

from gumboot.catalogue import demo_house, demo_houses, shelf
from gumboot.core.errors import BadFigure
from gumboot.core.expression import FUNCTIONS
from gumboot.core.figure import Figure, checked
from gumboot.core.ledger import Ledger
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.rulebook.loader import sources
from gumboot.core.study.alternatives import alternatives
from gumboot.core.study.growth import room_to_grow
from gumboot.core.study.layout_ranks import find_layouts
from gumboot.core.study.layouts import series_mismatch
from gumboot.core.study.materials import materials, wall_route
from gumboot.core.study.pick import balance_legs, best_pick
from gumboot.core.study.year import field_figure, study_year
from gumboot.drawing.show import substituted
from tests.helpers import GOOD, told_in_words

HOUSES = [path.name.removesuffix(".gumboot.json") for path in demo_houses()]
NAMES = {**FUNCTIONS, "sqrt": math.sqrt}


@pytest.fixture(scope="module", params=HOUSES)
def plan(request: pytest.FixtureRequest) -> Plan:
    return derive(demo_house(request.param), shelf())


def test_every_formula_gives_its_value(plan: Plan) -> None:
    worked = [f for f in plan.figures.values() if f.formula and not told_in_words(f)]
    assert len(worked) > 100
    for figure in worked:
        values = {g.symbol: g.value for g in figure.given}
        again = eval(figure.formula, {"__builtins__": {}}, {**NAMES, **values})
        assert again == pytest.approx(figure.value, rel=1e-9, abs=1e-9), figure.key


def test_substituted_formula_shows_the_same_value(plan: Plan) -> None:
    for figure in plan.figures.values():
        if figure.formula and figure.given and not told_in_words(figure):
            shown = eval(substituted(figure), {"__builtins__": {}}, NAMES)
            assert shown == pytest.approx(figure.value, rel=2e-4, abs=2e-3), figure.key


def test_every_source_resolves(plan: Plan) -> None:
    for figure in plan.figures.values():
        assert figure.is_input or figure.source in sources(), figure.key


def test_givens_can_be_opened(plan: Plan) -> None:
    for figure in plan.figures.values():
        for given in figure.given:
            assert given.key in plan.figures, f"{figure.key} rests on {given.key}"


def test_every_finding_speaks_of_figures_that_can_be_opened(plan: Plan) -> None:
    for finding in plan.findings:
        for figure in (finding.found, finding.limit):
            assert figure is None or figure.key in plan.figures, finding.code


def test_every_band_of_a_check_can_be_opened(plan: Plan) -> None:
    for check in plan.all_checks():
        for figure in (check.low, check.high, check.expected):
            assert figure is None or figure.key in plan.figures, check.id


def test_a_decision_is_found_behind_a_figure() -> None:
    decisions = {f.source for f in derive(demo_house(GOOD), shelf()).figures["strings.PV1.cold_v"].decisions()}
    assert decisions == {"input:strings.S1.modules", "input:site.record_low_c"}


@pytest.mark.parametrize(
    ("figure", "words"),
    [
        (Figure("k", "x", "n", math.inf, "A", source="arith"), "not finite"),
        (Figure("k", "x", "n", math.nan, "A", source="arith"), "not finite"),
        (Figure("k", "x", "n", 1.0, "A", source=""), "no source"),
    ],
)
def test_bad_figures_are_refused(figure: Figure, words: str) -> None:
    with pytest.raises(BadFigure, match=words):
        checked(figure)


def test_ledger_refuses_an_unknown_source_and_a_second_value() -> None:
    ledger = Ledger.of(demo_house(GOOD), shelf())
    with pytest.raises(BadFigure, match="unknown source"):
        ledger.work("k", "x", "n", 1.0, "A", source="nec.999")
    with pytest.raises(BadFigure, match="not finite"):
        ledger.work("k", "x", "n", math.nan, "A", source="arith")
    with pytest.raises(BadFigure, match="no source"):
        ledger.work("k", "x", "n", 1.0, "A", source="")
    ledger.work("k", "x", "n", 1.0, "A", source="arith")
    with pytest.raises(BadFigure, match="twice"):
        ledger.work("k", "x", "n", 2.0, "A", source="arith")
    with pytest.raises(BadFigure, match=r"twice, as n 1\.0 and another name 1\.0"):
        ledger.work("k", "x", "another name", 1.0, "A", source="arith")


def test_a_copy_of_a_card_is_read_afresh() -> None:
    card = shelf()["cobble-5"]
    before = card.figure("discharge_a")
    assert before is card.figure("discharge_a")
    other = card.model_copy(update={"discharge_a": 1.0})
    found = other.figure("discharge_a")
    assert found is not None
    assert found.value == 1.0
    assert card.figure("discharge_a") is before


def test_what_is_not_declared_is_no_figure() -> None:
    with pytest.raises(BadFigure, match="not declared"):
        shelf()["cobble-5"].figure("dip_switches")
    with pytest.raises(KeyError):
        shelf()["cobble-5"].figure("lead_mim")


def study_figures(plan: Plan) -> list[Figure]:
    """Every figure that a study shows beside the plan's own."""
    found: list[Figure] = [*study_year(plan).figures.values(), *materials(plan).figures.values()]
    found += [s.figure for free in (False, True) for x in best_pick(plan, free).left_out for s in x.because if s.figure]
    year = study_year(plan)
    found += [f for h in range(24) for m in range(12) if (f := field_figure(year, h, m))]
    found += [balance_legs(plan).after(leg) for leg in plan.loads.running]
    found += [f for x in find_layouts(plan).best for f in (x.margin, x.yearly) if f]
    found += [f for f in (series_mismatch(plan),) if f]
    found += [r.figure(len(plan.job.banks[0].units)) for r in room_to_grow(plan)]
    found += [f for c in plan.circuits.all if (f := wall_route(plan, c))]
    for row in alternatives(plan, next(iter(plan.circuits.sized))):
        found += [f for f in (row.headroom, row.copper) if f]
    return found


def test_every_figure_of_a_study_gives_its_value_and_names_its_source(plan: Plan) -> None:
    found = study_figures(plan)
    assert len(found) > 20
    for figure in found:
        checked(figure)
        assert figure.is_input or figure.source in sources(), figure.key
        if figure.formula:
            again = eval(figure.formula, {"__builtins__": {}}, {**NAMES, **{g.symbol: g.value for g in figure.given}})
            assert again == pytest.approx(figure.value, rel=1e-9, abs=1e-9), figure.key
            if figure.given:
                shown = eval(substituted(figure), {"__builtins__": {}}, NAMES)
                assert shown == pytest.approx(figure.value, rel=1e-3, abs=5e-2), figure.key


@pytest.mark.parametrize("house", ["d1-saltmarsh", "g01-cooperage"])
def test_a_plan_leaves_nothing_to_the_collector(house: str) -> None:
    job, cards = demo_house(house), shelf()
    derive(job, cards)
    gc.collect()
    gc.disable()
    try:
        plan = derive(job, cards)
        held: list[weakref.ref[Any]] = [weakref.ref(plan), weakref.ref(plan.house), *(weakref.ref(island) for island in plan.islands)]
        del plan
        assert [ref() is None for ref in held] == [True] * 3
        # Nor do its figures and expressions wait.
        assert gc.collect() < 50
    finally:
        gc.enable()
