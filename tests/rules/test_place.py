"""The rules of site, wall, place, belonging and coupling at their limits."""

from __future__ import annotations

from typing import Any

import pytest

from gumboot.catalogue import demo_house, shelf
from gumboot.core.card.boxes import BoardCard
from gumboot.core.card.inverter import InverterCard
from gumboot.core.job import Job
from gumboot.core.plan.derive import derive
from gumboot.core.rules import belonging, bonds, coupling, fixings, lifting, place, site
from gumboot.core.rules import wall as rules
from tests.rules.cases import Case, f, prove


def inverter(**changes: Any) -> InverterCard:
    card = shelf()["plover-6s"]
    assert isinstance(card, InverterCard)
    return card.model_copy(update=changes)


def without(*ports: str) -> InverterCard:
    return inverter(title="Plover", ports=[p for p in inverter().ports if p.id not in ports])


def one_port() -> InverterCard:
    card = inverter(title="Plover")
    return card.model_copy(update={"ports": [*card.ports, card.ports[0].model_copy(update={"id": "AC"})]})


BOARD = shelf()["trough-300"]
assert isinstance(BOARD, BoardCard)
MISSED = rules.Missed(box="inverter", holes=[], worst=None, off_mm=9, room_mm=7, side="left")
BESIDE = rules.Beside(box="a", title="A", other="b", other_title="B", kind="box", clear=True)
BACKED = rules.Backed(box="a", title="A", surface="timber cladding", covered=True, has_board=True)
SCREEN = rules.Screen(box="a", height=f("h", 1300, "mm"), low=f("lo", 1300, "mm"), high=f("hi", 1750, "mm"))
AWAY = place.Away(box="a", title="A", other="b", other_title="Door", gap=f("gap", 913.5, "mm"), least=f("least", 914, "mm"))
WORKS = site.Works(where="bat-1", title="Cobble", air=f("t", 50, "°C"), limit=f("m", 50, "°C"), hot=True, field="site.room_high_c")
HIGH = site.Height(where="inverter", title="Plover", altitude=f("h", 2000, "m"), most=f("m", 2000, "m"), silent=False)
OUT = site.Weathered(where="a", title="A", outdoors="out of sun", in_sun=False, field="x")
NEAR = fixings.Near(box="a", hole="h1", what="the edge", apart=f("c", 60, "mm"), least=f("least", 60, "mm"), anchor="Limpet")
TIPS = fixings.Tips(box="a", title="A", push=f("F", 250, "N"), least=f("least", 250, "N"), held=False)
ROOM = place.Room(room="garage", habitable_behind=True, barrier=True)
ENERGY = place.Energy(energy=f("e", 20000, "Wh"), most=f("m", 20000, "Wh"), field=".card")
OFF_GRID = belonging.Beside(inverter=inverter(title="Plover", role="hybrid"), supply="none", has_transfer=False)
POWER = coupling.Power(power=f("p", 5000, "W"), most=f("m", 5000, "W"), where="pv-inverter")

GROWS = place.Grows(bank="bank", title="The bank", units=3, most=3, has_room=False, where="here")

