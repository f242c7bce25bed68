"""The rules of several inverters at their limits, and two houses that break them one by one."""

from __future__ import annotations

from typing import Any

import pytest

from gumboot.catalogue import shelf
from gumboot.core.card import InverterCard
from gumboot.core.rules import parallel as rules
from tests.helpers import findings, plan_of, with_card
from tests.rules.cases import Case, f, prove


def inverter(card: str) -> InverterCard:
    """An inverter of the shelf."""
    found = shelf()[card]
    assert isinstance(found, InverterCard)
    return found


SPLIT, SINGLE, SILENT = inverter("plover-6p"), inverter("tern-5p"), inverter("plover-6s")
assert SPLIT.parallel is not None
OWN = SPLIT.model_copy(update={"parallel": SPLIT.parallel.model_copy(update={"banks": ["several"]})})
THREE = {"L1": ["a"], "L2": ["b"], "L3": ["c"]}
SIX = [*"abcdef"]
TWO = rules.Group(units=["a", "b"], cards=[SPLIT, SPLIT], legs={"L1": ["a", "b"], "L2": ["a", "b"]})
MANY = rules.Group(units=SIX, cards=[SPLIT] * 6, legs={"L1": SIX, "L2": SIX})
PHASES = rules.Group(units=["a", "b", "c"], cards=[SINGLE] * 3, legs=THREE, wanted=["L1", "L2", "L3"])
EMPTIED = rules.Emptied(first="b2", together=f("t", 100, "Wh"), held=f("h", 100, "Wh"))
LEADS = rules.Leads(
    bank="bank",
    units=["bat-main", "bat-main-b"],
    ohms=[f("r1", 2, "mohm"), f("r2", 2.1, "mohm")],
    apart=f("d", 5, "%"),
    most=f("m", 5, "%"),
)
FIRST = rules.Led(unit="a", leader="a", address=1, wanted=1, taken=False, fitted=True, at_an_end=True)
SECOND = rules.Led(unit="b", leader="a", address=2, wanted=2, taken=False, fitted=False, at_an_end=False)
BONDS = rules.Bonding(units=["a", "b"], relays=2, rule="leader only", opens_neutral=True)
OTHER = SPLIT.model_copy(update={"firmware": "9.9"})

