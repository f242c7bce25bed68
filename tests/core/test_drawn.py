"""Drawings judged by their geometry: no words over words or lines, nothing clipped, for every kind and state."""

from __future__ import annotations

import itertools
from collections import Counter
from datetime import UTC, datetime
from typing import Any

import pytest

from gumboot.catalogue import demo_house, demo_houses, shelf
from gumboot.core.job import Job
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.sim.switch_line import live_nodes
from gumboot.core.standing import stand
from gumboot.core.study.year import study_year
from gumboot.documents.dxf import drawing_dxf
from gumboot.drawing import bank, links, loads, single_line, strings, wall, wire
from gumboot.drawing.hand import landing
from gumboot.drawing.single_line import several_layout
from gumboot.drawing.single_line.layout import lay_out
from gumboot.drawing.single_line.several import _level, _uprights, ordinals
from gumboot.drawing.single_line.several_layout import BOARDS, INVERTER
from gumboot.drawing.svg import Canvas, Shape
from tests.core.test_several_boards import FEEDER, RUN, barn, fed, two_switches
from tests.helpers import beside, edited, plan_of, with_card

NOW = datetime(2026, 11, 28, tzinfo=UTC)
HOUSES = [p.name.removesuffix(".gumboot.json") for p in demo_houses()]


def _segments(shape: Shape) -> list[tuple[float, float, float, float]]:
    points = [*shape.points, *([shape.points[0]] if shape.closed else [])]
    return [(min(a[0], b[0]), min(a[1], b[1]), max(a[0], b[0]), max(a[1], b[1])) for a, b in itertools.pairwise(points)]


def faults(c: Canvas, lines: bool = True) -> list[str]:
    """What is wrong with a drawing: words clipped, over words, over lines or edges."""
    found = []
    texts = [s for s in c.shapes if s.kind == "text"]
    for n, a in enumerate(texts):
        left, top, right, bottom = a.box()
        if left < -1 or right > c.width + 1 or top < -1 or bottom > c.height + 1:
            found.append(f"clipped: {a.words}")
        for b in texts[n + 1 :]:
            x1, y1, x2, y2 = b.box()
            if min(right, x2) - max(left, x1) > 1.5 and min(bottom, y2) - max(top, y1) > 2:
                found.append(f"over each other: {a.words} / {b.words}")
        grounds = [s for s in c.shapes if s.kind == "circle" and s.filled and s.box()[0] <= left and s.box()[2] >= right]
        if any(s.box()[1] <= top + 3 and s.box()[3] >= bottom - 3 for s in grounds):
            continue  # a number in its own ring, which covers the run below it
        for s in c.shapes if lines else ():
            if s.kind not in ("line", "rect") or not s.ink or (s.kind == "line" and s.filled):
                continue
            for x1, y1, x2, y2 in _segments(s):
                if min(right, x2 + 0.5) - max(left, x1 - 0.5) > 1 and min(bottom, y2 + 0.5) - max(top, y1 - 0.5) > 0.9:
                    found.append(f"crossed by a line: {a.words}")
    return found


def states(plan: Plan) -> list[Canvas]:
    line = plan.power_up.line
    every = frozenset(s.id for s in line.switches)
    return [single_line.canvas(plan), single_line.canvas(plan, {}, frozenset()), single_line.canvas(plan, live_nodes(line, every), every)]


def test_the_judge_sees_a_fault() -> None:
    c = Canvas("x", 100, 100, "x")
    c.text(10, 20, "one", 12)
    c.text(12, 22, "two", 12)
    c.line(0, 18, 50, 18)
    c.text(95, 50, "long words", 12)
    assert {f.split(":")[0] for f in faults(c)} == {"over each other", "crossed by a line", "clipped"}


@pytest.mark.parametrize("house", HOUSES)
def test_no_words_meet_on_any_single_line(house: str) -> None:
    for canvas in states(plan_of({}, None, house)):
        assert faults(canvas) == []


