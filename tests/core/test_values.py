"""Records, properties looked up once, and figures made by the short way."""

from __future__ import annotations

from typing import Any

import pytest

from gumboot.core.expression import number
from gumboot.core.figure import BY_VALUE, Figure, constant, made
from gumboot.core.once import once
from gumboot.core.rulebook.books import book
from gumboot.core.rulebook.books.draft import draft
from gumboot.core.values import Values
from gumboot.core.workbook import Workbook


class Room(Values):
    width: float
    depth: float = 2.0

    @once
    def area(self) -> float:
        asked.append(self.width)
        return self.width * self.depth


asked: list[float] = []


def test_a_record_is_frozen_and_alike_by_its_values() -> None:
    room: Any = Room(width=3.0)
    assert (room.width, room.depth) == (3.0, 2.0)
    with pytest.raises(AttributeError, match="Room is frozen: width"):
        room.width = 4.0
    with pytest.raises(AttributeError, match="Room is frozen: width"):
        del room.width
    assert room == Room(width=3.0)
    assert room != Room(width=4.0)


def test_a_record_with_other_values_works_out_anew_what_it_looked_up() -> None:
    asked.clear()
    room = Room(width=3.0)
    assert (room.area, room.area, asked) == (6.0, 6.0, [3.0])
    wider = room.but(width=5.0)
    assert (wider.area, wider.depth, room.area, asked) == (10.0, 2.0, 6.0, [3.0, 5.0])
    with pytest.raises(AttributeError, match="heigth"):
        room.but(heigth=1.0)


def test_both_ways_to_make_a_figure_make_the_same() -> None:
    for value in (3.0, number(2.0) * 1.5):
        long, short = (make("k", "s", "Name", value, "V", source="physics", label="label", limits="holds") for make in (Figure, made))
        for slot in ("key", "symbol", "name", "value", "unit", "source", "label", "limits", "work", "op", "args"):
            assert getattr(long, slot) == getattr(short, slot), slot
        assert long == short
    assert constant("x", "X", 1.0, "V", "physics") is constant("x", "X", 1.0, "V", "physics")
    assert max((made(str(n), "s", "N", n, "", source="arith") for n in (2.0, 5.0, 3.0)), key=BY_VALUE).value == 5.0


def test_what_a_clause_drafts_gets_the_key_of_whoever_keeps_it_first_and_is_kept_again_under_another() -> None:
    w, drafted = Workbook(book("nec-2023")), draft("I", "Current", 7.0, "A", "arith")
    first = w.put("one", drafted)
    second = w.put("two", drafted)
    assert (first.key, second.key, second.value, set(w.figures)) == ("one", "two", 7.0, {"one", "two"})
    assert w.figures["one"].key == "one"