CASES = [
    Case(rules.alike, TWO, {"cards": [SPLIT, SILENT]}, "b", "b is a Plover 6S hybrid inverter, a a Plover 6P hybrid inverter", "one card and one firmware",
         field="things.b.card"),
    Case(rules.bank_of_one_island, rules.Shared(bank="bank", islands=["a"]), {"islands": ["a", "b"]}, "bank", "bank serves a and b, which feed apart",
         "own bank", field="things.b.bank"),
    Case(rules.alike, TWO, {"cards": [SPLIT, OTHER]}, "b", "unlike inverters do not share a load", "one card and one firmware", field="things.b.card"),
    Case(rules.as_many_as_allowed, MANY, {"units": [*SIX, "g"]}, "inverters", "7 inverters, 6 of them on one leg; Plover 6P hybrid inverter allows 6 together",
         "Take inverters out", field="things"),
    Case(rules.as_many_as_allowed, MANY, {"legs": {"L1": [*SIX, "g"]}}, "inverters", "7 of them on one leg", "Take inverters out", field="things"),
    Case(rules.as_many_as_allowed, TWO, {"cards": [SILENT, SILENT]}, "inverters", "says nothing of several inverters together: one is allowed",
         "lets work in a group", field="things.a.card"),
    Case(rules.makes_these_phases, PHASES, {"legs": {"L1": ["a"], "L2": ["b"]}}, "inverters", "3 single-phase inverters are to make split phase",
         "may be phase-shifted", field="things.a.phase"),
    Case(rules.makes_these_phases, PHASES, {"cards": [SINGLE.model_copy(update={"parallel": None})] * 3}, "inverters", "are to make three phase",
         "may be phase-shifted", field="things.a.phase"),
    Case(rules.banks_as_allowed, TWO.but(banks=["x", "y"]), {"cards": [SINGLE, SINGLE]}, "inverters", "does not say that a group may",
         "Hang all inverters on one bank", field="things.b.bank"),
    Case(rules.banks_as_allowed, TWO.but(banks=["x", "x"], cards=[SILENT, SILENT]), {"banks": ["x", "y"]}, "inverters",
         "hang on several banks", "Hang all inverters on one bank", field="things.b.bank"),
    Case(rules.banks_as_allowed, TWO.but(banks=["x", "y"], cards=[OWN, OWN]), {"banks": ["x", "x"]}, "inverters",
         "hang on one bank", "a bank of its own", field="things.b.bank"),
    Case(rules.empty_together, EMPTIED, {"together": f("t", 99.9, "Wh")}, "b2", "b2 is empty first: of 100 Wh in all banks 100 Wh are counted",
         "by the size of its inverters", "t", "h", "banks.b2.units"),
    Case(rules.every_leg_is_made, PHASES, {"legs": {"L1": ["a"], "L2": [], "L3": []}}, "inverters", "No inverter makes L2 and L3",
         "which phase it makes", field="things.c.phase"),
    Case(rules.at_a_panel, rules.Joined(units=["a", "b"], fed="house", panel="p"), {"panel": ""}, "house", "2 inverters feed house directly",
         "combining panel", field="things.b.feeds"),
    Case(rules.one_supply, rules.Supplied(things=["a", "b"], supplies=["house", "house"]), {"supplies": ["house", "barn"]}, "b",
         "a joins the supply of house, b that of barn: through what they feed, one supply feeds the other.", "main boards of one supply",
         field="things.b.board"),
    Case(rules.one_supply, rules.Supplied(things=[], supplies=[]), {"things": ["a", "b", "c"], "supplies": ["x", "x", "y"]}, "c", "c that of y",
         "loads of their own", field="things.c.board"),
    Case(rules.bars_take_each_main, rules.Studs(box="bars", title="Trough", studs=2, inverters=2), {"inverters": 3}, "bars",
         "Trough has studs for 2 inverters; 3 hang on this bank.", "bars with more studs", field="things.bars.card"),
    Case(rules.bars_take_each_main, rules.Studs(box="bars", title="Trough", studs=1, inverters=1), {"inverters": 2}, "bars",
         "Trough has studs for 1 inverter; 2 hang on this bank.", "bars with more studs", field="things.bars.card"),
    Case(rules.equal_mains, LEADS, {"apart": f("d", 5.01, "%")}, "bank", "differ by 5 %: bat-main has the easier way to the bank. 5 % is the most.",
         "one length and one size", "d", "m", "runs.bat-main.length_m"),
    Case(rules.own_address, FIRST, {"address": 0}, "a", "a leads the group and is set to address 0; the leader's is 1.", "Set a to 1.",
         field="things.a.address"),
    Case(rules.own_address, SECOND, {"address": 1, "taken": True}, "b", "address 1, which another inverter already has", "Set b to 2.",
         field="things.b.address"),
    Case(rules.own_address, SECOND, {"address": 3}, "b", "its place on the link wants 2", "Set b to 2.", field="things.b.address", level="caution"),
    Case(rules.ends_of_the_link, FIRST, {"fitted": False}, "a", "sits at an end of the link between inverters and has no terminator", "two ends",
         field="things.a.terminator"),
    Case(rules.ends_of_the_link, SECOND, {"fitted": True}, "b", "its place wants no terminator and it has one", "two ends", field="things.b.terminator"),
    Case(rules.ends_of_the_link, FIRST.but(terminates=False, fitted=False), {"fitted": True}, "a", "wants no terminator", "two ends",
         field="things.a.terminator"),
    Case(rules.one_of_them_bonds, BONDS, {"rule": "each"}, "neutral", "2 inverters would each close a bond relay in island: 2 bonds.", "Let one unit bond",
         field="things.a.card"),
    Case(rules.one_of_them_bonds, BONDS, {"rule": ""}, "neutral", "2 inverters would each close", "Let one unit bond", field="things.a.card"),
    Case(rules.one_of_them_bonds, BONDS.but(rule="told off", opens_neutral=False), {"opens_neutral": True}, "neutral", "no bond is left",
         "keep the neutral through", field="things.a.card"),
    Case(rules.one_of_them_bonds, BONDS.but(rule="told off", opens_neutral=False), {"opens_neutral": None}, "neutral", "no bond is left",
         "keep the neutral through", field="things.a.card"),
    Case(rules.one_meter, rules.Metered(leader="a", readers=["a"]), {"readers": ["b"]}, "b", "CTs are wired to b; a leads the group", "to the leader",
         field="sensing.meters"),
    Case(rules.one_meter, rules.Metered(leader="a", readers=["a"]), {"readers": ["a", "b"]}, "b", "CTs are wired to a, b", "none to the others",
         field="sensing.meters"),
    Case(rules.one_meter, rules.Metered(leader="a", readers=["a"]), {"readers": ["a", "a"]}, "a", "CTs are wired to a, a", "one set of CTs",
         field="sensing.meters"),
    Case(rules.panel_bar, rules.PanelBar(panel="p", total=f("t", 125), limit=f("l", 125)), {"total": f("t", 125.1)}, "p",
         "The inverters bring 125.1 A to the bar of p; it may carry 125.0 A.", "larger bar", "t", "l", "things.p.card"),
]  # fmt: skip


@pytest.mark.parametrize("case", CASES, ids=[f"{c.rule.code}-{i}" for i, c in enumerate(CASES)])
def test_at_the_limit_and_just_beyond(case: Case) -> None:
    prove(case)