CASES = [
    Case(site.cool_enough, site.Air(air=f("t", 50, "°C"), limit=f("m", 50, "°C"), field="site.room_high_c"), {"air": f("t", 50.1, "°C")}, "inverter",
         "reaches 50.1 °C; the inverter works to 50 °C", "cooler place", "t", "m", "site.room_high_c"),
    Case(site.right_way_round, site.Span(where="Cellar", coldest=f("lo", 20, "°C"), hottest=f("hi", 20, "°C"), field="x"), {"coldest": f("lo", 20.1, "°C")},
         "Cellar", "coldest air is told as 20.1 °C, the hottest as 20 °C", "Correct the two", "lo", "hi", field="x"),
    Case(site.warm_enough, site.Air(air=f("t", -20, "°C"), limit=f("m", -20, "°C"), field="site.room_low_c"), {"air": f("t", -20.1, "°C")}, "inverter",
         "falls to -20.1 °C; the inverter works from -20 °C", "warmer place", "t", "m", "site.room_low_c"),
    Case(place.from_what_opens_above, AWAY, {"gap": f("gap", 913, "mm")}, "a and b", "A is 913 mm from Door; 914 mm is asked.", "Move the battery",
         "gap", "least", ".placements.a.x_mm"),
    Case(place.barrier_reaches, place.Reach(box="a", title="A", side="beside", reach=f("d", 600, "mm"), least=f("least", 600, "mm")),
         {"reach": f("d", 599, "mm")}, "a", "The barrier reaches 599 mm beside A; 600 mm are asked.", "Widen", "d", "least", ".board.width_mm"),
    Case(place.barrier_reaches, place.Reach(box="a", title="A", side="above", reach=f("d", 600, "mm"), least=f("least", 600, "mm")),
         {"reach": f("d", -5, "mm")}, "a", "The barrier reaches 0 mm above A", "Widen", "d", "least", ".board.width_mm"),
    Case(fixings.far_from_edges, NEAR, {"apart": f("c", 59, "mm")}, "a", "Hole h1 of a stands 59 mm from the edge; 60 mm is asked.", "away from the edge",
         "c", "least", ".placements.a.x_mm"),
    Case(fixings.far_apart, NEAR, {"apart": f("c", 59, "mm")}, "a", "59 mm from the edge", "Move one box", "c", "least", ".placements.a.x_mm"),
    Case(fixings.far_apart, NEAR, {"least": None}, "a", "The card of Limpet gives no spacing", "Complete the card", field="equipment.anchor"),
    Case(fixings.stays_up, TIPS, {"push": f("F", 249, "N")}, "a", "A tips over by a push of 249 N at its top", "Fix its bracket", "F", "least",
         ".placements.a.x_mm"),
    Case(fixings.stays_up, TIPS.but(push=f("F", 10, "N"), held=True), {"held": False}, "a", "push of 10 N", "Fix its bracket", "F", "least",
         ".placements.a.x_mm"),
    Case(place.hydrogen_leaves, place.Aired(where="room", has=f("A", 218, "cm2"), wants=f("w", 218, "cm2")), {"has": f("A", 217, "cm2")}, "room",
         "Each opening of this room has 217 cm2; charging here wants 218 cm2", "Enlarge the openings", "A", "w", ".vent_cm2"),
    Case(place.hydrogen_leaves, place.Aired(where="room", has=None, wants=f("w", 218, "cm2")), {"has": f("A", 0, "cm2")}, "room", "has 0 cm2",
         "house the bank outdoors", "A", "w", ".vent_cm2"),
    Case(site.front_is_free, site.Front(box="a", title="A", free=f("d", 900, "mm"), asked=f("m", 900, "mm")), {"free": f("d", 899, "mm")}, "a",
         "899 mm are free in front of A; its maker asks 900 mm.", "more room in front", "d", "m", ".free_depth_mm"),
    Case(site.works_there, WORKS, {"air": f("t", 50.1, "°C")}, "bat-1", "Its place reaches 50.1 °C; Cobble works to 50 °C.", "another place", "t", "m",
         "site.room_high_c"),
    Case(site.works_there, WORKS.but(hot=False), {"air": f("t", 49.9, "°C")}, "bat-1", "falls to 49.9 °C; Cobble works from 50 °C", "another place",
         "t", "m", "site.room_high_c"),
    Case(site.low_enough, HIGH, {"altitude": f("h", 2001, "m")}, "inverter", "lies 2001 m high; for Plover its card allows 2000 m", "Ask the maker",
         "h", "m", "site.altitude_m"),
    Case(site.low_enough, HIGH.but(silent=True), {"altitude": f("h", 2001, "m")}, "inverter", "a card that does not say is made for 2000 m",
         "complete the card", "h", "m", "site.altitude_m"),
    Case(site.made_for_the_weather, OUT, {"in_sun": True}, "a", "may stand outdoors out of the sun; the sun falls on this wall", "Shade it", field="x"),
    Case(site.made_for_the_weather, OUT, {"outdoors": "no"}, "a", "its enclosure is for indoors", "indoors", field="x"),
    Case(site.made_for_the_weather, OUT.but(outdoors="yes", in_sun=True), {"outdoors": None}, "a", "its card does not say that it may", "indoors",
         field="x"),
    Case(site.within_reach, site.Handle(box="a", title="A", top=f("y", 2006.6, "mm"), most=f("m", 2006.6, "mm")), {"top": f("y", 2007, "mm")}, "a",
         "The top of A stands 2007 mm above the floor", "Hang it lower.", "y", "m", ".placements.a.y_mm"),
    Case(rules.hits_studs, MISSED, {"holes": ["h1", "h2"], "worst": f("x", 409, "mm")}, "inverter",
         "h1 and h2 of inverter stand 9 mm off the stud's middle; 7 mm is the most", "Slide inverter 9 mm left", "x", "",
         ".placements.inverter.x_mm"),
    Case(rules.clearances, BESIDE, {"clear": False}, "a and b", "B stands within the clearance of A.", "Move one of them apart.",
         field=".placements.a.x_mm"),
    Case(rules.clearances, BESIDE, {"clear": False, "kind": "opening"}, "a and b", "B lies within the clearance of A.", "Move the box.",
         field=".placements.a.x_mm"),
    Case(rules.clearances, BESIDE, {"clear": False, "kind": "edge"}, "a and b", "A has no clearance to the edge", "Move the box.",
         field=".placements.a.x_mm"),
    Case(rules.board_behind, BACKED, {"covered": False}, "a", "A stands on timber cladding without cement board", "behind the whole box",
         field=".board.width_mm"),
    Case(rules.board_behind, BACKED, {"covered": False, "has_board": False}, "a", "without cement board", "behind the whole box",
         field=".board"),
    Case(rules.eye_level, SCREEN, {"height": f("h", 1299, "mm")}, "a", "The screen is 1299 mm above the floor.", "between 1300 and 1750 mm", "h",
         "hi", ".placements.a.y_mm"),
    Case(rules.eye_level, SCREEN, {"height": f("h", 1751, "mm")}, "a", "1751 mm", "between 1300 and 1750 mm", "h", "hi",
         ".placements.a.y_mm"),
    Case(rules.screws_hold, rules.Held(box="a", used=f("u", 1, "")), {"used": f("u", 1.01, "")}, "a", "The top screws of a are used to 101 %.",
         "thicker screws", "u", "", ".anchor.diameter_mm"),
    Case(rules.screws_hold, rules.Held(box="a", used=f("u", 1, "")), {"used": None}, "a", "does not reach the stud", "longer screw",
         field=".anchor.length_mm"),
    Case(rules.anchors_hold, rules.Held(box="a", used=f("u", 1, ""), base="concrete"), {"used": f("u", 1.01, "")}, "a",
         "used to 101 % of what they bear in concrete", "spreads the load", "u", "", "equipment.anchor"),
    Case(rules.rated_for_masonry, rules.Based(box="a", anchor="Limpet", masonry="hollow units", given=True), {"given": False}, "a",
         "The card of Limpet gives no values for hollow units.", "rates for this masonry", field="equipment.anchor"),
    Case(rules.long_enough, rules.Embedded(box="a", reached=f("r", 40, "mm"), wanted=f("w", 40, "mm")), {"reached": f("r", 39, "mm")}, "a",
         "reaches 39 mm into what bears; its values hold from 40 mm", "longer anchor", "r", "w", "equipment.anchor"),
    Case(rules.room_to_work, rules.Space(free=f("d", 914, "mm"), asked=f("m", 914, "mm")), {"free": f("d", 913, "mm")}, "room",
         "913 mm are free in front; 914 mm are asked", "another wall", "d", "m", ".free_depth_mm"),
    Case(rules.conduit_sweeps, rules.Sweep(box="sub-board", run="grid", room=f("r", 150, "mm"), need=f("n", 150, "mm"), side="usual"),
         {"room": f("r", 149, "mm")}, "sub-board", "149 mm are the most that is free at any side of sub-board", "apart from its neighbours", "r", "n",
         ".placements.sub-board.y_mm"),
    Case(rules.conduit_sweeps, rules.Sweep(box="inverter", run="grid", room=f("r", 150, "mm"), need=f("n", 150, "mm")),
         {"room": f("r", 149, "mm")}, "inverter", "The conduit of grid sweeps in 150 mm; 149 mm are free below inverter", "angled entry", "r", "n",
         ".placements.inverter.y_mm"),
    Case(rules.conduit_sweeps, rules.Sweep(box="b", run="grid", room=f("r", 150, "mm"), need=f("n", 150, "mm"), side="left"),
         {"room": f("r", 149, "mm")}, "b", "149 mm are free left of b", "from another side", "r", "n", ".placements.b.y_mm"),
    Case(rules.conduit_sweeps, rules.Sweep(box="b", run="grid", room=f("r", 150, "mm"), need=f("n", 150, "mm"), side="above"),
         {"room": f("r", 149, "mm")}, "b", "149 mm are free above b", "from another side", "r", "n", ".placements.b.y_mm"),
    Case(lifting.goes_through, lifting.Carried(title="A", where="Undercroft", needs=f("n", 330, "mm"), way=f("w", 330, "mm"), field="walls.w.way_mm"),
         {"way": f("w", 329, "mm")}, "A", "A needs 330 mm with the hands beside it; the way to Undercroft is 329 mm at its narrowest.",
         "off its hinges", "n", "w", "walls.w.way_mm"),
    Case(lifting.climbs, lifting.Climbed(title="A", where="Undercroft", people=4, steps=f("n", 1, ""), field="walls.w.way_steps"), {"people": 5}, "A",
         "the way to Undercroft has 1 step: a lift table does not climb", "stair climber", "n", "", "walls.w.way_steps"),
    Case(lifting.climbs, lifting.Climbed(title="A", where="Undercroft", people=5, steps=f("n", 0, ""), field="walls.w.way_steps"),
         {"steps": f("n", 1, "")}, "A", "does not climb", "hoist", "n", "", "walls.w.way_steps"),
    Case(lifting.one_person_lifts, lifting.Lift(title="A", mass=f("m", 27, "kg"), most=f("x", 27, "kg")), {"mass": f("m", 27.1, "kg")}, "A",
         "A weighs 27.1 kg", "Two people or a lift table", "m", "x"),
    Case(place.not_habitable, ROOM, {"room": "habitable room"}, "room", "no place for the bank", "garage", field=".room"),
    Case(place.room_to_grow, GROWS, {"units": 2}, "bank", "The bank has 2 of 3 units, and a further one has no room at here",
         "Move it toward one side", field=".placements"),
    Case(place.barrier_between, ROOM, {"barrier": False}, "room", "A habitable room lies behind this wall", "non-combustible barrier",
         field=".barrier"),
    Case(place.energy_of_place, ENERGY, {"energy": f("e", 20100, "Wh")}, "room", "20.1 kWh stand here; 20 kWh is the most", "Share the bank", "e",
         "m"),
    Case(place.energy_of_unit, ENERGY, {"energy": f("e", 20100, "Wh")}, "battery", "One unit holds 20.1 kWh; 20 kWh", "smaller units", "e", "m",
         ".card"),
    Case(place.from_openings, AWAY, {"gap": f("gap", 913, "mm")}, "a and b", "A is 913 mm from Door; 914 mm is asked.", "away from it", "gap",
         "least", ".placements.a.x_mm"),
    Case(place.from_exits, AWAY, {"gap": f("gap", 913, "mm")}, "a and b", "A is 913 mm from Door", "away from it", "gap", "least",
         ".placements.a.x_mm"),
    Case(place.from_each_other, AWAY, {"gap": f("gap", 913, "mm")}, "a and b", "a and b stand 913 mm apart; 914 mm is asked", "Move them apart",
         "gap", "least", ".placements.b.x_mm"),
    Case(belonging.has_its_grid, OFF_GRID, {"inverter": inverter(title="Plover", role="AC-coupled")}, "inverter", "Plover needs a grid",
         "forms its own grid", field="things.inverter.card"),
    Case(belonging.has_its_gateway, OFF_GRID, {"inverter": one_port()}, "inverter", "it needs its transfer box or gateway",
         "Choose its transfer box", field="things.transfer.card"),
    Case(belonging.has_generator_input, OFF_GRID, {"inverter": without("GEN"), "generator": "donkey"}, "generator",
         "Plover has no generator input.", "take the generator off", field="things.donkey.card"),
    Case(belonging.has_the_terminals, belonging.Placed(board=BOARD, role="busbar_box", field="things.main-board.card"), {"role": "main_board"}, "main board",
         "has not the terminals for this place", "made for this place", field="things.main-board.card"),
    Case(belonging.serves_an_inverter, belonging.Hanging(bank="b2", inverters=["i"]), {"inverters": []}, "b2",
         "No inverter hangs on b2", "take it out", field="things"),
    Case(bonds.one_generator, bonds.Generators(names=["a"]), {"names": ["a", "b"]}, "b", "2 generators feed one backed-up side (a, b)",
         "interlocked changeover", field="things"),
    Case(coupling.ratio, POWER.but(number=2), {"power": f("p", 5001, "W")}, "pv-inverter", "The 2 PV inverters give 5001 W",
         "grid side", "p", "m", "things.pv-inverter.card"),
    Case(coupling.ratio, POWER, {"power": f("p", 5001, "W")}, "pv-inverter", "gives 5001 W; the battery inverter holds at most 5000 W",
         "grid side", "p", "m", "things.pv-inverter.card"),
    Case(coupling.bank_takes, POWER, {"power": f("p", 5001, "W")}, "pv-inverter", "5001 W would flow into the bank; it takes 5000 W",
         "Add a battery", "p", "m"),
    Case(coupling.falls_back, coupling.Droops(droop="EN 50549", where="pv-inverter"), {"droop": ""}, "pv-inverter", "does not fall back with frequency",
         "frequency response", field="things.pv-inverter.card"),
    Case(coupling.shifts_far_enough, coupling.Shift(silent=f("s", 52, "Hz"), most=f("m", 52, "Hz"), where="pv-inverter", inverter="inverter"), {"most": f("m", 51.9, "Hz")}, "pv-inverter",
         "shifted to 51.9 Hz at most; the PV inverter is silent from 52.00 Hz", "higher shift", "s", "m", "things.inverter.card"),
    Case(coupling.shifts_far_enough, coupling.Shift(silent=f("s", 52, "Hz"), most=f("m", 52, "Hz"), where="pv-inverter", inverter="inverter"), {"most": None}, "pv-inverter",
         "names no frequency shift", "higher shift", "s", "", "things.inverter.card"),
    Case(coupling.starts_from_black, coupling.Black(reserve=f("r", 11, "%"), floor=f("fl", 10, "%"), inverter="I", where="pv-inverter"), {"reserve": f("r", 10, "%")},
         "pv-inverter", "The reserve of 10 % is all that the battery keeps (10 %)", "Raise the reserve above 10 %: I must hold", "r", "fl",
         "settings.reserve_pct"),
]  # fmt: skip


