"""Modbus lines of a house: what is asked, what a dead pair shows, and who is drawn where."""

from __future__ import annotations

from typing import Any

import pytest

from gumboot.catalogue import shelf
from gumboot.core.errors import WrongCard
from gumboot.core.plan.derive import derive
from gumboot.core.plan.job_file import JobFile, renamed
from gumboot.core.plan.leads import LeadKind
from gumboot.core.plan.links import LinksPlan
from gumboot.core.plan.upkeep import chosen
from gumboot.core.study.materials import materials
from gumboot.drawing.links import modbus_drawing
from tests.helpers import edited, plan_of

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


def test_a_device_with_a_card_is_wired_loaded_and_set_as_that_says() -> None:
    """Whatever was typed of its terminals before: the card goes before it."""
    typed = {"pin_a": 7, "pin_b": 8, "load": "1"}
    plan = line(device(1, card="tally-3", **typed), device(2, card="bollard-11", terminator=True))
    first, second = (lead for lead in plan.leads.leads if lead.kind is LeadKind.METER)
    assert [(wire.signal, wire.second) for wire in first.wires] == [("A", 14), ("B", 15), ("GND", 16)]
    assert [(wire.signal, wire.first, wire.second) for wire in second.wires] == [("A", 14, 4), ("B", 15, 5)]
    assert "Comes with address 1, 9600 bit/s, set by its key" in first.told
    assert "terminator in by its switch" in second.told
    assert "until it is switched off and on" in first.told
    # The inverter, a quarter and a whole load.
    assert plan.figures["links.modbus_loads"].value == pytest.approx(2.25)
    bought = [item.item for item in materials(plan).items if item.where == "Modbus line"]
    assert bought == ["Marram Electric Tally 3 rail meter", "Marram Electric Bollard 11 charging point"]


def test_a_device_without_a_card_is_wired_as_it_was_typed() -> None:
    plan = line(device(1, pin_a=7, pin_b=8, terminator=True))
    (lead,) = (each for each in plan.leads.leads if each.kind is LeadKind.METER)
    assert [(wire.signal, wire.second) for wire in lead.wires] == [("A", 7), ("B", 8)]
    assert "Comes with" not in lead.told
    assert [item for item in materials(plan).items if item.where == "Modbus line"] == []


def test_a_card_of_another_kind_is_refused_and_one_that_is_chosen_comes_with_the_job() -> None:
    with pytest.raises(WrongCard, match="needs a line-device"):
        line(device(1, card="halo-60"))
    job = edited({"modbus.devices": [device(1, card="tally-3", terminator=True)]}, D2)
    assert "tally-3" in chosen(job)
    file = renamed(JobFile(job, {"tally-3": shelf()["tally-3"]}), "tally-3", "tally-9")
    assert file.job.modbus.devices[0].card == "tally-9"


@pytest.mark.parametrize(
    "edits",
    [
        {"modbus.devices.charging-point.card": "tally-3"},
        {"modbus.devices.charging-point.card": None},
        {"modbus.devices.charging-point.address": 33},
    ],
)
def test_another_card_at_a_device_is_planned_again(edits: dict[str, Any]) -> None:
    """A plan that builds on the one before says what one from nothing says."""
    before = derive(edited({}, D2), shelf(), noted=True)
    job = edited(edits, D2)
    again, anew = derive(job, shelf(), before), derive(job, shelf())
    assert again.leads == anew.leads
    assert again.findings == anew.findings
    assert again.figures["links.modbus_loads"].value == anew.figures["links.modbus_loads"].value


def test_other_lag_screws_are_planned_again() -> None:
    before = derive(edited({}), shelf(), noted=True)
    job = edited({"equipment.screw": "barnacle-8x90"})
    again, anew = derive(job, shelf(), before), derive(job, shelf())
    assert again.walls == anew.walls
    assert again.walls != before.walls
