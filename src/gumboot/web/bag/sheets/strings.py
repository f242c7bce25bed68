"""Strings in the hand: each string, each roof face, what is set for all."""

from __future__ import annotations

from collections.abc import Iterator

from gumboot.web.bag.pictures import Look
from gumboot.web.bag.sheets.parts import Fact, Field, Sheet, fields
from gumboot.web.stations.strings.view import FaceRow, StringRow, view_of
from gumboot.web.view import Bench

OF_STRING = (
    ("modules", "Modules"),
    ("label_top", "Label at the roof"),
    ("label_bottom", "Label at the inverter"),
)
OF_FACE = (
    ("tilt_deg", "Tilt"),
    ("azimuth_deg", "Looks to (180 is south)"),
    ("width_mm", "Width at the eaves"),
    ("ridge_mm", "Width at the ridge, if hipped"),
    ("height_mm", "Length up the slope"),
    ("setback_eaves_mm", "Free above the eaves"),
    ("setback_ridge_mm", "Free below the ridge"),
    ("setback_side_mm", "Free at each side"),
    ("gap_mm", "Between modules"),
    ("orientation", "Modules lie"),
)
OF_ALL = (("pv_mode", "PV inputs set to"), ("string_fuse_a", "Fuse of each string"))


def _string(b: Bench, row: StringRow) -> Sheet:
    s, planned = row.string, row.planned
    facts: tuple[Fact, ...] = (Fact("Lands on", None, f"{s.inverter or b.plan.house.lead.id}, {s.tracker}"),)
    if planned is not None:
        facts = (
            *facts,
            Fact("Coldest, open circuit", planned.cold_v),
            Fact("Never above", planned.limit_v),
            Fact("Hot, running", planned.hot_v),
            Fact("Modules at least", planned.count_least),
            Fact("Modules at most", planned.count_most),
            Fact("Running current", planned.operating_a),
            Fact("Highest current", planned.maximum_a),
        )
    face = next((f.title.lower() for f in b.job.faces if f.id == s.face), s.face)
    return Sheet(
        name=s.id,
        title=f"String {s.id}",
        says=f"{s.modules} modules, {face}, {s.tracker}",
        facts=facts,
        fields=fields(b, row.at, OF_STRING),
        looks=(Look("rulers", (s.id,)), Look("roof", (s.face,))),
        names=(s.id, *((planned.name, planned.key) if planned is not None else ())),
    )


def _face(b: Bench, row: FaceRow) -> Sheet:
    return Sheet(
        name=f"face-{row.face.id}",
        title=row.face.title,
        says=row.note,
        group="Roof faces",
        facts=(Fact("Modules have a place", row.holds),) if row.holds else (),
        fields=fields(b, row.at, OF_FACE),
        looks=(Look("roof", (row.face.id,)),),
        names=(row.face.id,),
    )


def sheets(b: Bench) -> Iterator[Sheet]:
    """The sheets of Strings."""
    v = view_of(b)
    if v.waits:
        asked = tuple(Field(gap.path, b.field(gap.path).name) for gap in b.plan.gaps if "site." in gap.path)
        yield Sheet("waits", "Strings wait", v.waits, v.waits, fields=asked, looks=(Look("roof", ()),), is_open=True)
    yield from (_string(b, row) for row in v.strings)
    if v.strings:
        power = (Fact("Modules in all", v.power),) if v.power is not None else ()
        yield Sheet(
            "all",
            "All strings",
            "what is set for every input",
            facts=power,
            fields=fields(b, "", OF_ALL),
            looks=(Look("roof", ()),),
            names=("pv",),
        )
    yield from (_face(b, row) for row in v.face_rows)
