"""Fault current at each place: by hand at single places, by the laws of networks everywhere."""

from __future__ import annotations

import itertools
import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gumboot.catalogue import demo_house, demo_houses, shelf
from gumboot.core.card import Shelf
from gumboot.core.installation import Circuit
from gumboot.core.installation.parts import Core, End
from gumboot.core.installation.paths import MOST_STEPS, reached_from, ways_from
from gumboot.core.job import Job
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.rulebook.common.conductors import far_fault_current_a, largest_fault_current_a, ways_together
from tests.core.test_several_boards import fed, mains, plan_of

HOUSES = [path.name.removesuffix(".gumboot.json") for path in demo_houses()]
# Chapter 9 Table 8, stranded copper, ohm per 1000 ft at 75 °C; note 2 for 20 °C.
OHM_PER_KFT = {"6 AWG": 0.491, "3 AWG": 0.245, "2/0 AWG": 0.0967}
COLD = 1 + 0.00323 * (20 - 75)


def document(name: str) -> dict[str, Any]:
    return demo_house(name).model_dump(mode="json")


def amps(plan: Plan, place: str, side: Any = "AC") -> float:
    found = plan.faults.of(place, side)
    assert found is not None
    assert found.amps is not None
    return found.amps.value


def silent(*cards: str) -> Shelf:
    """The shelf with cards that say nothing of what they push into a fault."""
    told: Shelf = shelf()
    for name in cards:
        card: Any = told[name]
        said = {"fault_a": None} if card.kind == "generator" else {"source": card.source.model_copy(update={"island_fault_a": None})}
        told = {**told, name: card.model_copy(update=said)}
    return told


def ohm(plan: Plan, *circuits: str) -> float:
    """One line at 20 °C, by the table."""
    sized = [plan.circuits.sized[c] for c in circuits]
    return sum(OHM_PER_KFT[z.size] / 304.8 * COLD * z.length.value for z in sized)


def test_the_network_pushes_less_with_every_metre() -> None:
    """5200 A at 120 V are 23.1 mohm; the lines' resistance stands at right angles to it."""
    plan = plan_of(document("d1-saltmarsh"))
    assert amps(plan, "main-board") == 5200 + 50
    for place, way in (("inverter", ("grid",)), ("sub-board", ("grid", "backup"))):
        assert amps(plan, place) == pytest.approx(120 / math.hypot(120 / 5200, ohm(plan, *way)) + 50, rel=2e-3)


def test_a_feeder_between_main_boards_lies_in_the_way() -> None:
    plan = plan_of(fed())
    assert amps(plan, "main-board") == 5200 + 50
    assert amps(plan, "annex") == pytest.approx(120 / math.hypot(120 / 5200, ohm(plan, "feeder-annex")) + 50, rel=2e-3)
    assert amps(plan, "inverter") == pytest.approx(120 / math.hypot(120 / 5200, ohm(plan, "feeder-annex", "grid")) + 50, rel=2e-3)
    # While nobody has said how it runs it holds nothing back, and a board with a service of its own has it all.
    for unknown in (mains(behind=True), mains(behind=False)):
        assert amps(plan_of(unknown), "annex") == 5200 + 50


def test_two_inverters_are_two_ways_to_their_panel() -> None:
    plan = derive(Job.model_validate(document("g01-cooperage")), silent("plover-6p"))
    one, two = (ohm(plan, *way) for way in (("grid", "inverter-out"), ("grid-inv-2", "inverter-out-inv-2")))
    assert amps(plan, "panel") == pytest.approx(120 / math.hypot(120 / 8200, 1 / (1 / one + 1 / two)), rel=2e-3)
    found = plan.faults.of("panel", "AC")
    assert found is not None
    assert found.sources == ("the network",)
    assert found.silent == ("Inverter 1", "Inverter 2")
    assert found.amps is not None
    assert "Not counted, for want of an answer: Inverter 1, Inverter 2." in found.amps.limits


def test_inverters_on_three_legs_add_on_the_leg_that_most_stand_on() -> None:
    plan = plan_of(document("g02-dairy"))
    assert amps(plan, "main-board") == 4200 + 60
    together = document("g02-dairy")
    for thing in together["things"]:
        if thing["seat"] == "inverter":
            thing["phase"] = "L1"
    assert amps(plan_of(together), "main-board") == 4200 + 3 * 60


