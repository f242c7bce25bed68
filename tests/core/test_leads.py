"""Every lead of a house core by core, and what a ringing-out says of one."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gumboot.catalogue import demo_house, demo_houses, shelf
from gumboot.core.acts import Kind, acts
from gumboot.core.plan.derive import derive
from gumboot.core.plan.leads import Lead, LeadKind
from gumboot.core.rulebook.common.signals import meaning
from gumboot.core.sim.ringing import NONE, SCREEN, SEVERAL, verdict
from gumboot.drawing.lead_net import net_canvas
from gumboot.drawing.leads import BENCH, HAND, lead_canvas
from gumboot.drawing.svg import Shape
from tests.helpers import codes, plan_of, with_card

HOUSES = [path.name.removesuffix(".gumboot.json") for path in demo_houses()]
PLANS = {house: derive(demo_house(house), shelf()) for house in HOUSES}


def lead_of(house: str, lead: str) -> Lead:
    found = PLANS[house].leads.of(lead)
    assert found is not None
    return found


@pytest.mark.parametrize("house", HOUSES)
def test_every_lead_joins_two_things_of_the_house_and_like_signals(house: str) -> None:
    plan = PLANS[house]
    ids = [lead.id for lead in plan.leads.leads]
    assert len(ids) == len(set(ids))
    beyond = {"initiator", "network", "network-box", *(d.id for d in plan.job.modbus.devices)}
    cores = {ct.place.channel for ct in plan.sensing.cts}
    for lead in plan.leads.leads:
        assert len(lead.ends) == 2
        assert all(end.place in plan.house.cards or end.place in beyond | cores for end in lead.ends)
        pins = [{pin.pin: pin.signal for pin in end.pins} for end in lead.ends]
        for wire in lead.wires:
            assert meaning(pins[0][wire.first]) == meaning(pins[1][wire.second]) == meaning(wire.signal)
        # No two cores in one hole, no two of one colour.
        for told in ([w.first for w in lead.wires], [w.second for w in lead.wires], [w.colour for w in lead.wires]):
            assert len(told) == len(set(told))
        assert lead.lacks == ()


@pytest.mark.parametrize("house", HOUSES)
def test_a_house_has_the_leads_that_its_cards_and_answers_ask_for(house: str) -> None:
    plan, seats = PLANS[house], PLANS[house].seats
    kinds = {kind: len(plan.leads.of_kind(kind)) for kind in LeadKind}
    assert kinds[LeadKind.BATTERY] == len(plan.links.wired)
    assert kinds[LeadKind.CHAIN] == sum(len(bus.chain) - 1 for bus in plan.links.wired)
    assert kinds[LeadKind.PARALLEL] == sum(len(group.units) - 1 for group in plan.links.groups)
    assert kinds[LeadKind.METER] == len(plan.job.modbus.devices)
    assert kinds[LeadKind.CT] == len(plan.sensing.cts)
    assert kinds[LeadKind.GATEWAY] == sum(bool(t.card.data_ports) for t in seats.transfers)
    loops_ = [i for i in seats.inverters if any(p.bus == "12 V" for p in i.card.data_ports)]
    assert kinds[LeadKind.SHUTDOWN] == (len(loops_) if plan.job.site.rapid_shutdown else 0)
    assert kinds[LeadKind.NETWORK] == (0 if plan.job.site.internet in (None, "none") else len(plan.islands))


def test_the_cores_of_the_battery_lead_by_hand() -> None:
    lead = lead_of("d1-saltmarsh", "battery.bank")
    assert [(w.signal, w.colour, w.first, w.second, w.is_paired) for w in lead.wires] == [
        ("GND", "white/orange", 1, 2, False),
        ("CAN H", "blue", 4, 7, True),
        ("CAN L", "white/blue", 5, 8, True),
    ]
    assert [end.is_earthed for end in lead.ends] == [True, False]
    # Along the wall from middle to middle, a tenth more, 0.3 m in each box.
    boxes = {box.id: box.rect for wall in PLANS["d1-saltmarsh"].walls for box in wall.boxes}
    one, other = boxes["inverter"], boxes["bat-1"]
    away = abs(one.x + one.w / 2 - other.x - other.w / 2) + abs(one.y + one.h / 2 - other.y - other.h / 2)
    assert lead.length is not None
    assert lead.length.value == pytest.approx(away / 1000 * 1.1 + 0.6)


def test_a_chain_leaves_by_the_socket_that_leads_onward() -> None:
    chain = lead_of("d1-saltmarsh", "chain.bat-1.bat-2")
    assert [(end.place, end.socket) for end in chain.ends] == [("bat-1", "COM OUT socket"), ("bat-2", "COM IN socket")]
    assert chain.told == ""
    alone = [p.model_dump() for p in shelf()["cobble-5"].data_ports if not p.onward]  # type: ignore[union-attr]
    silent = plan_of({}, with_card("cobble-5", {"data_ports": alone})).leads.of("chain.bat-1.bat-2")
    assert silent is not None
    assert "names no socket from which its bus goes on" in silent.told


@pytest.mark.parametrize(
    ("edits", "metres", "size", "ohm", "found"),
    [
        # 2 x 0.017241 x L / A: 24 AWG has 0.2047 mm2.
        ({}, 9, "", 1.516, set()),
        ({"site.shutdown_loop_m": 23.74}, 23.74, "", 3.998, set()),
        ({"site.shutdown_loop_m": 23.76}, 23.76, "", 4.002, {"LOOP-LENGTH"}),
        ({"site.shutdown_loop_m": 60, "site.shutdown_core": "18 AWG"}, 60, "18 AWG", 2.514, set()),
        ({"site.shutdown_core": "0.25 mm2"}, 9, "0.25 mm2", 1.241, set()),
    ],
)
def test_the_loop_of_rapid_shutdown_comes_back(edits: dict[str, Any], metres: float, size: str, ohm: float, found: set[str]) -> None:
    plan = plan_of(edits)
    lead = plan.leads.of("shutdown.inverter")
    assert lead is not None
    assert lead.length is not None
    assert lead.length.value == metres
    assert lead.cable == f"Two cores, {size or '24 AWG'}"
    assert lead.figures[0].value == pytest.approx(ohm, abs=0.001)
    assert {f.code for f in plan.findings if f.code.startswith("LOOP")} == found


def test_a_loop_that_nobody_measured_is_asked_for_and_one_too_thin_is_a_stop() -> None:
    plan = plan_of({"site.shutdown_loop_m": None})
    assert [gap.path for gap in plan.gaps] == ["site.shutdown_loop_m"]
    thick = [p.model_dump() for p in shelf()["plover-6s"].data_ports]  # type: ignore[union-attr]
    thick[-1]["loop"]["core_min"] = "18 AWG"
    cards = with_card("plover-6s", {"data_ports": thick})
    assert "LOOP-CORE" in codes({"site.shutdown_core": "20 AWG"}, cards)
    assert "LOOP-CORE" not in codes({"site.shutdown_core": "18 AWG"}, cards)
    # No rapid shutdown, no loop; another card has no socket for one.
    assert plan_of({"site.rapid_shutdown": False}).leads.of_kind(LeadKind.SHUTDOWN) == ()


def test_a_place_without_a_network_has_no_lead_to_it_and_one_that_no_way_leads_to_is_told() -> None:
    assert plan_of({"site.internet": "none"}).leads.of_kind(LeadKind.NETWORK) == ()
    assert "LINK-NETWORK" in codes({"site.internet": "wired"})
    assert "LINK-NETWORK" not in codes({"site.internet": "mobile"})
    assert "LINK-NETWORK" in codes({}, with_card("plover-6s", {"network": None}))
    fixed = plan_of({"site.network_address": "fixed"}).leads.of("network.inverter")
    assert fixed is not None
    assert "Address fixed" in fixed.told


def test_terminals_with_numbers_of_their_own_and_two_cores_on_one() -> None:
    at = "modbus.devices.charging-point"
    bare = {
        f"{at}.card": None,
        "modbus.devices.meter-of-the-heat-pump.card": None,
        "modbus.devices.meter-of-the-heat-pump.pin_a": 1,
        "modbus.devices.meter-of-the-heat-pump.pin_b": 2,
        "modbus.devices.meter-of-the-heat-pump.pin_ground": 3,
    }
    plan = plan_of({**bare, f"{at}.pin_a": 24, f"{at}.pin_b": 25, f"{at}.pin_ground": 26}, name="d2-schoolhouse")
    lead = plan.leads.of("meter.charging-point")
    assert lead is not None
    assert [(w.signal, w.first, w.second, w.is_paired) for w in lead.wires] == [
        ("A", 1, 24, True),
        ("B", 2, 25, True),
        ("GND", 3, 26, False),
    ]
    assert len({w.colour for w in lead.wires}) == 3
    assert lead_canvas(lead) is not None
    same = plan_of({**bare, f"{at}.pin_a": 4, f"{at}.pin_b": 4}, name="d2-schoolhouse").leads.of("meter.charging-point")
    assert same is not None
    assert (same.wires, same.lacks) == ((), ("two cores of Charging point are said to share one terminal",))
    silent = plan_of({**bare, f"{at}.pin_a": None, f"{at}.pin_b": None}, name="d2-schoolhouse")
    lacking = silent.leads.of("meter.charging-point")
    assert lacking is not None
    assert lacking.lacks == ("the terminals of Charging point are not said",)
    assert "Not known: the terminals of Charging point" in acts(silent)["lead:meter.charging-point"].caution


def test_a_core_that_is_no_size_is_asked_for() -> None:
    plan = plan_of({"site.shutdown_core": "banana"})
    assert [(gap.path, "banana is none" in gap.question) for gap in plan.gaps] == [("site.shutdown_core", True)]
    assert plan_of({"site.shutdown_core": "22 awg"}).leads.of("shutdown.inverter").cable == "Two cores, 22 AWG"  # type: ignore[union-attr]


# --- ringing out ---

LEADS = [(house, lead.id) for house in HOUSES for lead in PLANS[house].leads.leads if lead.is_rung]


@pytest.mark.parametrize(("house", "lead"), LEADS)
def test_a_lead_as_asked_is_right_and_each_wrong_core_is_named(house: str, lead: str) -> None:
    own = lead_of(house, lead)
    right = {wire.first: wire.second for wire in own.wires}
    assert verdict(own, right).is_right
    assert verdict(own, right).cure == ""
    for wire in own.wires:
        for heard, words in ((NONE, "beeps nowhere"), (SCREEN, "at the screen"), (SEVERAL, "more than one pin")):
            found = verdict(own, {**right, wire.first: heard})
            assert [words in fault for fault in found.faults] == [True]
            assert wire.colour.capitalize() in found.faults[0]
            assert found.cure
    for one, other in itertools.combinations(own.wires, 2):
        found = verdict(own, {**right, one.first: other.second, other.first: one.second})
        assert len(found.faults) == 1
        assert f"{one.colour.capitalize()} and {other.colour} are crossed: {one.first} beeped at {other.second}" in found.faults[0]


def test_a_plug_made_upside_down_and_a_core_one_place_off() -> None:
    own = lead_of("d1-saltmarsh", "battery.bank")
    turned = verdict(own, {wire.first: 9 - wire.second for wire in own.wires})
    assert turned.faults == ("Every core beeps at the pin counted from the other side: one plug is upside down. The bus does not speak.",)
    off = verdict(own, {1: 1, 4: 7, 5: 8})
    assert off.faults[0].startswith("White/orange (GND) is one place off: 1 beeped at 1, it belongs at 2.")
    far = verdict(own, {1: 2, 4: 3, 5: 8})
    assert far.faults == ("Blue (CAN H) goes to another pin: 4 beeped at 3, it belongs at 7. The bus does not speak.",)
    # A supply matters more than the signal that it stands on.
    gate = lead_of("k07-ridge", "gateway.transfer.link")
    crossed = verdict(gate, {1: 3, 2: 2, 3: 1, 4: 4})
    assert "A supply on a signal pin destroys the socket." in crossed.faults[0]


@given(st.sampled_from(LEADS), st.data())
def test_every_core_that_is_not_where_it_belongs_is_spoken_of(which: tuple[str, str], data: st.DataObject) -> None:
    own = lead_of(*which)
    heard = {w.first: data.draw(st.sampled_from([NONE, SCREEN, SEVERAL, *range(1, 9)])) for w in own.wires}
    found = verdict(own, heard)
    wrong = [w for w in own.wires if heard[w.first] != w.second]
    assert found.is_right == (not wrong)
    turned = any("upside down" in fault for fault in found.faults)
    for wire in wrong:
        assert turned or any(wire.colour in fault.lower() for fault in found.faults)


# --- the acts ---


@pytest.mark.parametrize("house", HOUSES)
def test_every_lead_is_made_and_rung_once_and_first_power_waits_for_it(house: str) -> None:
    plan, of = PLANS[house], acts(PLANS[house])
    made = [act.name for act in of.values() if act.kind is Kind.LEAD]
    assert sorted(made) == sorted(lead.id for lead in plan.leads.leads)
    rung = [act.name for act in of.values() if act.kind is Kind.RING]
    assert sorted(rung) == sorted(lead.id for lead in plan.leads.leads if lead.is_rung)
    last = of.before(f"step:{plan.power_up.steps[-1].id}")
    for lead in plan.leads.leads:
        if lead.kind in (LeadKind.BATTERY, LeadKind.CHAIN, LeadKind.PARALLEL, LeadKind.GATEWAY, LeadKind.SHUTDOWN):
            assert of[f"ring:{lead.id}"] in last


@pytest.mark.parametrize("house", HOUSES)
def test_no_battery_is_woken_before_the_one_before_it_is_off_again(house: str) -> None:
    plan, of = PLANS[house], acts(PLANS[house])
    for bus in plan.links.wired:
        for one, other in itertools.pairwise(bus.chain):
            assert f"ritual:rest.{one.unit.id}" in of[f"ritual:program.{other.unit.id}"].needs
            back = of[f"told:{one.unit.id}.back"]
            assert back.needs == (f"ritual:address.{one.unit.id}",)
            assert of[f"ritual:rest.{one.unit.id}"].needs == (back.id,)
    for group in plan.links.groups:
        for near, far in itertools.pairwise(group.units):
            link = of[f"lead:parallel.{near.seat.id}.{far.seat.id}"]
            assert {f"told:{unit.seat.id}.group" for unit in (near, far)} <= set(link.needs)


def test_what_a_battery_is_told_stands_in_its_acts() -> None:
    of = acts(PLANS["d1-saltmarsh"])
    told = of["told:bat-2.can"]
    assert (dict(told.band.wants), told.caution) == ({"protocol": 3}, "It is shipped with protocol 1.")
    assert of["ritual:address.bat-2"].title == "bat-2: switches for address 2, terminator out, power off, count ten, power on"
    assert dict(of["told:bat-3.back"].band.wants) == {"protocol": 3, "address": 3}
    bridge = of["bridge:shutdown.inverter"]
    assert bridge.guards == "life"
    assert of["lead:shutdown.inverter"].needs == (bridge.id,)
    core = of["core:meter.CT1"]
    assert core.needs == ("lead:ct.meter.CT1",)
    assert "halves must click" in core.caution
    assert "open secondary" in of["lead:ct.meter.CT1"].caution


# --- the drawings ---


def overlapping(shapes: Sequence[Shape]) -> list[tuple[str, str]]:
    """Words that lie over other words."""
    words = [shape for shape in shapes if shape.kind == "text" and not shape.turn]
    found = []
    for one, other in itertools.combinations(words, 2):
        a, b = one.box(), other.box()
        if min(a[2], b[2]) - max(a[0], b[0]) > 1 and min(a[3], b[3]) - max(a[1], b[1]) > 1:
            found.append((one.words, other.words))
    return found


@pytest.mark.parametrize("house", HOUSES)
def test_no_word_of_a_lead_or_of_the_house_of_leads_lies_over_another_or_beyond_the_paper(house: str) -> None:
    plan = PLANS[house]
    crossed = {
        lead.id: {w.first: v.second for w, v in zip(lead.wires, [*lead.wires[1:], *lead.wires[:1]], strict=True)}
        for lead in plan.leads.leads
    }
    drawn = [lead_canvas(lead, sheet, heard) for lead in plan.leads.leads for sheet in (BENCH, HAND) for heard in (None, crossed[lead.id])]
    for canvas in [*drawn, net_canvas(plan, {}), net_canvas(plan, dict.fromkeys(crossed, "held"))]:
        if canvas is None:
            continue
        assert overlapping(canvas.shapes) == [], canvas.title
        for shape in canvas.shapes:
            left, top, right, foot = shape.box()
            assert left >= -1, (canvas.title, shape)
            assert top >= -1, (canvas.title, shape)
            assert right <= canvas.width + 1, (canvas.title, shape)
            assert foot <= canvas.height + 1, (canvas.title, shape)


@pytest.mark.parametrize("house", HOUSES)
def test_every_lead_is_on_the_drawing_of_the_house(house: str) -> None:
    drawn = net_canvas(PLANS[house], {})
    leads = {lead.id for lead in PLANS[house].leads.leads}
    assert (drawn is None) == (not leads)
    if drawn is not None:
        assert leads <= set(drawn.anchors)
