"""The mistaken variant shows its ten mistakes, each once and at its place; the good house shows none of them."""

from __future__ import annotations

from gumboot.catalogue import demo_house, shelf
from gumboot.core.plan.derive import derive
from tests.helpers import BAD, GOOD

TEN = {
    ("M01", "GRID-NO-INTERLOCK", "power-up", "backed-up board"),
    ("M02", "COND-MAKER", "circuits", "backup"),
    ("M06", "PV-COLD-VOC", "strings", "PV1"),
    ("M20", "LOAD-LEG-OVER", "loads", "L2"),
    ("M26", "EARTH-SMALL", "circuits", "grid"),
    ("M28", "WALL-STUD-MISS", "wall", "sub-board"),
    ("M35", "LINK-ADDRESS-DUP", "links", "bat-3"),
    ("M36", "LINK-TERMINATOR", "links", "bat-2"),
    ("M37", "CT-ARROW", "sensing", "CT2"),
    ("M46", "SET-TARIFF-OVERLAP", "settings", "Day and Evening"),
}


def test_ten_mistakes_at_their_places() -> None:
    plan = derive(demo_house(BAD), shelf())
    assert {(f.code, f.station, f.where) for f in plan.stops} == {row[1:] for row in TEN}


def test_the_good_house_has_no_stop_and_no_gap() -> None:
    plan = derive(demo_house(GOOD), shelf())
    assert plan.stops == ()
    assert plan.gaps == ()
    assert {f.code for f in plan.findings} == {"COND-MAKER-BELOW", "LIFT-TWO"}


def test_each_mistake_has_an_act() -> None:
    for finding in derive(demo_house(BAD), shelf()).findings:
        assert finding.act.endswith("."), finding.code
        assert finding.text.endswith("."), finding.code
