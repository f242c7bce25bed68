"""Jobs that nobody would build still derive, or are refused by name: never an unnamed failure."""

from __future__ import annotations

from typing import Any

import pytest
from pydantic import ValidationError

from gumboot.catalogue import demo_house, shelf
from gumboot.core.errors import GumbootError
from gumboot.core.job import Job
from gumboot.core.plan.derive import derive
from gumboot.drawing import bank, links, loads, sensing, settings, single_line, strings, wall
from gumboot.drawing.lead_net import net_canvas
from gumboot.drawing.leads import leads_drawing
from tests.helpers import changed, findings

HOUSES = ("d1-saltmarsh", "d2-schoolhouse", "d3-lockkeeper", "d4-lookout", "k05-homestead", "k07-ridge", "k13-printworks")
CARDS = [card_id for card_id, card in shelf().items() if card.kind in ("inverter", "battery", "transfer", "generator", "pv-inverter")]
ODD: list[tuple[str, Any]] = [
    *(("rule_book", book) for book in ("nec-2023", "iec-60364", "bs-7671", "as-nzs-3000")),
    *(("site.supply", supply) for supply in ("none", "single phase", "split phase", "three phase")),
    *(("site.connection", case) for case in ("supply side", "controlled")),
    *(("site.busbar_case", case) for case in ("sum", "opposite ends", "sum of devices", "centre fed")),
    *(("site.earthing", system) for system in ("TN-S", "TN-C-S", "TT", "IT")),
    *((f"things.{thing}.card", None) for thing in ("switch-fuse", "busbar", "roof", "main-board", "transfer", "generator", "pv-inverter")),
    *(
        (f"runs.{run}.{field}", value)
        for run in ("grid", "backup", "bat-main")
        for field, value in (
            ("material", "aluminium"),
            ("insulation", "XLPE"),
            ("cable", "cord"),
            ("cable", "flexible cable"),
            ("method", "D1"),
            ("sets", 4),
            ("power_factor", 0.5),
            ("device_kind", "gG fuse"),
            ("device_a", 599),
            ("length_m", 300),
            ("ambient_c", 85),
            ("circuits_together", 40),
            ("current_carrying", 60),
            ("raceway", "wireway"),
        )
    ),
    ("equipment.module", None),
    ("sensing.meters.meter.card", None),
    ("banks.bank.cabling", "daisy"),
    ("banks.bank.cabling", "diagonal"),
    ("loads", []),
    ("strings", []),
    ("faces", []),
    ("runs", []),
    ("walls.wall.placements", []),
    ("sensing.meters.meter.cts", []),
    ("settings.tariff", []),
]


def one(house: str, path: str, value: Any) -> None:
    try:
        plan = derive(Job.model_validate(changed(demo_house(house).model_dump(mode="json"), path, value)), shelf())
    except (GumbootError, ValidationError):
        return
    for draw in (
        single_line.single_line,
        loads.beams_drawing,
        loads.ribbon_drawing,
        strings.roof_drawing,
        bank.bank_drawing,
        bank.chain_drawing,
        links.bus_drawing,
        leads_drawing,
        sensing.ct_drawing,
        settings.charge_ruler,
        settings.day_strip,
    ):
        str(draw(plan))
    net_canvas(plan, {})
    str(wall.elevation(plan, "SI"))
    str(strings.rulers_drawing(plan, "US"))
    assert all(f.act.endswith(".") and f.text.endswith(".") for f in plan.findings)


@pytest.mark.long
@pytest.mark.parametrize("house", HOUSES)
def test_odd_values_are_planned_or_refused_by_name(house: str) -> None:
    for path, value in ODD:
        one(house, path, value)


@pytest.mark.long
@pytest.mark.parametrize("house", HOUSES)
def test_every_card_in_its_place_is_planned_or_refused_by_name(house: str) -> None:
    for card_id in CARDS:
        one(house, f"equipment.{shelf()[card_id].kind.replace('-', '_')}", card_id)


def test_a_battery_that_cannot_be_heard_is_said() -> None:
    found = [f for f in findings({"banks.bank.card": "sill-3"}, None, "d4-lookout") if f.code == "LINK-PROTOCOL"]
    assert "no CAN socket in common" in found[-1].text


def test_strings_without_any_tracker_are_said() -> None:
    found = [f.code for f in findings({"things.pv-inverter.card": None}, None, "d3-lockkeeper")]
    assert "PV-NO-TRACKER" in found