@pytest.mark.parametrize("house", HOUSES)
def test_no_words_meet_on_any_map_of_terminals(house: str) -> None:
    """At the bench and in the hand, of every box; and every terminal has its name, one for all that lie in parallel."""
    plan = plan_of({}, None, house)
    standing = stand(plan, [], NOW)
    for place in dict.fromkeys(t.place for t in plan.terminations):
        named = [t.terminal.title for t in plan.terminations if t.place == place and t.nth == 1]
        for canvas in (wire.canvas(plan, standing, place, str), landing.terminals(plan, place)):
            assert faults(canvas, lines=False) == []
            words = Counter(shape.words for shape in canvas.shapes if shape.kind == "text")
            assert all(words[name] >= count for name, count in Counter(named).items())


def _thing(document: dict[str, Any], seat: str) -> dict[str, Any]:
    found: dict[str, Any] = next(t for t in document["things"] if t["seat"] == seat)
    return found


def with_more() -> dict[str, dict[str, Any]]:
    """Houses with more than the diagram's columns hold: main boards behind main boards, PV inverters anywhere, boards far behind."""
    main = {"seat": "board", "duty": "main", "card": "house-board-100"}
    far = fed()
    far["things"].append({**main, "id": "stable", "fed_from": "annex"})
    _thing(far, "inverter")["board"] = "stable"
    far["runs"].append({**FEEDER, "id": "feeder-stable"})
    split = demo_house("g01-cooperage").model_dump(mode="json")
    split["things"].append({**main, "id": "annex", "fed_from": "main-board"})
    split["runs"].append(FEEDER)
    [t for t in split["things"] if t["seat"] == "inverter"][1]["board"] = "annex"
    three = demo_house("g02-dairy").model_dump(mode="json")
    three["things"].append({**main, "id": "annex", "card": "house-board-63"})
    three["things"].append({"seat": "pv-inverter", "id": "barn-pv", "card": "rush-3k6", "feeds": "annex", "title": "Barn PV inverter"})
    _thing(three, "inverter")["board"] = "annex"
    coupled = demo_house("d3-lockkeeper").model_dump(mode="json")
    first = _thing(coupled, "pv-inverter")
    first.update(feeds="main-board", stays=True)
    coupled["things"].append({**first, "id": "garage-pv", "feeds": "sub-board"})
    coupled["runs"].append({**next(r for r in coupled["runs"] if r["id"] == "pv-ac"), "id": "pv-ac-garage-pv"})
    deep = barn("lights", "cold")
    next(t for t in deep["things"] if t["id"] == "barn")["card"] = "larder-24"
    deep["things"].append(
        {"seat": "board", "duty": "backed-up", "id": "loft", "card": "larder-8", "title": "Loft board", "fed_from": "barn"}
    )
    deep["runs"].append({"id": "feeder-loft", **RUN})
    deep["loads"][0]["board"] = "loft"
    two_generators = demo_house("k03-tollhouse").model_dump(mode="json")
    two_generators["things"] += [{**_thing(two_generators, "generator"), "id": "gen-2"}, {**main, "id": "annex", "card": "house-board-63"}]
    panel = demo_house("g01-cooperage").model_dump(mode="json")
    panel["things"] = [t for t in panel["things"] if t["id"] not in ("inv-2", "roof-2", "qf-2")]
    panel["strings"] = [x for x in panel["strings"] if x["inverter"] != "inv-2"]
    for stood in panel["walls"]:
        stood["placements"] = [at for at in stood["placements"] if at["id"] not in ("inv-2", "qf-2")]
    return {
        "a main board behind": fed(),
        "a main board far behind": far,
        "inverters on two main boards": split,
        "two supplies": three,
        "PV inverters on two boards": coupled,
        "a board behind one behind": deep,
        "two generators": two_generators,
        "one inverter in a panel": panel,
    }


