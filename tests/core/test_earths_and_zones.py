"""Bonding, earths apart, drop by what is fed, and the zones about a battery: each against figures from outside."""

from __future__ import annotations

from typing import Any

import pytest

from gumboot.core.rulebook.iec_family.earthing import apart_area_mm2, bonding_area_mm2
from tests.helpers import codes, findings, plan_of

D1, D2, D3, K10 = "d1-saltmarsh", "d2-schoolhouse", "d3-lockkeeper", "k10-bungalow"


# IEC 60364-5-54 544.1.1 by Table 54.2: half of 10, 16, 16, 25, 35 and 95 mm2, from 6 to 25.
@pytest.mark.parametrize(
    ("supply", "bonding"), [(10, 6), (16, 8), (25, 8), (35, 8), (50, 12.5), (70, 17.5), (95, 23.75), (120, 25), (240, 25)]
)
def test_main_bonding_is_half_the_protective_conductor(supply: float, bonding: float) -> None:
    assert bonding_area_mm2(supply) == bonding


# BS 7671 Table 54.8 (from memory).
@pytest.mark.parametrize(
    ("neutral", "bonding"), [(16, 10), (25, 10), (35, 10), (35.1, 16), (50, 16), (50.1, 25), (95, 25), (120, 35), (150, 35)]
)
def test_main_bonding_by_the_neutral_where_the_network_earths_it(neutral: float, bonding: float) -> None:
    assert bonding_area_mm2(neutral, earthed_neutral=True) == bonding


def test_which_table_holds_goes_by_book_and_earthing() -> None:
    sizes = {"site.service_size": "25 mm2", "site.bonding_size": "10 mm2"}
    required = {
        (book, earthing): plan_of({**sizes, "rule_book": book, "site.earthing": earthing}, name=D3)
        .figures["circuits.bonding_required"]
        .value
        for book in ("bs-7671", "iec-60364")
        for earthing in ("TN-S", "TN-C-S")
    }
    assert required == {("bs-7671", "TN-S"): 8, ("bs-7671", "TN-C-S"): 10, ("iec-60364", "TN-S"): 8, ("iec-60364", "TN-C-S"): 8}
    waiting = plan_of({"site.bonding_size": "10 mm2"}, name=D3)
    assert "site.service_size" in [g.path for g in waiting.gaps]
    assert "circuits.bonding_required" not in plan_of({**sizes, "site.bonding_size": None}, name=D3).figures


@pytest.mark.parametrize(
    ("laid", "material", "least"),
    [("with its lines", "copper", 0), ("apart, protected", "copper", 2.5), ("apart", "copper", 4), ("apart", "aluminium", 16)],
)
def test_an_earth_apart_has_a_least_of_its_own(laid: str, material: str, least: float) -> None:
    edits: dict[str, Any] = {"runs.backup.installed_size": "1.5 mm2", "runs.backup.earth_laid": laid, "runs.backup.material": material}
    if material == "aluminium":
        edits["runs.backup.installed_size"] = "16 mm2"
    sized = plan_of(edits, name=D2).circuits.sized["backup"]
    assert sized.earth_required is not None
    assert sized.earth_required.value == max(least, 1.5 if material == "copper" else 16)
    assert least in (0, apart_area_mm2(material, protected="protected" in laid))


@pytest.mark.parametrize(
    ("book", "light", "private", "limit"),
    [
        ("iec-60364", True, False, 3),
        ("iec-60364", False, False, 5),
        ("iec-60364", True, True, 6),
        ("bs-7671", False, True, 8),
        ("as-nzs-3000", True, False, 5),
        ("nec-2023", True, True, 5),
    ],
)
def test_the_drop_from_the_origin_goes_by_what_is_fed(book: str, light: bool, private: bool, limit: float) -> None:
    """IEC 60364-5-52 Table G.52.1: 3 and 5 % from a public network, 6 and 8 % from a transformer of one's own."""
    name = D1 if book == "nec-2023" else D3
    plan = plan_of({"rule_book": book, "preferences.lighting": light, "site.private_supply": private}, name=name)
    most = next(f for f in plan.figures.values() if f.name.startswith("Drop from the origin at most"))
    assert most.value == limit


@pytest.mark.parametrize("room", ["habitable room", "loft", "under a stair", "escape route"])
def test_rooms_that_take_no_battery(room: str) -> None:
    assert "PLACE-ROOM" in codes({"walls.wall.room": room})


def opening(kind: str, y_mm: float, x_mm: float = 0, width: float = 4000) -> dict[str, Any]:
    return {
        "walls.wall.openings": [{"id": "o", "title": "it", "kind": kind, "x_mm": x_mm, "y_mm": y_mm, "width_mm": width, "height_mm": 100}]
    }


def test_gas_keeps_a_battery_away_and_water_does_not() -> None:
    box = next(p for w in plan_of().job.walls for p in w.placements if p.id == "bat-1")
    beside = {"x_mm": box.x_mm - 500, "width": 100.0}
    assert "PLACE-OPENING" in codes(opening("gas", 400, **beside))
    assert "PLACE-OPENING" not in codes(opening("water", 400, **beside))


def test_the_zone_above_a_battery_is_900_mm_under_as_nzs_alone() -> None:
    wall = plan_of(name=D2).walls[0]
    top = max(b.rect.y + b.rect.h for b in wall.boxes if b.holds_battery)
    for apart, found in ((900, False), (899, True)):
        assert ("PLACE-ABOVE" in codes(opening("window", top + apart), name=D2)) is found
    # Beside the battery by more than is asked there, nothing is asked above.
    (stack,) = [b for b in wall.boxes if b.holds_battery]
    away = opening("window", top + 100, x_mm=stack.rect.x + stack.rect.w + 600, width=100)
    assert "PLACE-ABOVE" not in codes(away, name=D2)
    assert "PLACE-ABOVE" not in codes({**opening("window", top + 700), "rule_book": "iec-60364"}, name=D2)


def test_a_barrier_reaches_600_mm_beside_and_900_mm_above() -> None:
    (stack,) = [b for b in plan_of(name=D2).walls[0].boxes if b.holds_battery]
    r = stack.rect
    behind = {"walls.wall.habitable_behind": True, "walls.wall.barrier": True, "walls.wall.surface": "plasterboard"}

    def board(left: float, right: float, above: float) -> dict[str, Any]:
        width, height = r.w + left + right, r.y + r.h + above
        at = {"material": "cement board", "x_mm": r.x - left, "y_mm": 0, "width_mm": width, "height_mm": height, "thickness_mm": 12}
        return {**behind, "walls.wall.board": at}

    for edits, sides in (
        (board(600, 600, 900), []),
        (board(599, 600, 900), ["beside"]),
        (board(600, 599, 900), ["beside"]),
        (board(600, 600, 899), ["above"]),
        (behind | {"walls.wall.board": None}, ["beside", "above"]),
        (behind | {"walls.wall.surface": "masonry"}, []),
        (board(0, 0, 0) | {"rule_book": "iec-60364"}, []),
    ):
        said = [f.text for f in findings(edits, name=D2) if f.code == "PLACE-BARRIER-REACH"]
        assert [next(s for s in ("beside", "above") if f" {s} " in text) for text in said] == sides
