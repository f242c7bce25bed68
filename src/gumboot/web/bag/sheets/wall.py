"""Wall in the hand: each wall, each box with its place, its holes and its lift."""

from __future__ import annotations

from collections.abc import Iterator

from gumboot.core.plan.wall.parts import Box
from gumboot.web.bag.pictures import Look
from gumboot.web.bag.sheets.parts import Fact, Sheet, fields
from gumboot.web.stations.wall.view import WallPart, view_of
from gumboot.web.view import Bench

OF_WALL = (
    ("surface", "Surface"),
    ("masonry", "Masonry"),
    ("stud_spacing_mm", "Stud spacing"),
    ("stud_first_mm", "First stud from datum"),
    ("width_mm", "Wide"),
    ("height_mm", "High"),
    ("habitable_behind", "Habitable room behind"),
    ("air_low_c", "Coldest air here"),
    ("air_high_c", "Hottest air here"),
    ("way_mm", "Narrowest on the way"),
    ("way_steps", "Steps on the way"),
)
# What is asked of one kind of surface only.
OF_STUDS, OF_MASONRY = ("stud_spacing_mm", "stud_first_mm"), ("masonry",)
OF_PLACE = (("x_mm", "From datum"), ("y_mm", "From floor"), ("entry", "Conduits from"))


def _holes(b: Bench, w: WallPart, box: Box) -> Iterator[Fact]:
    for hole in box.holes:
        miss = "" if w.is_masonry or hole.stud_x_mm is None else f"{b.quantity(hole.miss_mm, 'mm')} off the stud's middle"
        missed = "" if hole.hits or w.is_masonry else "misses the stud"
        yield Fact(f"Hole {hole.id}, from datum", hole.x_mm, missed or miss)
        yield Fact(f"Hole {hole.id}, from floor", hole.y_mm)


def _box(b: Bench, w: WallPart, box: Box) -> Sheet:
    place = f"{w.at}.placements.{box.id}"
    said = {p.id for p in w.wall.placements}
    facts = [Fact("Weighs", box.mass, box.lifted_by if box.lift_needs_two else "")]
    if box.screen is not None:
        facts.append(Fact("Screen above the floor", box.screen))
    if box.screw_ratio is not None:
        facts.append(Fact("Top fixings used, of 1", box.screw_ratio))
    return Sheet(
        name=box.id,
        title=box.title,
        says=f"{box.id}: {len(box.holes)} holes" if box.holes else box.id,
        see=f"{w.fixing[:1].upper()}{w.fixing[1:]}. Find wires and pipes first." if box.holes else "",
        facts=(*facts, *_holes(b, w, box)),
        fields=fields(b, place, OF_PLACE) if box.id in said else (),
        looks=(Look(f"wall-{w.wall.id}", (box.id,)),),
        names=(box.id, box.title, *(hole.id for hole in box.holes)),
    )


def _hanging(w: WallPart) -> tuple[Fact, ...]:
    found = [Fact(f"{part[:1].upper()}{part[1:]}", None, "goes in before the box is on the wall") for part in w.goes_in]
    if w.pilot is not None:
        found.append(Fact("Pilot hole of each lag screw", w.pilot))
    return (
        *found,
        Fact("Battery connectors", None, "shielded from drill dust"),
        Fact("Level", None, "before tightening: slotted holes have play"),
    )


def sheets(b: Bench) -> Iterator[Sheet]:
    """The sheets of Wall."""
    for w, planned in ((w, b.plan.wall(w.wall.id)) for w in view_of(b).walls):
        strange = OF_STUDS if w.is_masonry else OF_MASONRY
        yield Sheet(
            name=f"wall-{w.wall.id}",
            title=w.wall.title or "The wall",
            says=f"{w.wall.surface}, {w.wall.room}" if w.wall.surface else "not measured",
            facts=_hanging(w) if w.has_boxes else (),
            fields=fields(b, w.at, [asked for asked in OF_WALL if asked[0] not in strange]),
            looks=(Look(f"wall-{w.wall.id}", ()),),
            names=(w.wall.id, "room", "wall"),
            is_open=planned is None,
        )
        yield from (_box(b, w, box) for box in (planned.boxes if planned else ()))