def apart() -> dict[str, dict[str, Any]]:
    """Houses whose inverters feed apart, boards behind boards, several transfer switches."""
    alone = barn("freezer", name="d1-saltmarsh")
    return {
        "two islands": beside("d1-saltmarsh", "g01-cooperage")[0],
        "an island with a gateway": beside("d1-saltmarsh", "k07-ridge")[0],
        "an island with a switch": beside("k07-ridge", "k05-homestead")[0],
        "an island without the grid": beside("d1-saltmarsh", "d4-lookout")[0],
        "an island with PV on its board": beside("k09-terrace", "d3-lockkeeper")[0],
        **with_more(),
        "a board behind, one inverter": alone,
        "a board behind, two inverters": barn("lights"),
        "two switches": two_switches(),
    }


def variants() -> dict[str, tuple[Job, Any]]:
    """Systems beyond the demo houses: many strings, many batteries, bypasses, answers missing."""
    ridge = demo_house("k07-ridge").model_dump(mode="json")
    first = ridge["strings"][0]
    ridge["strings"] = [{**first, "id": f"S{k}", "tracker": t.id, "modules": 4} for k, t in enumerate(shelf()["grebe-11"].trackers)]  # type: ignore[union-attr]
    ridge["runs"] += [
        {**next(r for r in ridge["runs"] if r["id"] == "pv-pv1"), "id": f"pv-{t.id.lower()}"}
        for t in shelf()["grebe-11"].trackers  # type: ignore[union-attr]
        if not any(r["id"] == f"pv-{t.id.lower()}" for r in ridge["runs"])
    ]
    from gumboot.cli.bench import grown

    many = grown(4)
    return {
        **{name: (Job.model_validate(document), shelf()) for name, document in apart().items()},
        "six strings": (Job.model_validate(ridge), shelf()),
        "eight batteries": many,
        "sixteen batteries": grown(8),
        "bypass": (edited({"backup.bypass": "interlocked"}), shelf()),
        "bypass, gateway": (edited({"backup.bypass": "breaker without interlock"}, "d3-lockkeeper"), shelf()),
        "nothing sized": (edited({f"runs.{r.id}.length_m": None for r in demo_house("d1-saltmarsh").runs}), shelf()),
        "no main known": (edited({"site.service_main_a": None, "site.busbar_a": None}), shelf()),
        "long name": (edited({}), with_card("plover-6s", {"title": "Plover 6S hybrid inverter with a very long name indeed"})),
        "transfer, no grid": (edited({"site.supply": "none"}, "k05-homestead"), shelf()),
    }


@pytest.mark.parametrize("name", list(variants()))
def test_nor_beyond_the_demo_houses(name: str) -> None:
    job, cards = variants()[name]
    for canvas in states(derive(job, cards)):
        assert faults(canvas) == []


@pytest.mark.parametrize("name", list(variants()))
def test_nor_on_any_battery_bus_however_long(name: str) -> None:
    for bus in derive(*variants()[name]).links.buses:
        drawn = links.bus_canvas(bus)
        assert (drawn is None) == bool(bus.none_because)
        if drawn is None:
            continue
        assert faults(drawn) == []
        assert len([s for s in drawn.shapes if s.words.startswith(("address ", "no address"))]) == len(bus.chain)


def test_a_battery_bus_with_long_names_shortens_them_and_keeps_every_address() -> None:
    house = demo_house("d1-saltmarsh").model_dump(mode="json")
    for unit in house["banks"][0]["units"]:
        unit["id"] = f"battery-on-the-left-wall-{unit['id']}"
    bus = derive(Job.model_validate(house), shelf()).links.buses[0]
    drawn = links.bus_canvas(bus)
    assert drawn is not None
    assert faults(drawn) == []
    assert len([s for s in drawn.shapes if s.words.startswith("battery-on") and s.words.endswith("…")]) == len(bus.chain)


@pytest.mark.parametrize("name", list(apart()))
def test_every_circuit_is_drawn_that_feeds_apart(name: str) -> None:
    plan = derive(Job.model_validate(apart()[name]), shelf())
    canvas = single_line.canvas(plan)
    assert "Not drawn" not in " ".join(shape.words for shape in canvas.shapes)
    markup = str(canvas.render())
    for circuit in plan.circuits.sized.values():
        assert f'data-figure="{circuit.installed.key}"' in markup, circuit.circuit.id
    # Every switch of the live board that joins a board stands in the drawing, by its state.
    closed = frozenset(s.id for s in plan.power_up.line.switches if s.part in ("main", "feeder", "panel", "grid"))
    shown = [s.words for s in single_line.canvas(plan, {}, closed).shapes]
    assert shown.count("closed") >= len([s for s in plan.power_up.line.switches if s.part in ("main", "grid")])


