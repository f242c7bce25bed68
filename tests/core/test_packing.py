"""What goes into the van, load by load, ticked line by line; and the numbers that are read off while unpacking."""

from __future__ import annotations

from collections import Counter
from datetime import UTC, datetime, timedelta

import pytest

from gumboot.catalogue import demo_house, demo_houses, shelf
from gumboot.core.acts import Kind, State, acts, tick_of
from gumboot.core.plan.derive import derive
from gumboot.core.record import parse_record
from gumboot.core.recording import inputs_of, may_record
from gumboot.core.standing import stand
from gumboot.core.study.materials import materials
from gumboot.core.study.packing import loads_of
from tests.crew import IVO, said

HOUSES = [path.name.removesuffix(".gumboot.json") for path in demo_houses()]
PLANS = {house: derive(demo_house(house), shelf()) for house in HOUSES}
NOW = datetime(2026, 11, 28, 8, tzinfo=UTC)
D1 = PLANS["d1-saltmarsh"]


def counted(lines: tuple[str, ...]) -> Counter[str]:
    """How many of each thing some lines name."""
    found: Counter[str] = Counter()
    for line in lines:
        count, _, name = line.partition(" × ")
        found[name] += int(count)
    return found


@pytest.mark.parametrize("house", HOUSES)
def test_what_the_boxes_take_is_the_material_list_and_every_screw_is_in_it(house: str) -> None:
    plan, loads = PLANS[house], loads_of(PLANS[house])
    assert len({load.name for load in loads}) == len(loads)
    every = sum((counted(load.lines) for load in loads if load.place), Counter[str]())
    listed = Counter[str]()
    for item in materials(plan).items:
        if item.group in ("Lugs and ferrules", "Glands and fittings"):
            listed[item.item] += int(item.quantity)
    holes = sum(len(box.holes) for wall in plan.walls if wall.fixings for box in wall.boxes)
    fixed = sum(count for name, count in every.items() if name not in listed)
    assert {name: count for name, count in every.items() if name in listed} == dict(listed)
    assert fixed == holes
    assert all("Existing" not in line for load in loads if load.name == "equipment" for line in load.lines)


@pytest.mark.parametrize("house", HOUSES)
def test_nobody_waits_for_the_van(house: str) -> None:
    graph = acts(PLANS[house])
    packed = {act.id for act in graph.values() if act.kind is Kind.PACK}
    assert packed
    assert not any(packed & {*act.needs, *act.heeds} for act in graph.values())
    lines = [line for act in graph.values() for line in act.band.lines]
    assert len({tick_of(line) for line in lines}) == len(set(lines))


def test_a_load_is_in_when_all_its_lines_are_and_what_is_missing_is_named() -> None:
    act = acts(D1)["pack:box.inverter"]
    first, *rest = act.band.lines

    def packed(*lines: str) -> tuple[State, str]:
        record = parse_record({**said(act.id, NOW), "kind": "packed", "packed": lines})
        stands = stand(D1, [record], NOW, 1).stands[act.id]
        return stands.state, stands.why

    assert packed(*act.band.lines) == (State.GOOD, "")
    assert packed(*rest) == (State.FAILED, f"not in the van: {first}")
    state, why = packed(first)
    assert state is State.FAILED
    assert f"and {len(rest) - 3} more" in why
    # A line of before is no line of now: what came to the plan since is missing.
    assert packed(*act.band.lines, "9 × something else")[0] is State.GOOD
    nothing = parse_record({**said(act.id, NOW), "kind": "packed", "packed": ["9 × something else"]})
    assert may_record(D1, stand(D1, [], NOW, 1), nothing, IVO, NOW).text == "Tick what is in the van."


def test_what_was_ticked_stands_ticked_when_the_list_is_opened_again() -> None:
    act = acts(D1)["pack:cable"]
    some = act.band.lines[2:5]
    standing = stand(D1, [parse_record({**said(act.id, NOW), "kind": "packed", "packed": some})], NOW, 1)
    assert [asked.words for asked in inputs_of(D1, standing, act) if asked.stands == "yes"] == list(some)


def test_a_number_that_another_unit_has_is_asked_about() -> None:
    def number(unit: str, text: str) -> dict[str, object]:
        return {**said(f"serial:{unit}", NOW), "kind": "words", "text": text}

    before = stand(D1, [parse_record(number("bat-1", "QS 2204-117"))], NOW + timedelta(minutes=1), 1)
    for text, outcome in (("qs2204-117", "asked"), ("QS 2204-118", "kept")):
        verdict = may_record(D1, before, parse_record(number("bat-2", text)), IVO, NOW)
        assert (verdict.outcome, "bat-1 has the number QS 2204-117 already" in verdict.text) == (outcome, outcome == "asked")
    # Its own number may be read again.
    assert may_record(D1, before, parse_record(number("bat-1", "QS 2204-117")), IVO, NOW).outcome == "kept"


def test_numbers_are_read_before_anything_hangs() -> None:
    order = [act.id for act in acts(D1).of("wire")]
    for unit in ("inverter", "bat-1", "bat-2", "bat-3"):
        assert order.index(f"serial:{unit}") < order.index("find:wall")
        assert order.index(f"serial:{unit}") == order.index(f"unpack:{unit}") + 1
