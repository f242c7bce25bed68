"""What is pulled and what lies together: each conductor of a set at both of its ends, and raceways as things that contain."""

from __future__ import annotations

from typing import Any

import pytest

from gumboot.catalogue import shelf
from gumboot.core.installation.laying import Raceway, raceways_of
from gumboot.core.job.runs import Run
from gumboot.core.plan.derive import derive
from gumboot.core.rulebook.north_american.conductors import current_carrying
from gumboot.core.study.materials import materials
from tests.helpers import edited, findings, plan_of, with_card


def run(name: str, *shares: str, kind: Any = None) -> Run:
    return Run(id=name, shares_with=list(shares), raceway=kind)


@pytest.mark.parametrize(
    ("runs", "found"),
    [
        ([run("a"), run("b")], ()),
        ([run("a", kind="EMT"), run("b")], (Raceway(("a",), ("a",)),)),
        ([run("a", "b", kind="EMT"), run("b")], (Raceway(("a", "b"), ("a",)),)),
        # Whichever of the two says so.
        ([run("a", kind="EMT"), run("b", "a")], (Raceway(("a", "b"), ("a",)),)),
        ([run("a", "b"), run("b", kind="EMT")], (Raceway(("a", "b"), ("b",)),)),
        # By way of a third, named late or early.
        ([run("a", "b", kind="EMT"), run("b"), run("c", "b")], (Raceway(("a", "b", "c"), ("a",)),)),
        ([run("a", "b"), run("c", "d"), run("b"), run("d", "a")], (Raceway(("a", "c", "b", "d"), ()),)),
        ([run("a", kind="EMT"), run("b", kind="FMC")], (Raceway(("a",), ("a",)), Raceway(("b",), ("b",)))),
        ([run("a", "b", kind="EMT"), run("b", "a", kind="EMT")], (Raceway(("a", "b"), ("a", "b")),)),
        # A run that is not there is nothing, and one does not lie with itself twice.
        ([run("a", "x", "a")], (Raceway(("a",), ()),)),
    ],
)
def test_a_raceway_contains_whoever_lies_in_it(runs: list[Run], found: tuple[Raceway, ...]) -> None:
    assert [(r.runs, r.said_by) for r in raceways_of(runs)] == [(r.runs, r.said_by) for r in found]


def test_a_raceway_has_the_kind_of_the_first_and_the_longest_length_that_is_said() -> None:
    one, two = Run(id="a", raceway="EMT", raceway_mm=500, shares_with=["b"]), Run(id="b", raceway="FMC", raceway_mm=700)
    assert [(r.kind, r.length_mm) for r in raceways_of([one, two])] == [("EMT", 700)]
    assert [(r.kind, r.length_mm) for r in raceways_of([one, Run(id="b", raceway="FMC")])] == [("EMT", None)]
    assert [(r.kind, r.length_mm) for r in raceways_of([one, Run(id="b", raceway_mm=900)])] == [("EMT", 500)]
    assert [(r.kind, r.length_mm) for r in raceways_of([Run(id="a", shares_with=["b"]), Run(id="b")])] == [("", None)]


@pytest.mark.parametrize(
    ("poles", "kind", "length", "count"),
    [
        ([2], "EMT", None, 2),
        # One line and its neutral are two; of two or three lines the neutral carries what they do not share.
        ([1], "EMT", None, 2),
        ([3, 2, 2], "EMT", None, 7),
        ([2, 2], "EMT", 600.0, 0),
        ([2, 2], "EMT", 600.1, 4),
        ([3] * 10, "wireway", None, 0),
        ([3] * 9 + [2, 2], "wireway", None, 31),
    ],
)
def test_current_carrying_conductors_of_a_raceway_by_hand(poles: list[int], kind: str, length: float | None, count: int) -> None:
    assert current_carrying(poles, kind, length) == count


