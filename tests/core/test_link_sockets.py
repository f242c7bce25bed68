"""Sockets with a purpose, signals without a partner, twisted pairs, reach; and leads that are right in another way."""

from __future__ import annotations

from typing import Any

import pytest

from gumboot.catalogue import shelf
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.links.chain import lead_cores, pins_of
from gumboot.core.rulebook.common.signals import left_out, may_end, meaning, reach_m
from tests.helpers import plan_of, with_card

BMS = [{"pin": 1, "signal": "GND"}, {"pin": 4, "signal": "CAN H"}, {"pin": 5, "signal": "CAN L"}]


def socket(name: str, pins: list[dict[str, Any]], purpose: str = "", bus: str = "CAN") -> dict[str, Any]:
    return {"id": name, "title": f"{name} socket", "bus": bus, "purpose": purpose, "pins": pins}


def found(plan: Plan) -> dict[str, str]:
    return {f.code: f.text for f in plan.findings if f.code.startswith("LINK")}


def lead(*pairs: tuple[int, int]) -> dict[str, Any]:
    return {"banks.bank.lead_as_made": [{"inverter_pin": a, "battery_pin": b} for a, b in pairs]}


RIGHT = lead((1, 2), (4, 7), (5, 8))
OTHER = socket("AUX", [{"pin": 3, "signal": "CAN H"}, {"pin": 6, "signal": "CAN L"}])


@pytest.mark.parametrize("first", [True, False])
def test_the_socket_that_says_what_it_is_for_is_taken_wherever_it_stands(first: bool) -> None:
    ports = [{**OTHER, "purpose": "inverters"}, socket("BMS", BMS, "battery")]
    plan = plan_of(RIGHT, with_card("plover-6s", {"data_ports": ports if first else ports[::-1]}))
    assert found(plan) == {}
    assert plan.links.wired[0].inverter_port.id == "BMS"  # type: ignore[union-attr]
    # One that says nothing is taken where the other is for something else, and where the other is the battery's.
    for purpose, mine in (("inverters", ""), ("", "battery")):
        ports = [{**OTHER, "purpose": purpose}, socket("BMS", BMS, mine)]
        assert found(plan_of(RIGHT, with_card("plover-6s", {"data_ports": ports}))) == {}


def test_two_sockets_of_which_nobody_says_which_are_a_stop() -> None:
    plan = plan_of(RIGHT, with_card("plover-6s", {"data_ports": [OTHER, socket("BMS", BMS)]}))
    assert found(plan) == {
        "LINK-SOCKET": "Plover 6S hybrid inverter has 2 CAN sockets (AUX socket, BMS socket), and its card does not say which is meant."
    }
    assert plan.links.wired == ()


@pytest.mark.parametrize(
    ("house", "card", "pins", "says"),
    [
        ("d1-saltmarsh", "cobble-5", [{"pin": 2, "signal": "GND"}, {"pin": 7, "signal": "CAN H"}], "CAN L stands at Plover 6S hybrid inverter only."),
        ("d1-saltmarsh", "cobble-5", [{"pin": 7, "signal": "CANH"}, {"pin": 8, "signal": "can-l"}], ""),
        ("d2-schoolhouse", "sill-3", BMS, "ENABLE stands at Heron 10T three-phase hybrid only."),
        ("k02-weaver", "sill-3", [*BMS, {"pin": 2, "signal": "WAKE UP"}], ""),
        ("k02-weaver", "sill-3", [*BMS, {"pin": 2, "signal": "ENABLE"}, {"pin": 3, "signal": "SYNC"}], "SYNC stands at Sill 3 stack module only."),
        ("k02-weaver", "sill-3", [*BMS, {"pin": 2, "signal": "ENABLE"}, {"pin": 3, "signal": "SYNC", "optional": True}], ""),
        ("k02-weaver", "sill-3", [*BMS, {"pin": 2, "signal": "ENABLE"}, {"pin": 3, "signal": "+12 V"}, {"pin": 7, "signal": "NC"}], ""),
    ],
)  # fmt: skip
def test_a_signal_without_a_partner(house: str, card: str, pins: list[dict[str, Any]], says: str) -> None:
    plan = plan_of({"banks.bank.lead_as_made": []}, with_card(card, {"data_ports": [socket("COM", pins)]}), house)
    assert found(plan) == ({"LINK-SIGNAL": says} if says else {})