@pytest.mark.parametrize("house", HOUSES)
def test_every_circuit_is_drawn_with_a_row_and_its_cores(house: str) -> None:
    plan = plan_of({}, None, house)
    alone = len(plan.seats.inverters) == 1
    at = lay_out(plan)
    markup = str(single_line.single_line(plan))
    for circuit in plan.circuits.all:
        if alone and circuit.kind not in ("battery-unit", "interlink"):
            assert circuit.id in at.rows, circuit.id
        assert f'data-figure="circuits.{circuit.id}.installed"' in markup, circuit.id
    rows = sorted(v for k, v in at.rows.items() if k.startswith(("pv-", "bat", "gen")) and k != "pv-ac")
    assert all(b - a >= 40 for a, b in itertools.pairwise(rows))


@pytest.mark.parametrize("house", ["g01-cooperage", "g02-dairy"])
def test_of_several_inverters_every_unit_and_every_number_is_drawn_once(house: str) -> None:
    plan = plan_of({}, None, house)
    words = [s.words for s in single_line.canvas(plan).shapes if s.kind == "text"]
    for seat in plan.seats.inverters:
        assert words.count(seat.thing.title) == 1
    for number in ordinals(plan).values():
        assert words.count(str(number)) == 1
    assert sum("bonds in island" in w for w in words) == 1


@pytest.mark.parametrize("house", ["g01-cooperage", "g02-dairy"])
def test_runs_of_several_inverters_meet_only_where_one_hops(house: str) -> None:
    at = several_layout.lay_out(plan_of({}, None, house))
    uprights = _uprights(at)
    for k, b in enumerate(at.blocks):
        for x1, x2, y in ((INVERTER[1], b.grid_x, b.grid), (b.grid_x, BOARDS[0], at.breakers[k]), (INVERTER[1], b.load_x, b.load)):
            crossed = [x for x, low, high in uprights if x1 + 1 < x < x2 - 1 and min(low, high) < y < max(low, high)]
            assert len(_level(x1, x2, y, uprights)) == 2 + 5 * len(crossed)
    # GRID runs never meet each other.
    climbing = [(b.grid_x, b.grid, at.breakers[k]) for k, b in enumerate(at.blocks)]
    for k, b in enumerate(at.blocks):
        assert len(_level(INVERTER[1], b.grid_x, b.grid, climbing)) == 2
        assert len(_level(b.grid_x, BOARDS[0], at.breakers[k], climbing)) == 2


@pytest.mark.parametrize("house", HOUSES)
def test_the_legend_names_the_local_colours(house: str) -> None:
    plan = plan_of({}, None, house)
    words = " ".join(s.words for s in single_line.canvas(plan).shapes if s.kind == "text")
    for landed in plan.terminations:
        if landed.role.startswith("line"):
            assert f"{landed.role.replace('line', 'L')} {landed.colour}" in words


@pytest.mark.parametrize("house", HOUSES)
def test_roof_is_to_one_scale_and_nothing_is_clipped(house: str) -> None:
    plan = plan_of({}, None, house)
    canvas = strings.roof_canvas(plan)
    assert [f for f in faults(canvas, lines=False) if "clipped" in f] == []
    cells = [s for s in canvas.shapes if s.kind == "rect" and s.filled and s.ink == "ink" and s.width == 1]
    sizes = {(round(s.box()[2] - s.box()[0], 1), round(s.box()[3] - s.box()[1], 1)) for s in cells}
    assert len(sizes) == 1