def test_one_inverter_asks_nothing_of_a_group() -> None:
    alone = rules.Group(units=["a"], cards=[SILENT], legs={"L1": ["a"], "L2": ["a"]})
    assert rules.as_many_as_allowed(alone) is None
    assert rules.one_of_them_bonds(BONDS.but(units=["a"], relays=1, rule="")) is None
    assert rules.one_of_them_bonds(BONDS.but(relays=0, rule="")) is None


G1, G2 = "g01-cooperage", "g02-dairy"
BROKEN: list[tuple[str, str, dict[str, Any]]] = [
    ("PAR-ALIKE", G1, {"things.inv-2.card": "plover-6s"}),
    ("PAR-COUNT", G1, {"things.inv-1.card": "plover-6s", "things.inv-2.card": "plover-6s"}),
    ("PAR-LEG", G2, {"things.inv-l3.phase": "L2"}),
    ("PAR-SHIFT", G2, {"things.inv-l3.phase": "L2"}),
    ("PAR-PANEL", G1, {"things.inv-1.feeds": "sub-board", "things.inv-2.feeds": "sub-board"}),
    ("PAR-LEADS", G1, {"runs.bat-main-inv-2.length_m": 2.0}),
    ("PAR-ADDRESS", G2, {"things.inv-l2.address": 1}),
    ("PAR-TERMINATOR", G2, {"things.inv-l2.terminator": True}),
    ("PAR-METER", G1, {"sensing.meters.meter.inverter": "inv-2"}),
    ("PAR-BAR", G1, {"things.panel.card": "larder-8"}),
]


@pytest.mark.parametrize(("code", "house", "edits"), BROKEN, ids=[row[0] for row in BROKEN])
def test_a_house_of_several_is_stopped(code: str, house: str, edits: dict[str, Any]) -> None:
    if code == "PAR-BAR":
        small = with_card("weir-125c", {"busbar_a": 62.4})
        assert code in {x.code for x in findings({}, small, house)}
        assert code not in {x.code for x in findings({}, with_card("weir-125c", {"busbar_a": 62.5}), house)}
        return
    assert code in {x.code for x in findings(edits, None, house)}
    assert code not in {x.code for x in findings({}, None, house)}


def test_bars_with_one_pair_of_studs_do_not_take_two_mains() -> None:
    ports = shelf()["trough-600"].model_dump(mode="json")["ports"]
    mains = [t for p in ports if p["id"] == "MAIN" for t in p["terminals"] if not t["id"].endswith("2")]
    assert "BANK-STUDS" in {x.code for x in findings({}, with_card("trough-600", {"ports.MAIN.terminals": mains}), G1)}


def test_mains_of_one_bank_by_resistance() -> None:
    assert plan_of({"runs.bat-main-inv-2.length_m": 1.89}, None, G1).figures["group.mains_apart.bank"].value == pytest.approx(5.0)
    assert "PAR-LEADS" not in {x.code for x in findings({"runs.bat-main-inv-2.length_m": 1.88}, None, G1)}
    assert "PAR-LEADS" in {x.code for x in findings({"runs.bat-main-inv-2.length_m": 1.9}, None, G1)}


def test_two_inverters_by_hand() -> None:
    f_ = plan_of({}, None, G1).figures
    # Two of 6 kW; 6000 / (48 x 0.94) each at the lowest voltage of the bank.
    one = f_["bank.design_a"].value
    assert f_["group.output_w"].value == 12000
    assert f_["bank.all_a"].value == pytest.approx(2 * one)
    assert f_["bank.design_a.inv-2"].value == pytest.approx(one)
    assert f_["loads.leg_surge_limit"].value == 12000
    # NEC 705.12: 150 A main and 125 % of two times 25 A on a bus of 200 A at 120 %.
    assert f_["circuits.busbar_sum"].value == pytest.approx(150 + 1.25 * 50)
    assert f_["circuits.panel.sum_a"].value == pytest.approx(1.25 * 50)


def test_three_single_phase_units_by_hand() -> None:
    plan = plan_of({}, None, G2)
    f_ = plan.figures
    assert plan.house.legs == ("L1", "L2", "L3")
    assert f_["group.output_w"].value == 15000
    assert plan.loads.leg_limit.value == 5000
    assert f_["group.line_v"].value == pytest.approx(230 * 3**0.5)
    # One unit on each phase: the network sees its current once, not three times.
    assert plan.circuits.busbar_sum is not None
    assert plan.circuits.busbar_sum.value == pytest.approx(63 + 21.7)
    assert {c.id: c.lines for c in plan.circuits.all if not c.is_dc} == {
        "grid": 1, "grid-inv-l2": 1, "grid-inv-l3": 1, "inverter-out": 1, "inverter-out-inv-l2": 1, "inverter-out-inv-l3": 1, "backup": 3,
    }  # fmt: skip
    ends = [e for core in plan.house.by_id["grid-inv-l3"].cores for e in core.ends]
    assert [(e.place, e.terminal) for e in ends if e.port in ("BREAKER", "GRID")] == [
        ("main-board", "L3"),
        ("inv-l3", "L1"),
        ("inv-l3", "N"),
    ]