@pytest.mark.parametrize(
    ("house", "thing", "code", "says"),
    [
        ("d4-lookout", {"seat": "generator", "id": "g2", "card": "donkey-6", "feeds": "inverter"}, "GEN-ONE", "2 generators feed"),
        ("d1-saltmarsh", {"seat": "board", "duty": "backed-up", "id": "s2", "card": "larder-8"}, "BOARD-UNFED", "No inverter feeds s2"),
    ],
)
def test_what_cannot_work_or_is_not_worked_out_together_stops_the_plan(house: str, thing: dict[str, Any], code: str, says: str) -> None:
    document = demo_house(house).model_dump(mode="json")
    document["things"].append(thing)
    found = [f.text for f in derive(Job.model_validate(document), shelf()).findings if f.code == code]
    assert len(found) == 1
    assert says in found[0]


def test_a_bank_that_no_inverter_hangs_on_stops_the_plan_and_a_second_set_of_cts_does() -> None:
    document = demo_house("d1-saltmarsh").model_dump(mode="json")
    document["banks"].append({**document["banks"][0], "id": "second", "units": [{"id": "x-1"}]})
    meter = document["sensing"]["meters"][0]
    document["sensing"]["meters"].append({**meter, "id": "second"})
    stops = {f.code: f for f in derive(Job.model_validate(document), shelf()).stops}
    assert stops["BANK-IDLE"].where == "second"
    assert "CTs are wired to inverter, inverter" in stops["PAR-METER"].text


@pytest.mark.parametrize("case", CASES, ids=[f"{c.rule.code}-{i}" for i, c in enumerate(CASES)])
def test_at_the_limit_and_just_beyond(case: Case) -> None:
    prove(case)


def test_what_is_not_asked_holds() -> None:
    assert rules.board_behind(rules.Backed(box="a", title="A", surface="plasterboard", covered=False, has_board=False)) is None
    assert rules.anchors_hold(rules.Held(box="a", used=None)) is None
    assert place.barrier_between(place.Room(room="garage", habitable_behind=False, barrier=False)) is None
    with_box = belonging.Beside(inverter=one_port(), supply="split phase", has_transfer=True)
    assert all(rule(with_box) is None for rule in belonging.BESIDE)