def test_a_drawing_as_dxf_holds_every_outline_and_word() -> None:
    import io

    import ezdxf

    canvas = single_line.canvas(plan_of({}))
    document = ezdxf.read(io.StringIO(drawing_dxf(canvas).decode("utf-8")))  # type: ignore[attr-defined]
    space = document.modelspace()
    words = [e.dxf.text for e in space.query("TEXT")]
    assert sorted(words) == sorted(s.words for s in canvas.shapes if s.kind == "text")
    assert len(space.query("LWPOLYLINE")) == sum(s.kind in ("line", "rect") and bool(s.ink) for s in canvas.shapes)
    assert len(space.query("CIRCLE")) == sum(s.kind == "circle" and bool(s.ink) for s in canvas.shapes)
    assert "wire-green" in document.layers
    assert document.audit().errors == []
    xs = [p[0] for e in space.query("LWPOLYLINE") for p in e.get_points()]  # type: ignore[attr-defined]
    assert max(xs) - min(xs) <= 420


def test_a_drawing_as_a_file_stands_alone() -> None:
    text = single_line.canvas(plan_of({})).file()
    assert text.startswith("<?xml")
    assert "http" not in text.replace("http://www.w3.org/2000/svg", "")
    assert 'width="760"' in text
    import xml.etree.ElementTree as ElementTree

    assert ElementTree.fromstring(text).tag.endswith("svg")
    plan = plan_of({})
    assert wall.canvas(plan, plan.walls[0], "SI").file().count("<svg") == 1


@pytest.mark.parametrize("house", HOUSES)
def test_no_shape_leaves_any_sheet(house: str, monkeypatch: pytest.MonkeyPatch) -> None:
    """Every drawing of the Plan leg and what hangs on it: shapes within the sheet, words neither clipped nor over each other."""
    drawn: list[Canvas] = []
    render = Canvas.render

    def kept(self: Canvas) -> Any:
        drawn.append(self)
        return render(self)

    monkeypatch.setattr(Canvas, "render", kept)
    plan = plan_of({}, None, house)
    study = study_year(plan)
    loads.tags_drawing(plan)
    loads.beams_drawing(plan)
    loads.ribbon_drawing(plan)
    loads.field_drawing(study, plan.job.settings.outage_hours)
    loads.months_drawing(study)
    strings.roof_drawing(plan)
    strings.rulers_drawing(plan, plan.job.preferences.units)
    strings.terminals_drawing(plan)
    bank.bank_drawing(plan)
    bank.chain_drawing(plan)
    single_line.single_line(plan)
    assert len(drawn) == 12
    for canvas in drawn:
        for shape in canvas.shapes:
            left, top, right, bottom = shape.box()
            assert left >= -2, (canvas.title, shape)
            assert top >= -2, (canvas.title, shape)
            assert right <= canvas.width + 3, (canvas.title, shape)
            assert bottom <= canvas.height + 3, (canvas.title, shape)
        assert [f for f in faults(canvas, lines=False) if f.startswith("over")] == [], canvas.title


def test_what_is_drawn_as_too_much_is_what_the_rules_refuse() -> None:
    loads_ = [{**x.model_dump(mode="json"), "running_w": 3 * x.running_w, "surge_w": 3 * x.surge_w} for x in edited({}).loads]
    cold, heavy, weak = (
        plan_of({"site.record_low_c": -60.0}),
        plan_of({"loads": loads_}),
        plan_of({}, with_card("plover-6s", {"output_w": 60000.0})),
    )
    for draw, bad, codes, marks in (
        (lambda plan: strings.rulers_drawing(plan, "US"), cold, {"PV-COLD-VOC"}, 2),
        (loads.beams_drawing, heavy, {"LOAD-LEG-OVER", "LOAD-TOTAL-OVER"}, 2),
        (bank.chain_drawing, weak, {"BANK-WEAK"}, 3),
    ):
        refused = [f for f in bad.findings if f.code in codes]
        assert {f.code for f in refused} == codes
        # Each thing refused is a bar and its words, or a link's outline, wash and words.
        assert str(draw(bad)).count("oxide") == str(draw(plan_of({}))).count("oxide") + marks * len(refused), codes
