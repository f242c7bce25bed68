"""What comes along in the van, from the screws, ends, leads and measurements of a house; and all torques on paper."""

from __future__ import annotations

import csv
import io
import re

import pytest
from pypdf import PdfReader

from gumboot.catalogue import demo_house, demo_houses, shelf
from gumboot.core.plan.derive import derive
from gumboot.core.study.packing import loads_of
from gumboot.core.study.van import DRIVER_NM, torques_of, van_of
from gumboot.documents.buying import leads_csv, van_csv
from gumboot.documents.pdf import torques_pdf, van_pdf
from tests.helpers import plan_of

HOUSES = [path.name.removesuffix(".gumboot.json") for path in demo_houses()]
PLANS = {house: derive(demo_house(house), shelf()) for house in HOUSES}
TODAY = "2026-11-28"


@pytest.mark.parametrize("house", HOUSES)
def test_every_screw_has_its_tip_its_torque_tool_and_a_line_on_paper(house: str) -> None:
    plan = PLANS[house]
    found = van_of(plan, TODAY)
    tips = {row.item.lower() for row in found.rows if row.group == "Bits and sockets"}
    for t in plan.terminations:
        if t.terminal.tip is not None:
            assert t.terminal.tip.words.lower() in tips
    values = [t.torque.value for t in plan.terminations if t.torque] + [j.torque.value for b in plan.fitting.boxes for j in b.joints]
    for wall in plan.walls:
        if wall.fixings is not None and wall.fixings.torque is not None:
            values += [wall.fixings.torque[1].value] * sum(len(box.holes) for box in wall.boxes)
    assert sorted(t.torque.value for t in found.torques for _ in range(t.screws)) == sorted(values)
    tools = [row for row in found.rows if row.group == "Torque tools"]
    assert sum(int(row.use.split()[0]) for row in tools) == len(values)
    for row in tools:
        low, high = (float(x) for x in row.item.partition(" N m")[0].partition(", ")[2].split(" to "))
        own = [v for v in values if (v <= DRIVER_NM) == ("driver" in row.item)]
        assert (low, high) == pytest.approx((min(own), max(own)), rel=0.01)
        assert [f.value for f in row.chosen_by] == [min(own), max(own)]


@pytest.mark.parametrize("house", HOUSES)
def test_lugs_ferrules_and_plugs_are_counted_once(house: str) -> None:
    plan, rows = PLANS[house], van_of(PLANS[house], TODAY).rows
    ends = [t.terminal.end for t in plan.terminations]
    lugs = sum(int(row.use.split()[0]) for row in rows if "crimper" in row.item)
    ferrules = sum(int(row.use.split()[0]) for row in rows if row.item.startswith("Ferrule"))
    contacts = sum(int(row.use.split()[0]) for row in rows if row.item.startswith("Pliers for DC"))
    assert (lugs, ferrules) == (ends.count("lug"), ends.count("ferrule"))
    assert contacts == sum(t.terminal.plug for t in plan.terminations)


def missing(plan_edits: dict[str, object], group: str, today: str = TODAY) -> list[str]:
    return [row.missing for row in van_of(plan_of(dict(plan_edits)), today).rows if row.group == group and row.missing]


def test_a_tool_out_of_calibration_or_range_is_missing() -> None:
    assert missing({}, "Torque tools") == []
    assert missing({}, "Torque tools", "2029-01-01")
    assert missing({"tools.TD-1.high_nm": 2.0, "tools.TW-2.low_nm": 10.0}, "Torque tools")
    # A day after the last day of both tools nothing is covered; on the last day it is.
    last = max(tool.calibrated_to for tool in plan_of().job.tools if tool.kind == "torque tool")
    assert len(missing({}, "Torque tools", "2099-01-01")) == 2
    assert len(missing({}, "Torque tools", last)) < 2


def test_the_meter_is_rated_for_the_highest_voltage_that_is_measured() -> None:
    plan = plan_of()
    meters = [row for row in van_of(plan, TODAY).rows if row.group == "Meters"]
    highest = max(end.value for c in plan.all_checks() if c.unit == "V" for end in (c.high, c.expected) if end is not None)
    assert f"up to {highest:.0f} V" in [row.use for row in meters]
    (tester,) = [row for row in meters if row.item.startswith("Insulation tester")]
    assert tester.item == f"Insulation tester, {', '.join(f'{f.value:g}' for f in tester.chosen_by)} V"


@pytest.mark.parametrize("house", HOUSES)
def test_every_figure_that_a_tool_is_chosen_by_opens(house: str) -> None:
    plan = PLANS[house]
    for row in van_of(plan, TODAY).rows:
        assert all(plan.figures[f.key] == f for f in row.chosen_by)


def test_lists_as_files_and_torques_on_a6() -> None:
    found = van_of(PLANS["d1-saltmarsh"], TODAY)
    rows = list(csv.DictReader(io.StringIO(van_csv(found))))
    assert len(rows) == len(found.rows)
    cores = list(csv.DictReader(io.StringIO(leads_csv(found))))
    assert len(cores) == sum(len(lead.wires) for lead in found.leads)
    battery = [(row["core"], row["pin_from"], row["pin_to"]) for row in cores if row["lead"] == "Battery lead"]
    assert battery == [("white/orange", "1", "2"), ("blue", "4", "7"), ("white/blue", "5", "8")]
    reader = PdfReader(io.BytesIO(torques_pdf(found.torques, "Saltmarsh Cottage, torques")))
    assert [round(float(side) / 72 * 25.4) for side in (reader.pages[0].mediabox.width, reader.pages[0].mediabox.height)] == [105, 148]
    text = " ".join(" ".join(page.extract_text() for page in reader.pages).split())
    assert re.search(r"11 97 10\.[45] to 11\.[56] 13 mm socket", text)
    assert "the maker's manual and the local code win" in text


def test_the_anchors_of_a_wall_are_on_the_paper_card_with_their_torque() -> None:
    plan = PLANS["k13-printworks"]
    anchors = [t for t in torques_of(plan) if t.title.endswith("anchors")]
    assert {t.place for t in anchors} == {box.id for wall in plan.walls for box in wall.boxes if box.holes}
    assert all((t.low.value, t.torque.value, t.high.value) == (13.5, 15.0, 16.5) for t in anchors)
    assert not [t for t in torques_of(PLANS["d1-saltmarsh"]) if t.title.endswith("anchors")]


def test_the_van_list_is_on_paper_with_every_line_and_what_no_tool_does() -> None:
    plan = plan_of()
    reader = PdfReader(io.BytesIO(van_pdf(plan, "2039-01-01", "Saltmarsh Cottage, van list")))
    text = "".join("".join(page.extract_text() for page in reader.pages).split())
    for load in loads_of(plan):
        assert "".join(load.title.split()) in text, load.title
        for line in load.lines:
            assert "".join(line.replace("mm2", "mm²").split()) in text, line
    assert "notoolincalibrationfor" in text
    assert "themakers'manuals,whichwin" in text