def test_the_cores_to_a_transfer_box_are_asked_about_too() -> None:
    ports = shelf()["lock-63"].data_ports  # type: ignore[union-attr]
    pins = [p.model_dump() for p in ports[0].pins]
    short = with_card("lock-63", {"data_ports": [socket("SENSE", pins[:3], bus="sense")]})
    assert found(plan_of({}, short, "d3-lockkeeper")) == {"LINK-SIGNAL": "CONTACTOR − stands at Ferry 5 battery inverter only."}
    none = with_card("ferry-5", {"data_ports": [p.model_dump() for p in shelf()["ferry-5"].data_ports if p.bus != "sense"]})  # type: ignore[union-attr]
    assert found(plan_of({}, none, "d3-lockkeeper")) == {"LINK-SOCKET": "Ferry 5 battery inverter has no sense socket for this link."}


def test_a_pair_on_two_twisted_pairs_is_told_and_its_lead_made_of_one() -> None:
    pins = [{"pin": 1, "signal": "GND"}, {"pin": 3, "signal": "CAN H"}, {"pin": 4, "signal": "CAN L"}]
    plan = plan_of({"banks.bank.lead_as_made": []}, with_card("plover-6s", {"data_ports": [socket("BMS", pins)]}))
    assert found(plan) == {
        "LINK-PAIR": "The signal pair of Plover 6S hybrid inverter sits on pins 3 and 4, which a ready-made lead puts in two twisted pairs."
    }
    assert {c.signal: c.colour for c in plan.links.wired[0].lead} == {"GND": "orange", "CAN H": "blue", "CAN L": "white/blue"}
    # Cores of an untroubled plug go by their pins, in either scheme.
    for scheme, ground in (("T568B", "white/orange"), ("T568A", "white/green")):
        cores = plan_of({"banks.bank.lead_scheme": scheme}).links.wired[0].lead
        assert {c.signal: c.colour for c in cores} == {"GND": ground, "CAN H": "blue", "CAN L": "white/blue"}


@pytest.mark.parametrize(
    ("pairs", "right"),
    [
        (((1, 2), (4, 7), (5, 8)), True),
        # The reference may stay open; a core between pins that carry nothing does no harm.
        (((4, 7), (5, 8)), True),
        (((1, 2), (4, 7), (5, 8), (7, 1), (8, 6)), True),
        (((1, 2), (4, 7)), False),
        (((1, 2), (4, 8), (5, 7)), False),
        (((1, 7), (4, 7), (5, 8)), False),
    ],
)
def test_every_right_lead_is_accepted_and_no_other(pairs: tuple[tuple[int, int], ...], right: bool) -> None:
    assert found(plan_of(lead(*pairs))).keys() == (set() if right else {"LINK-LEAD"})


def test_the_reach_of_a_bus_falls_with_its_speed() -> None:
    """500 kbit/s reach 100 m; a speed between two rows has the reach of the next faster one."""
    assert found(plan_of({"banks.bank.lead_m": 100})) == {}
    beyond = found(plan_of({"banks.bank.lead_m": 100.1}))
    assert beyond == {"LINK-LENGTH": "100.1 m of 500 kbit/s CAN bus; it reaches 100 m."}
    assert [reach_m("CAN", speed) for speed in (1000, 500, 400, 250, 2000)] == [25, 100, 100, 250, None]
    assert reach_m("RS-485", 9.6) == 1200


def test_makers_print_one_signal_in_many_ways() -> None:
    assert {meaning(s) for s in ("CANH", "can-h", "CAN_H", "H", "CAN HIGH")} == {"CAN H"}
    assert {meaning(s) for s in ("A", "RS485 A", "RS-485A", "485-A")} == {"RS-485 A"}
    assert meaning("SENSE N") == "SENSE N"
    assert [may_end(s, "CAN") for s in ("GND", "Shield", "RS-485 A", "CAN L", "ENABLE", "12 V")] == [True, True, True, False, False, True]
    assert left_out(["CAN H"], ["CAN H"], "CAN") == [("CAN L", 0)]
    ports = [p for p in shelf()["tern-5"].data_ports if p.bus == "CAN"]  # type: ignore[union-attr]
    assert pins_of(ports[0], "CAN") == (4, 5)
    assert [c.signal for c in lead_cores(ports[0], ports[0], "CAN")] == ["RS-485 B", "RS-485 A", "CAN H", "CAN L", "GND"]
