"""Terminations: all of them, with identities that survive unrelated edits."""

from __future__ import annotations

import pytest

from gumboot.catalogue import demo_houses, shelf
from gumboot.core.plan.derive import derive
from gumboot.core.units import lbf_in_from_nm
from tests.helpers import edited, plan_of, with_card


def test_every_core_end_is_a_termination() -> None:
    plan = plan_of()
    assert len(plan.terminations) == sum(len(core.ends) for c in plan.circuits.all for core in c.cores) == 54
    assert len({t.id for t in plan.terminations}) == 54


def test_identity_survives_unrelated_edits() -> None:
    before = {t.id for t in plan_of().terminations}
    edits = {
        "loads": [],
        "runs.grid.length_m": 30,
        "runs.bat-main.installed_size": "4/0 AWG",
        "walls.wall.placements.inverter.x_mm": 1365,
        "settings.reserve_pct": 40,
        "title": "Another name",
    }
    assert {t.id for t in plan_of(edits).terminations} == before


def test_removing_a_string_removes_only_its_own() -> None:
    before = {t.id for t in plan_of().terminations}
    after = {t.id for t in plan_of({"strings.-W1": None}).terminations}
    assert before - after == {t for t in before if t.endswith("pv-pv2")}
    assert after <= before


def test_battery_lug_card() -> None:
    t = plan_of().termination("inverter.battery.pos.bat-main")
    assert t is not None
    assert (t.size, t.wire_class, t.colour) == ("2/0 AWG", "fine strand", "red")
    assert t.preparation == "strip 24 mm · crimp lug M8, 2/0 AWG barrel, die marked 2/0 AWG, 2 crimps · shrink sleeve over the barrel"
    assert [(figure.value, figure.source) for figure in t.lug] == [(2, "cp.crimp")]
    assert t.torque is not None
    assert t.torque_low is not None
    assert t.torque_high is not None
    assert round(lbf_in_from_nm(t.torque.value)) == 97
    assert (t.torque_low.value, t.torque_high.value) == (11 * 0.95, 11 * 1.05)
    assert t.terminal.recheck_24h


def test_spring_terminals_have_no_torque() -> None:
    t = plan_of().termination("inverter.pv1.pos.pv-pv1")
    assert t is not None
    assert t.torque is None
    assert "no ferrule" in t.preparation


def test_landing_order_at_the_inverter_is_earth_first_battery_last() -> None:
    ports = [t.port for t in plan_of().terminations if t.place == "inverter"]
    assert ports[:5] == ["EARTH"] * 5
    assert ports[-2:] == ["BATTERY"] * 2
    assert ports.index("GRID") < ports.index("LOAD") < ports.index("PV1")


@pytest.mark.parametrize("house", [path.name.removesuffix(".gumboot.json") for path in demo_houses()])
def test_the_end_at_a_source_comes_after_the_other_end(house: str) -> None:
    plan = plan_of(name=house)
    order = {t.id: n for n, t in enumerate(plan.terminations)}
    sources = {"roof", "main-board", "generator", *(u.id for u in plan.job.banks[0].units)}
    for t in plan.terminations:
        if t.place in sources:
            others = [o for o in plan.terminations if (o.circuit, o.role) == (t.circuit, t.role) and o.place not in sources]
            assert all(order[o.id] < order[t.id] for o in others), t.id


def test_an_end_that_cannot_be_switched_off_is_landed_by_its_method() -> None:
    plan = plan_of(name="d4-lookout")
    roof = next(t for t in plan.terminations if t.place == "roof" and t.role == "positive")
    cell = next(t for t in plan.terminations if t.place == plan.job.banks[0].units[0].id and t.role == "positive")
    for t in (roof, cell):
        assert "cannot be switched off" in t.live_method
    assert next(t for t in plan.terminations if t.place == "inverter" and t.role == "positive").live_method == ""
    assert next(t for t in plan.terminations if t.role == "earth").live_method == ""
    own = with_card("eaves-6", {"live_method": "Covered plugs only, one at a time."})
    assert next(t for t in plan_of(cards=own, name="d4-lookout").terminations if t.id == roof.id).live_method.startswith("Covered plugs")


@pytest.mark.parametrize("house", [path.name.removesuffix(".gumboot.json") for path in demo_houses()])
def test_no_check_asks_for_a_zero_that_cells_or_daylight_never_give(house: str) -> None:
    plan = plan_of(name=house)
    for check in plan.checks:
        if check.code == "READ-DEAD":
            assert "roof" not in check.title.lower()
            assert not check.title.startswith("DC busbars") or plan.seats.battery.breaker_a


@pytest.mark.parametrize("waits", [{"runs.grid.ambient_c": None}, {"runs.grid.length_m": None}])
def test_a_circuit_that_waits_for_its_size_hides_no_rule_of_its_terminals(waits: dict[str, object]) -> None:
    """Metal, strip and the size that lies there are judged while an answer is missing, as they are with all answers."""
    wrong = {"runs.grid.material": "aluminium", "runs.grid.strip_mm": 40.0, "runs.grid.installed_size": "250 kcmil"}
    codes = ("TERM-RANGE", "TERM-STRIP", "COND-MATERIAL")

    def told(edits: dict[str, object]) -> set[tuple[str, str]]:
        return {
            (f.code, f.where) for f in plan_of(edits).findings if f.code in codes and "EARTH" not in f.where and "BARS E" not in f.where
        }

    known, waiting = told(wrong), told({**wrong, **waits})
    assert {code for code, _ in known} == set(codes)
    assert waiting == known
    assert not told(waits)
    assert "grid" not in plan_of(waits).circuits.sized


def test_what_waits_is_asked_anew_after_each_edit() -> None:
    edits: dict[str, object] = {"runs.grid.ambient_c": None}
    plan = plan_of(edits)
    for path, value in (("material", "aluminium"), ("installed_size", "250 kcmil"), ("material", "copper"), ("installed_size", "6 AWG")):
        edits = {**edits, f"runs.grid.{path}": value}
        plan = derive(edited(edits), shelf(), plan)
        assert plan.findings == derive(edited(edits), shelf()).findings


def test_conductors_without_a_size_fill_their_clamps_too() -> None:
    two = {"runs.bat-main.sets": 2}
    known = [f for f in plan_of(two).findings if f.code == "TERM-DOUBLE"]
    assert known
    assert [f for f in plan_of({**two, "runs.bat-main.length_m": None}).findings if f.code == "TERM-DOUBLE"] == known
    assert "TERM-DOUBLE" not in {f.code for f in plan_of({"runs.bat-main.length_m": None}).findings}


def test_each_card_says_how_its_core_lies_after_it_is_landed() -> None:
    plan = plan_of()
    by_place = {t.place: t.dress for t in plan.terminations}
    assert by_place["inverter"].startswith("A service loop inside, tied to the anchor")
    assert by_place["switch-fuse"].startswith("A service loop along the side")
    # Its maker's words win over what is usual.
    said = plan_of(cards=with_card("plover-6s", {"dress": "Loop behind the left rail."}))
    assert {t.dress for t in said.terminations if t.place == "inverter"} == {"Loop behind the left rail."}
    # Outside a box there is none: the lead of a plug hangs in a bow.
    plugs = [t for house in demo_houses() for t in plan_of(name=house.name.removesuffix(".gumboot.json")).terminations if t.terminal.plug]
    assert plugs
    assert all("bow" in t.dress for t in plugs)