def test_grouping_counts_what_lies_there_where_less_was_said() -> None:
    """Said: four of two PV runs, three of the grid's own raceway. With the grid among them there are 2 + 2 + 2."""
    plan = plan_of({"runs.grid.shares_with": ["pv-pv1"]})
    assert [plan.figures[f"circuits.{cid}.together"].value for cid in ("grid", "pv-pv1", "pv-pv2")] == [6, 6, 6]
    # Table 310.15(C)(1): seven to nine 0.7, four to six 0.8.
    assert plan.figures["circuits.grid.grouping_factor"].value == 0.8
    assert "6 lie there, pv-pv1 and pv-pv2 and grid together; 3 were said" in plan.figures["circuits.grid.together"].limits
    assert "circuits.grid.together" not in plan_of({}).figures
    assert "circuits.grid.together" not in plan_of({"runs.grid.shares_with": ["pv-pv1"], "runs.grid.current_carrying": 6}).figures
    more = plan_of({"runs.grid.shares_with": ["pv-pv1"], "runs.grid.current_carrying": 7})
    assert more.figures["circuits.grid.grouping_factor"].value == 0.7
    # Two sets in the same raceway are four conductors.
    assert plan_of({"runs.grid.sets": 2}).figures["circuits.grid.together"].value == 4
    # By IEC circuits are counted: Table B.52.17, two bunched 0.8.
    iec = plan_of({"runs.grid.raceway": "conduit", "runs.grid.shares_with": ["backup"]}, None, "k09-terrace")
    assert iec.figures["circuits.grid.together"].value == 2
    assert iec.figures["circuits.backup.grouping_factor"].value == 0.8


def test_what_lies_together_is_judged_alike_from_either_side() -> None:
    named, naming = plan_of({"runs.grid.shares_with": ["pv-pv1"]}), plan_of({"runs.pv-pv1.shares_with": ["pv-pv2", "grid"]})
    for plan in (named, naming):
        mixed = [f.where for f in plan.findings if f.code == "RACEWAY-MIX"]
        assert {frozenset(where.split(" and ")) for where in mixed} == {frozenset(("pv-pv1", "grid")), frozenset(("pv-pv2", "grid"))}
        assert len(mixed) == 2, "each pair once"
    for figure in ("circuits.grid.fill_pct", "circuits.pv-pv1.fill_pct", "circuits.pv-pv1.wires_mm2"):
        assert named.figures[figure].value == pytest.approx(naming.figures[figure].value)
    # Two lines, neutral and earth of the grid feed beside three of each PV run.
    assert named.figures["circuits.pv-pv1.wires_mm2"].limits.startswith("10 conductors")


def test_a_raceway_is_bought_once() -> None:
    both = {"runs.pv-pv2.raceway": "EMT", "runs.pv-pv2.raceway_size": "3/4", "runs.pv-pv2.shares_with": ["pv-pv1"]}
    rows = [[i for i in materials(plan_of(edits)).items if i.group == "Raceway" and "EMT, 3/4" in i.item] for edits in ({}, both)]
    assert [i.quantity for i in rows[0]] == [i.quantity for i in rows[1]]
    assert rows[1][0].where == "pv-pv1"


def test_each_conductor_of_a_set_is_landed_at_both_ends() -> None:
    one, two = plan_of({}), plan_of({"runs.bat-main.sets": 2})
    ids = [[t.id for t in plan.terminations] for plan in (one, two)]
    own = [i for i in ids[0] if i.endswith(".bat-main")]
    assert own
    assert set(ids[1]) == {*ids[0], *(f"{i}.2" for i in own)}
    assert len(ids[1]) == len(set(ids[1]))
    second = next(t for t in two.terminations if t.id == f"{own[0]}.2")
    assert (second.nth, second.sets, second.size) == (2, 2, two.termination(own[0]).size)  # type: ignore[union-attr]
    assert second.title.endswith(", 2 of 2")
    cut = {c.role: c.count for c in materials(two).cuts if c.circuit == "bat-main"}
    assert cut == {"positive": 2, "negative": 2, "earth": 2}
    # What lies in a raceway is what is pulled.
    counted = [plan_of({"runs.grid.sets": n}).figures["circuits.grid.wires_mm2"].limits for n in (1, 2)]
    assert [words.split()[0] for words in counted] == ["4", "8"]


