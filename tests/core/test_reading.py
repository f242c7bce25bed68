"""What people type at a field: the grammar, every unit against an independent library, and texts that are no quantity."""

from __future__ import annotations

import json
import math
from contextlib import suppress

import pint
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gumboot.core.errors import BadUnit, GumbootError
from gumboot.core.limits import MOST_DEPTH, check_size, read_json
from gumboot.core.reading import MOST_CHARACTERS, _allowed, parse
from gumboot.core.rulebook.loader import read_table
from gumboot.core.sizes import read_size

ROWS = read_table("common/tables/units.csv")
BASE = {row["dimension"]: row["unit"] for row in reversed(ROWS) if float(row["factor"]) == 1 and float(row["offset"]) == 0}


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("165 in-lb", "N m", 18.6425),
        ("11 ft-lb", "N m", 14.9140),
        ("35 lb-in", "N m", 3.95447),
        ("26 lbf in", "N m", 2.93761),
        ("-0.27 %/K", "%/K", -0.27),
        ("-0.27%/°C", "1/K", -0.0027),
        ("3/8 in", "mm", 9.525),
        ("25 ft 6 in", "m", 7.7724),
        ("25' 6 1/2\"", "m", 7.7851),
        ("-5 ft 6 in", "m", -1.6764),
        ("1 1/4 in", "mm", 31.75),
        ("1-1/4 in", "mm", 31.75),
        ("1½ in", "mm", 38.1),
        ('¾"', "mm", 19.05),
        ("48 amps", "A", 48.0),
        ("240 VAC", "V", 240.0),
        ("48 Vdc", "V", 48.0),
        ("0,39 kV", "V", 390.0),
        ("500 kohm", "Mohm", 0.5),
        ("5,5 kW", "W", 5500.0),
        ("10\u202f000 W", "W", 10000.0),
        ("1 h 30 min", "h", 1.5),
        ("-4 F", "°C", -20.0),
        ("\u221212", "°C", -12.0),
        ("+5", "A", 5.0),
        ("97 %", "%", 97.0),
        ("2.2 mF", "uF", 2200.0),
        (".5", "A", 0.5),
        ("5100", "Wh", 5100.0),
    ],
)
def test_as_labels_and_data_sheets_write_it(text: str, unit: str, value: float) -> None:
    assert parse(text, unit) == pytest.approx(value, rel=2e-6)


@pytest.mark.parametrize("size", ["4/0 AWG", "4/0awg", "AWG 4/0", "#4/0", "0000 AWG", "4/0"])
def test_sizes_as_they_are_said(size: str) -> None:
    assert read_size(size) == "4/0 AWG"


@pytest.mark.parametrize("size", ["4/0", "AWG 4/0", "#4/0"])
def test_noughts_are_gauges_in_any_family(size: str) -> None:
    assert read_size(size, "iec") == "4/0 AWG"


@pytest.mark.parametrize("size", ["1/0 mm2", "1/0 sq mm", "#2/0 kcmil", "AWG 1/0 mm2"])
def test_noughts_of_another_unit_are_refused_with_the_remedy(size: str) -> None:
    with pytest.raises(BadUnit, match=r"is a gauge. Write \d/0 AWG"):
        read_size(size)


def test_a_coefficient_in_millivolts_is_a_share_of_its_voltage() -> None:
    assert parse("-130 mV/K", "%/K", per_volt=50.0) == pytest.approx(-0.26)
    assert parse("-0.13 V/°C", "1/K", per_volt=50.0) == pytest.approx(-0.0026)
    with pytest.raises(BadUnit, match="Give the open-circuit voltage first"):
        parse("-130 mV/K", "%/K")


@pytest.mark.parametrize(
    ("text", "unit", "words"),
    [
        ("5+9**9**9", "A", "no unit"),
        ("5 m**9**9**9", "A", "no unit"),
        ("5 A*9**9**9/9**9**9", "A", "no unit"),
        ("5 A**", "A", "no unit"),
        ("5 (", "A", "no unit"),
        ("5 A)", "A", "no unit"),
        ("5 A/", "A", "no unit"),
        ("5 1/0 A", "A", "conductor size"),
        ("4/0 AWG", "A", "conductor size"),
        ("kilo" * 2000, "A", "at most 64"),
        ("9" * 5000, "A", "at most 64"),
        ("9" * 40, "A", "no unit"),
        ("1e9", "A", "no unit"),
        ("nan", "A", "not a number"),
        ("inf", "A", "not a number"),
        ("", "A", "not a number"),
        ("--5", "A", "not a number"),
        ("1,234", "A", "thousands or decimals"),
        ("5 kg", "A", "wrong kind"),
        ("5 MOHM", "ohm", "no unit"),
        ("500 mw", "W", "no unit"),
        ("3/8", "mm", "needs its unit"),
        ("9/7/3 in", "mm", "no unit"),
        ("1 5/4 in", "mm", "no fraction"),
        ("1/100 in", "mm", "no fraction"),
        ("25 ft 14 in", "m", "not one quantity"),
        ("1.5 ft 3 in", "m", "not one quantity"),
        ("12 in 3 ft", "m", "not one quantity"),
        ("3 m 20 cm", "m", "not one quantity"),
        ("25 ft 6", "m", "not one quantity"),
        ("5 A", "", "plain number"),
        ("5", "furlong", "no unit of a field"),
    ],
)
def test_what_is_no_quantity_is_refused_with_two_right_spellings(text: str, unit: str, words: str) -> None:
    with pytest.raises(BadUnit, match=words) as refused:
        parse(text, unit)
    assert "Write for example" in str(refused.value) or unit == "furlong"