def test_a_generator_and_the_network_are_never_both_taken_in() -> None:
    job = Job.model_validate(document("k03-tollhouse"))
    name = next(t.card for t in job.things if t.seat == "generator")
    card = shelf()[name]
    network = amps(derive(job, shelf()), "inverter") - 60
    for says, taken in ((500.0, network), (9000.0, 9000.0)):
        plan = derive(job, {**shelf(), name: card.model_copy(update={"fault_a": says})})
        assert amps(plan, "inverter") == pytest.approx(taken + 60)
        # The network never reaches the generator, and the generator never the main board.
        assert amps(plan, "generator") == says + 60
        assert amps(plan, "main-board") == 3200 + 60


def test_nothing_passes_a_manual_switch_from_side_to_side() -> None:
    """An inverter with no feed from the grid, on one side of the switch: what the network pushes stops at the switch."""
    alone = document("k05-homestead")
    inverter = next(t for t in alone["things"] if t["seat"] == "inverter")
    inverter["board"] = None
    card = shelf()[inverter["card"]]
    cards = {**shelf(), card.id: card.model_copy(update={"source": card.source.model_copy(update={"island_fault_a": 70.0})})}  # type: ignore[union-attr]
    plan = derive(Job.model_validate(alone), cards)
    found = plan.faults.of("inverter", "AC")
    assert found is not None
    assert (found.sources, amps(plan, "inverter")) == (("inverter",), 70)
    assert amps(plan, "main-board") == 6000
    # Beyond the switch either side may stand: both are counted.
    assert amps(plan, "transfer") == pytest.approx(120 / math.hypot(120 / 6000, ohm(plan, "through")) + 70, rel=2e-3)
    assert amps(plan, "sub-board") == pytest.approx(120 / math.hypot(120 / 6000, ohm(plan, "through", "backup")) + 70, rel=2e-3)


def test_what_nobody_says_is_no_number() -> None:
    plan = derive(Job.model_validate(document("d4-lookout")), silent("lantern-4", "donkey-6"))
    found = plan.faults.of("sub-board", "AC")
    assert found is not None
    assert (found.amps, found.sources, found.silent) == (None, (), ("inverter", "generator"))
    asked = document("d1-saltmarsh")
    asked["site"]["grid_fault_a"] = None
    unanswered = derive(Job.model_validate(asked), silent("plover-6s"))
    assert "site.grid_fault_a" in [g.path for g in unanswered.gaps]
    found = unanswered.faults.of("main-board", "AC")
    assert found is not None
    assert (found.amps, found.silent) == (None, ("inverter", "the network"))


def test_the_battery_side_by_hand() -> None:
    """Three batteries of 2900 A, an inverter that charges with 120 A; 57.6 V behind 57.6 V / 8700 A and 2/0 AWG there and back."""
    plan = plan_of(document("d1-saltmarsh"))
    assert (amps(plan, "busbar", "battery"), amps(plan, "switch-fuse", "battery")) == (3 * 2900 + 120, 3 * 2900 + 120)
    assert amps(plan, "bat-2", "battery") == 2 * 2900 + 120
    top = 57.6
    within, main = top / 8700, 2 * ohm(plan, "bat-main")
    assert amps(plan, "inverter", "battery") == pytest.approx(top / (within + main), rel=2e-3)
    # Of two inverters the other one charges into it as well.
    both = plan_of(document("g01-cooperage"))
    within, main = top / (4 * 2900), 2 * ohm(both, "bat-main")
    assert amps(both, "inv-1", "battery") == pytest.approx(top / (within + main) + 120, rel=2e-3)


def test_one_battery_alone_is_fed_by_its_own_cells_or_by_the_inverter() -> None:
    plan = plan_of(document("k13-printworks"))
    one = next(c for c in shelf().values() if c.id == plan.seats.battery.id)
    assert amps(plan, "bat-1", "battery") == one.fault_a  # type: ignore[union-attr]
    weak = {**shelf(), one.id: one.model_copy(update={"fault_a": 100.0})}
    charge = plan.seats.inverter.battery.charge_a
    assert charge > 100
    assert amps(derive(plan.job, weak), "bat-1", "battery") == charge


def test_strings_push_at_their_input_and_at_their_box() -> None:
    plan = plan_of(document("d1-saltmarsh"))
    most = max(t.maximum_a.value for t in plan.strings.trackers) if plan.strings else 0
    assert amps(plan, "inverter", "PV") == amps(plan, "roof", "PV") == most > 0


