"""The cable of a battery bus: loads of an RS-485 bus, stubs by speed, and how switches stand while a protocol is chosen."""

from __future__ import annotations

import re
from typing import Any

import pytest

from gumboot.catalogue import shelf
from gumboot.core.acts import acts
from gumboot.core.card import Shelf
from gumboot.core.card.storage import BatteryCard
from gumboot.core.errors import GumbootError
from gumboot.core.plan.links import places_told
from gumboot.drawing.links import bus_drawing
from tests.helpers import codes, plan_of

SHELF = shelf()


def speaking(bus: str, kbit_s: float, load: str = "1") -> Shelf:
    """The cards of the garage, battery and inverter on another bus."""
    inverter, battery = (SHELF[name].model_dump(mode="json") for name in ("plover-6s", "cobble-5"))
    for card in (inverter, battery):
        for protocol in card["protocols"]:
            protocol |= {"bus": bus, "kbit_s": kbit_s}
        pins = [{"pin": 4, "signal": "A"}, {"pin": 5, "signal": "B"}] if bus == "RS-485" else None
        for port in card["data_ports"]:
            if port["bus"] in ("CAN", "RS-485") and port["purpose"] in ("", "battery"):
                port.update({"bus": bus} | ({"pins": pins} if pins else {}))
    battery |= {"bus_load": load, "units_max": 40, "dip_switches": 8, "dip_programming": ""}
    return {**SHELF, "plover-6s": type(SHELF["plover-6s"]).model_validate(inverter), "cobble-5": BatteryCard.model_validate(battery)}


def bank(count: int, **more: Any) -> dict[str, Any]:
    units = [{"id": f"bat-{n}", "dip_address": n, "terminator": n == count, "protocol": 3} for n in range(1, count + 1)]
    return {"banks.bank.units": units} | {f"banks.bank.{key}": value for key, value in more.items()}


@pytest.mark.parametrize(("count", "load", "stops"), [(31, "1", False), (32, "1", True), (32, "1/2", False)])
def test_a_driver_bears_32_loads_the_inverter_among_them(count: int, load: str, stops: bool) -> None:
    found = codes(bank(count), speaking("RS-485", 9.6, load))
    assert ("LINK-LOAD" in found) == stops


def test_a_can_bus_is_not_counted_in_loads() -> None:
    assert "LINK-LOAD" not in codes(bank(32), speaking("CAN", 250))


@pytest.mark.parametrize(
    ("bus", "kbit_s", "stub", "level"),
    [
        ("CAN", 500, 1.0, None),
        ("CAN", 500, 1.1, "caution"),
        ("CAN", 500, 6.0, "caution"),
        ("CAN", 500, 6.1, "stop"),
        ("CAN", 1000, 0.3, None),
        ("CAN", 1000, 0.4, "caution"),
        ("RS-485", 9.6, 20.0, "caution"),
        ("RS-485", 9.6, 20.1, "stop"),
    ],
)
def test_how_long_a_stub_may_be_follows_bus_and_speed(bus: str, kbit_s: float, stub: float, level: str | None) -> None:
    plan = plan_of(bank(3, stub_m=stub), speaking(bus, kbit_s))
    assert next((f.level for f in plan.findings if f.code == "LINK-STUB"), None) == level


def test_one_battery_stands_at_the_end_of_its_lead() -> None:
    """A star of one and a stub of one are a lead."""
    assert not {"LINK-STAR", "LINK-STUB"} & codes(bank(1, stub_m=9, bus_shape="star"))


@pytest.mark.parametrize(
    ("places", "told"),
    [
        ((True, True), "all switches ON"),
        ((False, False, False), "all switches OFF"),
        ((True, False, True), "switches 1 ON, 2 OFF, 3 ON"),
    ],
)
def test_places_in_words(places: tuple[bool, ...], told: str) -> None:
    assert places_told(places) == told


def test_the_programming_place_is_told_and_drawn() -> None:
    plan = plan_of({})
    assert acts(plan)["ritual:program.bat-2"].title == "bat-2: all switches ON (programming), then it alone on, the others off"
    drawn = str(bus_drawing(plan))
    assert "To choose its protocol: all switches ON," in drawn
    assert int(re.findall(r'viewBox="0 0 728 (\d+)"', drawn)[0]) == 190 + 56


def test_a_maker_who_asks_for_none() -> None:
    cobble = SHELF["cobble-5"].model_copy(update={"dip_programming": ""})
    plan = plan_of({}, {**SHELF, "cobble-5": cobble})
    assert acts(plan)["ritual:program.bat-2"].title == "bat-2 alone on, the others off"
    assert "To choose" not in str(bus_drawing(plan))


def test_a_card_gives_a_place_for_each_switch() -> None:
    card = SHELF["cobble-5"].model_dump(mode="json") | {"dip_programming": "111"}
    with pytest.raises((GumbootError, ValueError), match="one place for each of the 4 switches"):
        BatteryCard.model_validate(card)
