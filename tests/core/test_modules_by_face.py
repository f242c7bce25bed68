"""Faces with modules of their own: every sum of a string is worked with the modules of its face."""

from __future__ import annotations

import pytest

from gumboot.catalogue import shelf
from gumboot.core.plan.derive import derive
from gumboot.core.study.layouts import Finder, Lay, broken_by, finder_of
from gumboot.core.study.materials import materials
from gumboot.core.study.year import face_yield_w, place_of
from gumboot.drawing import strings as drawn
from tests.helpers import codes, edited, plan_of

OTHER = "faces.west.module"
MIXED = plan_of({OTHER: "mica-330"})
PLAIN = plan_of({})
CARD = shelf()["mica-330"].model_dump()


def test_each_string_is_worked_with_the_modules_of_its_face() -> None:
    assert MIXED.strings is not None
    assert PLAIN.strings is not None
    south, west = MIXED.strings.by_id("PV1"), MIXED.strings.by_id("PV2")
    assert south is not None
    assert west is not None
    assert south.cold_v == PLAIN.figures["strings.PV1.cold_v"]
    low = MIXED.job.site.record_low_c or 0.0
    assert west.cold_v.value == pytest.approx(west.modules * CARD["voc_v"] * (1 + CARD["voc_per_k"] * (low - 25)))
    assert west.cold_v.value != PLAIN.figures["strings.PV2.cold_v"].value
    by_face = {face: sum(s.modules for s in MIXED.job.strings if s.face == face) for face in ("south", "west")}
    job_card = shelf()[MIXED.job.equipment.module or ""].model_dump()
    assert MIXED.strings.power.value == by_face["south"] * job_card["power_w"] + by_face["west"] * CARD["power_w"]


def test_dead_checks_materials_yield_and_drawing_know_both() -> None:
    system = MIXED.figures["prove.iso-PV2.system"].value
    west = max(s.modules for s in MIXED.job.strings if s.tracker == "PV2")
    assert system == pytest.approx(1.25 * west * CARD["voc_v"])
    bought = {item.item: item.quantity for item in materials(MIXED).items if item.where == "module"}
    assert sorted(bought.values()) == sorted(sum(s.modules for s in MIXED.job.strings if s.face == face) for face in ("south", "west"))
    place, _ = place_of(MIXED.job)
    assert place is not None
    ratio = face_yield_w(MIXED, place, "west").sum() / face_yield_w(PLAIN, place, "west").sum()
    plain = shelf()[PLAIN.job.equipment.module or ""].model_dump()
    assert ratio == pytest.approx(CARD["power_w"] / plain["power_w"], rel=0.02)
    words = [shape.words for shape in drawn.roof_canvas(MIXED).shapes]
    assert str(CARD["title"]) in words


def test_the_finder_judges_a_face_by_its_modules() -> None:
    f = finder_of(MIXED)
    assert isinstance(f, Finder)
    assert {face: card.id for face, card in f.modules.items()} == {"south": MIXED.job.equipment.module, "west": "mica-330"}
    lengths = {face: [n for n in range(1, 25) if not broken_by(f, Lay("PV1", face, n, 1))] for face in ("south", "west")}
    plain = finder_of(PLAIN)
    assert isinstance(plain, Finder)
    assert lengths["south"] == [n for n in range(1, 25) if not broken_by(plain, Lay("PV1", "south", n, 1))]
    assert lengths["west"] != [n for n in range(1, 25) if not broken_by(plain, Lay("PV1", "west", n, 1))]


def test_a_house_may_have_no_module_but_those_of_its_faces() -> None:
    module = PLAIN.job.equipment.module
    job = edited({"equipment.module": None, "faces.south.module": module, "faces.west.module": module})
    plan = derive(job, shelf())
    assert {key: f.value for key, f in plan.figures.items()} == {key: f.value for key, f in PLAIN.figures.items()}


def test_unlike_modules_never_share_an_input() -> None:
    assert "PV-UNLIKE" in codes({OTHER: "mica-330", "strings.W1.tracker": "PV1"})