@pytest.mark.parametrize("house", HOUSES)
def test_every_place_has_its_fault_currents(house: str) -> None:
    """Each side of each thing that a circuit meets; every number within what its sources give together."""
    plan = plan_of(document(house))
    said = {(f.place, f.side) for f in plan.faults.at}
    for circuit in plan.house.circuits:
        side = "PV" if circuit.kind == "pv" else "battery" if circuit.is_dc else "AC"
        assert {(circuit.source, side), (circuit.load, side)} <= said
    network = plan.job.site.grid_fault_a or 0.0
    for fault in plan.faults.at:
        assert fault.sources or fault.silent
        assert (fault.amps is None) == (not fault.sources)
        if fault.side == "AC" and fault.amps is not None:
            generated = max([g.card.fault_a or 0.0 for g in plan.seats.generators], default=0.0)
            cards = [i.card.source for i in plan.seats.inverters] + [i.card.source for i in plan.seats.pv_inverters]
            assert fault.amps.value <= max(network, generated) + sum(c.island_fault_a or 0.0 for c in cards) + 1e-9


def _net(*pairs: tuple[str, str]) -> list[Circuit]:
    return [Circuit(f"{x}-{y}", "t", "grid", (Core("line1", (End(x, "P", "L1"), End(y, "Q", "L1"))),)) for x, y in pairs]


def test_ways_that_nobody_counts_hold_nothing_back() -> None:
    """Each of five places joined with each: 65 steps. Each of nine: more than are walked, and every place is still reached."""
    for number, counted in ((5, True), (9, False)):
        circuits = _net(*itertools.combinations("abcdefghi"[:number], 2))
        ways = ways_from("a", circuits, frozenset())
        assert ways.keys() == reached_from("a", circuits, frozenset()) == set("abcdefghi"[:number])
        assert (sum(map(len, ways.values())) == 65) is counted
        assert (set(ways.values()) == {((),)}) is not counted
        assert sum(map(len, ways.values())) <= MOST_STEPS


def test_what_is_reached_is_what_a_way_leads_to() -> None:
    for house in HOUSES:
        plan = plan_of(document(house))
        switches = frozenset(t.id for t in plan.seats.transfers if t.card.style == "manual")
        circuits = [c for c in plan.house.circuits if not c.is_dc]
        for place in {c.source for c in circuits}:
            assert reached_from(place, circuits, switches) == ways_from(place, circuits, switches).keys()


@given(
    volts=st.floats(100, 500),
    source=st.floats(100, 50000),
    metre=st.tuples(st.floats(1e-4, 1), st.floats(1e-4, 1)),
    angle=st.floats(0, math.pi / 2),
)
def test_the_largest_lies_above_the_true_current_at_any_angle(
    volts: float, source: float, metre: tuple[float, float], angle: float
) -> None:
    near, far = sorted(metre)
    most = largest_fault_current_a(volts, source, near)
    true = volts / abs(volts / source * complex(math.cos(angle), math.sin(angle)) + near)
    assert far_fault_current_a(volts, source, near) * (1 - 1e-9) <= true <= most * (1 + 1e-9)
    assert most <= source * (1 + 1e-12)
    assert largest_fault_current_a(volts, source, far) <= most


@given(ohms=st.lists(st.floats(0.001, 10), min_size=10, max_size=10), left_out=st.sets(st.integers(0, 9), max_size=5))
def test_ways_side_by_side_never_resist_more_than_the_network(ohms: list[float], left_out: set[int]) -> None:
    """Five places, each joined with each but some: the ways' answer against the network solved by Kirchhoff's laws."""
    pairs = [pair for n, pair in enumerate(itertools.combinations("abcde", 2)) if n not in left_out]
    along = {f"{x}{y}": ohm for (x, y), ohm in zip(pairs, ohms, strict=False)}
    circuits = [Circuit(f"{x}{y}", "t", "grid", (Core("line1", (End(x, "P", "L1"), End(y, "Q", "L1"))),)) for x, y in pairs]
    ways = ways_from("a", circuits, frozenset())
    lap = np.zeros((5, 5))
    for (x, y), ohm in zip(pairs, ohms, strict=False):
        i, j = "abcde".index(x), "abcde".index(y)
        lap[[i, j], [i, j]] += 1 / ohm
        lap[[i, j], [j, i]] -= 1 / ohm
    inverse = np.linalg.pinv(lap)
    for place in ways.keys() - {"a"}:
        n = "abcde".index(place)
        true = inverse[0, 0] + inverse[n, n] - 2 * inverse[0, n]
        together = ways_together([sum(along[c.id] for c in way) for way in ways[place]])
        assert together <= true * (1 + 1e-6)
        if len(ways[place]) == 1:
            assert together == pytest.approx(true)
