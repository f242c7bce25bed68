"""Figures combine by ordinary arithmetic: value and working come from one line."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gumboot.catalogue import demo_house, demo_houses, shelf
from gumboot.core.expression import (
    FUNCTIONS,
    Expression,
    largest,
    least,
    named,
    natural_log,
    number,
    total,
    whole_above,
    whole_below,
)
from gumboot.core.figure import Figure
from gumboot.core.plan.derive import derive
from tests.dimensions import Mixed, check, dimension
from tests.helpers import told_in_words


def figure(symbol: str, value: float, unit: str = "", key: str = "") -> Figure:
    return Figure(key or symbol, symbol, symbol, value, unit, source="arith")


A, B, C = figure("a", 7.0), figure("b", 3.0), figure("c", 2.0)


def worked(e: Expression) -> Figure:
    return Figure("x", "x", "x", e, "", source="arith")


@pytest.mark.parametrize(
    ("e", "text"),
    [
        (A + B * C, "a + b * c"),
        ((A + B) * C, "(a + b) * c"),
        (A - (B - C), "a - (b - c)"),
        (A - B - C, "a - b - c"),
        (A - (B + C), "a - (b + c)"),
        (A / (B / C), "a / (b / c)"),
        (A / (B * C), "a / (b * c)"),
        (A / B / C, "a / b / c"),
        (A * B / C, "a * b / c"),
        ((A + B) ** 2, "(a + b) ** 2"),
        (A ** (B + C), "a ** (b + c)"),
        ((A**B) ** C, "(a ** b) ** c"),
        (-A * B, "-a * b"),
        (-(A + B), "-(a + b)"),
        (A - -B, "a - -b"),
        (A * -2, "a * (-2)"),
        (1.25 * A, "1.25 * a"),
        (1 - A, "1 - a"),
        (2 / A, "2 / a"),
        (2**A, "2 ** a"),
        (A * 1e-6, "a * 1e-6"),
        (number(3) ** 0.5 * A, "3 ** 0.5 * a"),
        (largest(A, B + C), "max(a, b + c)"),
        (least(A, B), "min(a, b)"),
        (least(A), "a"),
        (whole_below(A / B), "floor(a / b + 1e-9)"),
        (whole_above(A / B), "ceil(a / b - 1e-9)"),
        (natural_log(1 + A / 100), "log(1 + a / 100)"),
        (abs(B - A), "abs(b - a)"),
        (total([A, B, C], number(0)), "a + b + c"),
    ],
)
def test_precedence_is_printed_right(e: Expression, text: str) -> None:
    found = worked(e)
    assert found.formula == text
    assert eval(text, {"__builtins__": {}}, {**FUNCTIONS, **{g.symbol: g.value for g in found.given}}) == found.value


def test_what_stands_in_a_table_is_told_in_words() -> None:
    found = worked(2 * named("next standard rating from {0}", 10.0, A + B))
    assert found.value == 20
    assert found.formula == "2 * next standard rating from a + b"
    assert told_in_words(found)
    assert not told_in_words(worked(2 * A))
    # A figure that rests on a table is itself only a name in the next working.
    assert not told_in_words(worked(found + A))


def test_plain_numbers_give_plain_numbers() -> None:
    assert largest(1.0, 2.0) == 2.0
    assert isinstance(largest(1.0, 2.0), float)
    assert named("from a table {0}", 5.0, 1.0) == 5.0
    assert total([], 0.0) == 0.0
    assert whole_below(2.0) == 2
    assert whole_above(2.0) == 2


def test_each_figure_is_named_once_and_like_symbols_are_numbered() -> None:
    one, other = figure("I", 4.0, key="one"), figure("I", 5.0, key="other")
    found = worked(one * other + one)
    assert found.formula == "I * I_2 + I"
    assert [g.symbol for g in found.given] == ["I", "I_2"]
    assert [g.key for g in found.given] == ["one", "other"]


def test_a_renamed_figure_keeps_its_working() -> None:
    found = worked(A + B).renamed(key="y", symbol="y")
    assert (found.key, found.symbol, found.formula) == ("y", "y", "a + b")
    again = found.renamed(given=tuple(g.renamed(key=f"z.{g.key}") for g in found.given))
    assert again.formula == "a + b"
    assert [g.key for g in again.given] == ["z.a", "z.b"]


VOLTS, AMPS, OHMS = figure("U", 10, "V"), figure("I", 2, "A"), figure("R", 5, "ohm")


@pytest.mark.parametrize(
    "e", [VOLTS + AMPS, VOLTS - AMPS, largest(VOLTS, AMPS), VOLTS + AMPS * AMPS, natural_log(VOLTS), VOLTS ** figure("n", 2)]
)
def test_unlike_quantities_do_not_go_together(e: Expression) -> None:
    with pytest.raises(Mixed):
        dimension(e)


def test_a_working_must_give_the_unit_of_its_figure() -> None:
    check(Figure("x", "x", "x", AMPS * OHMS + VOLTS, "V", source="arith"))
    check(Figure("x", "x", "x", 1.25 * AMPS + 3, "A", source="arith"))
    with pytest.raises(Mixed, match="not A"):
        check(Figure("x", "x", "x", AMPS * OHMS, "A", source="arith"))


@st.composite
def expressions(draw: st.DrawFn, depth: int = 4) -> Expression:
    if depth == 0 or draw(st.booleans()):
        return draw(st.sampled_from([A, B, C])) if draw(st.booleans()) else number(draw(st.integers(1, 9)))
    one, other = draw(expressions(depth - 1)), draw(expressions(depth - 1))
    return draw(st.sampled_from((one + other, one - other, one * other, largest(one, other), -one)))


@given(expressions())
def test_any_printed_expression_gives_its_value_again(e: Expression) -> None:
    again = eval(worked(e).formula, {"__builtins__": {}}, {**FUNCTIONS, "a": 7.0, "b": 3.0, "c": 2.0})
    assert math.isclose(again, e.value, rel_tol=1e-12, abs_tol=1e-12)


@pytest.mark.parametrize("house", [p.name.removesuffix(".gumboot.json") for p in demo_houses()])
def test_every_expression_of_every_house_has_the_dimension_of_its_figure(house: str) -> None:
    for found in derive(demo_house(house), shelf()).figures.values():
        check(found)