def test_the_longest_text_that_is_read_and_one_more() -> None:
    assert parse("5" + " " * (MOST_CHARACTERS - 1), "A") == 5
    with pytest.raises(BadUnit, match="at most 64"):
        parse("5" + " " * MOST_CHARACTERS, "A")


@pytest.fixture(scope="module")
def ureg() -> pint.UnitRegistry[float]:
    return pint.UnitRegistry(autoconvert_offset_to_baseunit=True)


@pytest.mark.parametrize("row", ROWS, ids=[f"{r['dimension']} {r['unit']}" for r in ROWS])
def test_each_unit_against_an_independent_library(row: dict[str, str], ureg: pint.UnitRegistry[float]) -> None:
    names = {
        "in": "inch", "°C": "degC", "°F": "degF", "kelvin": "kelvin", "N m": "N*m", "N cm": "N*cm", "lbf in": "lbf*inch", "lbf ft": "lbf*ft",
        "kgf m": "kgf*m", "kgf cm": "kgf*cm", "Wh": "W*h", "kWh": "kW*h", "MWh": "MW*h", "uF": "microfarad", "°": "degree", "min": "minute",
        "mohm": "milliohm", "kohm": "kiloohm", "Mohm": "megaohm", "Gohm": "gigaohm", "Ah": "A*h", "mAh": "mA*h", "%": "percent",
        "1/K": "1/delta_degC", "%/K": "percent/delta_degC", "V/K": "V/delta_degC", "mV/K": "mV/delta_degC", "ohm/kft": "milliohm/ft",
        "m2": "m**2", "cm2": "cm**2", "mm2": "mm**2", "in2": "in**2", "ft2": "ft**2", "h": "hour", "d": "day", "K": "delta_degC",
    }  # fmt: skip
    unit, base = row["unit"], BASE.get(row["dimension"], {"ratio": "dimensionless", "charge": "coulomb"}.get(row["dimension"], ""))
    if row["dimension"] == "temperature difference":
        names["°F"] = "delta_degF"
    expected = ureg.Quantity(3.7, names.get(unit, unit)).to(names.get(base, base)).magnitude
    assert float(row["factor"]) * 3.7 + float(row["offset"]) == pytest.approx(expected, rel=1e-9)


def test_no_spelling_means_two_units_of_one_dimension() -> None:
    seen: dict[tuple[str, str], str] = {}
    for row in ROWS:
        for spelling in {row["unit"], *row["spellings"].split("|")}:
            key = (row["dimension"], " ".join(spelling.split()).lower() if not spelling.startswith("M") else spelling)
            assert seen.setdefault(key, row["unit"]) == row["unit"], spelling


def test_milli_and_mega_are_never_guessed() -> None:
    folded = _allowed().folded
    assert all(not unit.symbol.startswith("M") or spelling[:2] in ("me",) for (_, spelling), unit in folded.items())


@given(st.text(max_size=80), st.sampled_from(["A", "mm", "°C", "N m", "", "%/K", "ohm"]))
def test_any_text_is_a_finite_number_or_refused(text: str, unit: str) -> None:
    with suppress(BadUnit):
        assert math.isfinite(parse(text, unit))


@given(
    st.text(alphabet="0123456789/.,- #AWGkcmil2", max_size=70) | st.sampled_from(["1/0", "1/0 mm2", "0", "00 mm2"]),
    st.sampled_from(["nec", "iec"]),
)
def test_any_size_is_a_label_or_refused(text: str, family: str) -> None:
    with suppress(GumbootError):
        assert read_size(text, family)


@given(st.integers(0, 400), st.integers(0, 11), st.sampled_from(["", "1/8", "1/4", "3/8", "1/2", "15/16"]))
def test_feet_and_inches_add_up(feet: int, inches: int, part: str) -> None:
    over, _, under = part.partition("/")
    fraction = int(over) / int(under) if part else 0.0
    text = f"{feet} ft {inches}{' ' + part if part else ''} in"
    assert parse(text, "m") == pytest.approx((feet * 12 + inches + fraction) * 0.0254, abs=1e-9)


def nested(depth: int) -> str:
    return "[" * depth + "]" * depth


def test_json_nested_to_the_limit_and_beyond() -> None:
    assert read_json(nested(MOST_DEPTH)) is not None
    for text in (nested(MOST_DEPTH + 1), "[" * 100_000, '{"a":' * 100_000):
        with pytest.raises(ValueError, match="nested deeper"):
            read_json(text)


def test_brackets_in_a_text_are_no_nesting() -> None:
    text = "[" * 40 + '"' + "[" * 40 + "\\"
    assert read_json(json.dumps([text])) == [text]


@pytest.mark.parametrize("word", ["NaN", "Infinity", "-Infinity"])
def test_json_holds_finite_numbers_only(word: str) -> None:
    with pytest.raises(ValueError, match="is no number"):
        read_json(f'{{"value": {word}}}')


@pytest.mark.parametrize(
    ("document", "good"),
    [
        ({"loads": [0] * 200}, True),
        ({"loads": [0] * 201}, False),
        ({"runs": [0] * 64}, True),
        ({"runs": [0] * 65}, False),
        ({"faces": [{"obstacles": [0] * 65}]}, False),
        ({"story": "x" * 4000}, True),
        ({"story": "x" * 4001}, False),
        ({"cards": {str(n): 1 for n in range(401)}}, False),
    ],
)
def test_a_document_within_reason_and_one_beyond(document: dict[str, object], good: bool) -> None:
    if good:
        check_size(document)
    else:
        with pytest.raises(ValueError, match="at most"):
            check_size(document)