def test_two_of_a_set_under_a_clamp_that_takes_one_are_a_stop_once_a_clamp() -> None:
    crowded = [f for f in findings({"runs.bat-main.sets": 2}) if f.code == "TERM-DOUBLE"]
    places = [f.where for f in crowded]
    assert "inverter BATTERY +" in places
    assert len(places) == len(set(places))
    port = next(p for p in shelf()["plover-6s"].model_dump()["ports"] if p["id"] == "BATTERY")
    takes_two = {f"ports.BATTERY.terminals.{t['id']}.max_conductors": 2 for t in port["terminals"]}
    left = [f.where for f in findings({"runs.bat-main.sets": 2}, with_card("plover-6s", takes_two)) if f.code == "TERM-DOUBLE"]
    assert set(places) - set(left) == {f"inverter BATTERY {t['id']}" for t in port["terminals"]}


def test_conductors_in_parallel_share_their_resistance() -> None:
    alike, unlike = plan_of({}, None, "g01-cooperage"), plan_of({"runs.bat-main-inv-2.sets": 2}, None, "g01-cooperage")
    one, two = alike.circuits.sized["bat-main-inv-2"], unlike.circuits.sized["bat-main-inv-2"]
    ratio = two.ohm_per_km.value / one.ohm_per_km.value / 2
    key = "bank.lead_ohm.bat-main-inv-2"
    assert unlike.figures[key].value == pytest.approx(ratio * alike.figures[key].value)
    # Mains of one bank that differ by more than their maker lets them.
    assert "PAR-LEADS" in {f.code for f in unlike.findings} - {f.code for f in alike.findings}
    legs = [plan_of({"runs.backup.sets": n, "runs.backup.installed_size": "1/0 AWG"}) for n in (1, 2)]
    drops = [plan.figures["circuits.backup.leg_drop_pct"].value for plan in legs]
    assert drops[1] == pytest.approx(drops[0] / 2)


@pytest.mark.parametrize("house", ["d1-saltmarsh", "g02-dairy", "k09-terrace"])
def test_after_an_edit_of_what_lies_together_the_plan_is_what_a_derivation_from_nothing_gives(house: str) -> None:
    plan, edits = derive(edited({}, house), shelf(), noted=True), dict[str, Any]()
    for path, value in (
        ("runs.grid.shares_with", ["backup"]),
        ("runs.backup.sets", 2),
        ("runs.backup.raceway", "EMT"),
        ("runs.backup.raceway_mm", 500.0),
        ("runs.grid.length_m", 11.0),
        ("runs.grid.shares_with", []),
        ("runs.backup.sets", 1),
    ):
        edits[path] = value
        plan = derive(edited(edits, house), shelf(), plan)
        fresh = derive(edited(edits, house), shelf())
        assert plan.figures == fresh.figures, path
        assert plan.findings == fresh.findings, path
        assert plan.terminations == fresh.terminations, path


def test_a_name_that_no_run_has_is_told_and_one_whose_circuit_is_gone_is_nothing() -> None:
    """A misspelt neighbour would be left out of fill, of grouping and of what may lie together."""
    odd = [f for f in findings({"runs.grid.shares_with": ["pv-pvl", "backup"]}) if f.code == "RACEWAY-NAME"]
    assert [(f.level, f.where, f.field) for f in odd] == [("stop", "grid", "runs.grid.shares_with")]
    assert "pv-pvl" in odd[0].text
    assert "backup" not in odd[0].text
    gone = {"strings": [s.model_dump() for s in edited({}).strings if s.tracker != "PV2"]}
    assert "RACEWAY-NAME" not in {f.code for f in findings(gone)}
