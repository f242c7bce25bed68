"""Modbus lines of a house: what is asked, what a dead pair shows, and who is drawn where."""

from __future__ import annotations

from typing import Any

import pytest

from gumboot.core.plan.links import LinksPlan
from gumboot.drawing.links import modbus_drawing
from tests.helpers import plan_of

D2 = "d2-schoolhouse"


def device(n: int, **more: Any) -> dict[str, Any]:
    return {"id": f"meter-{n}", "title": f"Meter {n}", "address": n, **more}


def line(*devices: dict[str, Any]) -> Any:
    return plan_of({"modbus.devices": list(devices)}, None, D2)


def test_a_device_without_an_address_is_an_open_question_under_its_title() -> None:
    plan = line(device(1, address=None), device(2, terminator=True))
    found = next(gap for gap in plan.gaps if gap.path == "modbus.devices.meter-1.address")
    assert (found.station, found.question, found.holds_up) == ("links", "Modbus address of Meter 1?", "Whether Meter 1 answers alone")
    assert "address ?" in modbus_drawing(plan.links.modbus[0])


@pytest.mark.parametrize(("ends", "ohm"), [(0, 120), (1, 60), (2, 40)])
def test_the_dead_pair_shows_what_is_on_it(ends: int, ohm: float) -> None:
    plan = line(*[device(n, terminator=n > 3 - ends) for n in (1, 2, 3)])
    assert plan.links.modbus[0].pair_ohm.value == pytest.approx(ohm)
    check = next(c for c in plan.checks if c.id == "modbus-pair")
    assert (check.low is not None and check.low.value, check.high is not None and check.high.value) == (54, 66)


@pytest.mark.parametrize("devices", [1, 3, 4, 9])
def test_every_device_stands_in_the_drawing(devices: int) -> None:
    plan = line(*[device(n, terminator=n == devices) for n in range(1, devices + 1)])
    words = str(modbus_drawing(plan.links.modbus[0]))
    assert all(f"Meter {n}" in words for n in range(1, devices + 1))
    assert "missing" not in words


def test_no_device_no_line() -> None:
    links: LinksPlan = line().links
    assert links.modbus == ()


def test_a_line_longer_than_its_speed_allows() -> None:
    """RS-485 reaches 1200 m to 100 kbit/s, 100 m to 1 Mbit/s."""
    for metres, speed, stops in ((1200, "9600 bit/s", False), (1201, "9600 bit/s", True), (101, "115200 bit/s", True)):
        plan = plan_of({"modbus.devices": [device(1, terminator=True, speed=speed)], "modbus.length_m": metres}, None, D2)
        assert ("LINK-LENGTH" in {f.code for f in plan.stops}) == stops, (metres, speed)


def test_an_inverter_without_a_socket_for_it_is_a_stop() -> None:
    plan = plan_of({"modbus.devices": [device(1, terminator=True)]})
    assert [f.where for f in plan.stops if f.code == "LINK-SOCKET"] == ["Modbus line of inverter"]
