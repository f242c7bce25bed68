"""Drawings: every element of the single line opens a figure, and what they open exists."""

from __future__ import annotations

import re

import pytest

from gumboot.core.plan.derive import Plan
from gumboot.core.sim.switch_line import live_nodes
from gumboot.drawing import bank, links, loads, sensing, settings, strings
from gumboot.drawing.lead_net import net_canvas
from gumboot.drawing.leads import leads_drawing
from gumboot.drawing.single_line import single_line
from gumboot.drawing.wall import elevation
from tests.helpers import plan_of

PLAN = plan_of()


def net_of(plan: Plan) -> str:
    drawn = net_canvas(plan, {})
    return str(drawn.render()) if drawn is not None else ""


DRAWN = {
    "single line": single_line(PLAN),
    "live board": single_line(PLAN, live_nodes(PLAN.power_up.line, ["bat-1"]), frozenset({"bat-1"})),
    "loads": loads.beams_drawing(PLAN) + loads.ribbon_drawing(PLAN) + loads.tags_drawing(PLAN),
    "strings": strings.rulers_drawing(PLAN, "US") + strings.roof_drawing(PLAN),
    "bank": bank.bank_drawing(PLAN) + bank.chain_drawing(PLAN),
    "wall": elevation(PLAN, "SI"),
    "links": links.bus_drawing(PLAN) + leads_drawing(PLAN) + net_of(PLAN),
    "sensing": sensing.ct_drawing(PLAN),
    "settings": settings.charge_ruler(PLAN) + settings.day_strip(PLAN),
}


def opened(svg: str) -> set[str]:
    return set(re.findall(r'data-figure="([^"]+)"', svg))


@pytest.mark.parametrize("name", DRAWN)
def test_what_a_drawing_opens_exists(name: str) -> None:
    assert opened(DRAWN[name]) <= set(PLAN.figures)


@pytest.mark.parametrize("name", DRAWN)
def test_no_style_and_balanced_groups(name: str) -> None:
    svg = DRAWN[name]
    assert "style=" not in svg
    assert svg.count("<g ") == svg.count("</g>")


def test_every_conductor_device_and_earth_of_the_single_line_opens() -> None:
    keys = opened(DRAWN["single line"])
    for circuit in PLAN.circuits.all:
        assert f"circuits.{circuit.id}.installed" in keys
    for name in ("bat-main", "grid", "backup", "bat-1"):
        assert f"circuits.{name}.device" in keys
    for name in ("pv-pv1", "pv-pv2", "bat-main", "grid", "backup"):
        assert f"circuits.{name}.earth" in keys
    for key in (
        "card.plover-6s.output_w",
        "card.cobble-5.energy_wh",
        "card.trough-300.busbar_a",
        "sensing.CT1.expected",
        "in.site.service_main_a",
        "circuits.busbar_sum",
    ):
        assert key in keys


def test_the_live_board_colours_only_what_is_live() -> None:
    live = set(re.findall(r'data-node="([^"]+)"', DRAWN["live board"]))
    assert live == {"bat-1-cells", "bat-2-cells", "bat-3-cells", "dc-bus", "main-board", "pv-strings"}
    assert "data-node" not in DRAWN["single line"]


def test_the_wall_is_one_scale() -> None:
    # The inverter is 520 x 690 mm and the wall 5200 mm wide over 676 units.
    rect = re.search(r'<rect x="[^"]+" y="[^"]+" width="67.6" height="89.7"', DRAWN["wall"])
    assert rect is not None


def test_every_hole_is_drawn() -> None:
    holes = {h.x_mm.key for b in PLAN.walls[0].boxes for h in b.holes}
    assert holes <= opened(DRAWN["wall"])


@pytest.mark.parametrize(
    "edits",
    [
        {"strings": []},
        {"loads": []},
        {"sensing.meters.meter.cts": []},
        {"settings.tariff": []},
        {"walls.wall.placements": []},
        {"walls.wall.board": None},
        {"faces": []},
        {"runs": []},
        {"banks.bank.units.-bat-2": None},
    ],
)
def test_drawings_of_a_bare_job_do_not_fail(edits: dict[str, object]) -> None:
    plan = plan_of(edits)
    for draw in (
        single_line,
        loads.tags_drawing,
        loads.beams_drawing,
        loads.ribbon_drawing,
        strings.roof_drawing,
        bank.bank_drawing,
        bank.chain_drawing,
        links.bus_drawing,
        sensing.ct_drawing,
        settings.charge_ruler,
        settings.day_strip,
    ):
        assert str(draw(plan)).startswith(("<svg", "<div")) or draw in (sensing.ct_drawing, strings.roof_drawing)
    assert elevation(plan, "US") is not None
    assert strings.rulers_drawing(plan, "US") is not None
