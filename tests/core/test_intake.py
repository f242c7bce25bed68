"""Lists from files: what is read, and every line that cannot be."""

from __future__ import annotations

from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gumboot.core.intake.consumption_csv import read_consumption
from gumboot.core.intake.loads_csv import loads_csv, read_loads
from tests.helpers import edited

LEGS = ("L1", "L2", "L1+L2")


def test_a_title_that_looks_like_a_formula_stays_text_both_ways() -> None:
    loads = edited({"loads.kettle.title": "=1+1"}).loads
    text = loads_csv(loads)
    assert "'=1+1" in text
    assert list(read_loads(text, set(), LEGS).loads) == loads


def test_export_import_export_is_byte_stable() -> None:
    text = loads_csv(edited({}).loads)
    read = read_loads(text, set(), LEGS)
    assert read.bad == ()
    assert list(read.loads) == edited({}).loads
    assert loads_csv(read.loads) == text


@pytest.mark.parametrize(
    "text",
    [
        "title,running_w\nPump,900\n",
        "title;running_w\nPump;900,0\n",
        "Title\tRunning_W\nPump\t900\n",
        "\ufefftitle,running_w\r\nPump,900\r\n\r\n",
    ],
)
def test_little_is_needed(text: str) -> None:
    read = read_loads(text, set(), LEGS)
    assert read.bad == ()
    assert [(x.id, x.running_w, x.surge_w, x.leg, x.side) for x in read.loads] == [("pump", 900, 900, "L1", "house")]


@pytest.mark.parametrize(
    ("row", "words"),
    [
        ("Pump,lots,,", "running_w 'lots' is not a number"),
        (",900,,", "Title is empty"),
        ("Pump,,,", "Running_w is empty"),
        ("Pump,900,100,", "surge_w must be at least running_w"),
        ("Pump,900,,L9", "leg"),
        ("Pump,-3,,", "running_w"),
        ("Pump,nan,,", "is not a number"),
        ("Pump,1e999,,", "is not a number"),
        ("Pump,900,,L1,extra", "5 cells under 4 column names"),
    ],
)
def test_a_bad_line_is_named_with_its_number(row: str, words: str) -> None:
    read = read_loads(f"title,running_w,surge_w,leg\nLamp,60,,\n{row}\nFan,80,,L2\n", set(), LEGS)
    assert [b.line for b in read.bad] == [3]
    assert words.lower() in read.bad[0].text.lower()
    assert [x.title for x in read.loads] == ["Lamp", "Fan"]


def test_a_header_that_lacks_or_has_too_much_says_so() -> None:
    assert "missing columns running_w" in read_loads("title\nPump\n", set(), LEGS).bad[0].text.lower()
    assert "unknown columns colour" in read_loads("title,running_w,colour\nPump,1,red\n", set(), LEGS).bad[0].text.lower()
    assert "empty" in read_loads("", set(), LEGS).bad[0].text


def test_ids_do_not_clash() -> None:
    read = read_loads("title,running_w\nPump,1\nPump,2\n", {"pump"}, LEGS)
    assert [x.id for x in read.loads] == ["pump-2", "pump-3"]
    assert "already" in read_loads("id,title,running_w\npump,Pump,1\n", {"pump"}, LEGS).bad[0].text


@given(st.text(max_size=300))
def test_any_text_is_read_or_refused(text: str) -> None:
    read_loads(text, set(), LEGS)
    read_loads("title,running_w\n" + text, set(), LEGS)
    read_consumption(text)
    read_consumption("time,kwh\n" + text)


def year(
    minutes: int,
    start: datetime = datetime(2025, 1, 1),  # noqa: DTZ001 - meters write local time
    days: int = 365,
    kwh: float | None = None,
) -> list[str]:
    step, each = timedelta(minutes=minutes), 0.5 * minutes / 60 if kwh is None else kwh
    return [f"{start + k * step:%Y-%m-%d %H:%M},{each}" for k in range(days * 1440 // minutes)]


@pytest.mark.parametrize("minutes", [15, 30, 60])
@pytest.mark.parametrize(("head", "factor"), [("time,kWh", 1.0), ("start,energy_wh", 1000.0)])
def test_every_step_gives_the_same_watts(minutes: int, head: str, factor: float) -> None:
    rows = [f"{r.split(',')[0]},{float(r.split(',')[1]) * factor}" for r in year(minutes)]
    read = read_consumption("\n".join([head, *rows]))
    assert read.bad == ()
    assert read.minutes == minutes
    assert read.consumption is not None
    assert read.consumption.kwh == pytest.approx(0.5 * 8760)
    assert all(v == pytest.approx(500) for day in read.consumption.month_hour_w for v in day)
    assert read.consumption.notes == []


@pytest.mark.parametrize(("head", "value"), [("time,power_w", 500.0), ("time,load (kW)", 0.5)])
def test_power_columns_are_power(head: str, value: float) -> None:
    rows = [f"{r.split(',')[0]},{value}" for r in year(15, days=40)]
    read = read_consumption("\n".join([head, *rows]))
    assert read.consumption is not None
    assert read.consumption.month_hour_w[0][0] == pytest.approx(500)
    assert read.consumption.month_hour_w[6] == [None] * 24, "a month without readings stays empty"
    assert read.consumption.kwh == pytest.approx(0.5 * 24 * 40)


def test_a_gap_is_counted_and_nothing_is_filled_in() -> None:
    rows = year(30, days=60)
    del rows[100:110]
    read = read_consumption("\n".join(["time,kwh", *rows]))
    assert read.consumption is not None
    assert read.consumption.intervals == 60 * 48 - 10
    assert any("10 intervals are missing in 1 gaps, from 2025-01-03 02:00 (10)" in n for n in read.consumption.notes)


def test_wall_clock_steps_of_daylight_saving() -> None:
    zone = ZoneInfo("Europe/Berlin")
    start, rows = datetime(2025, 1, 1, tzinfo=zone).timestamp(), ["time,kwh"]
    for k in range(365 * 24):
        at = datetime.fromtimestamp(start + 3600 * k, zone)
        rows.append(f"{at:%Y-%m-%d %H:%M},0.5")
    read = read_consumption("\n".join(rows))
    assert read.consumption is not None
    assert read.bad == ()
    notes = " ".join(read.consumption.notes)
    assert "went forward on 2025-03-30" in notes
    assert "went back on 2025-10-26" in notes
    assert "missing" not in notes.replace("no hour is missing there", "")
    assert read.consumption.kwh == pytest.approx(4380)


def test_times_with_an_offset() -> None:
    zone = ZoneInfo("Europe/Berlin")
    start, rows = datetime(2025, 1, 1, tzinfo=zone).timestamp(), ["timestamp,kwh"]
    for k in range(365 * 24):
        rows.append(f"{datetime.fromtimestamp(start + 3600 * k, zone).isoformat()},0.5")
    read = read_consumption("\n".join(rows))
    assert read.consumption is not None
    assert [n for n in read.consumption.notes if "saving" in n] == [
        "Daylight saving steps on 2025-03-30.",
        "Daylight saving steps on 2025-10-26.",
    ]
    assert read.consumption.kwh == pytest.approx(4380)
    mixed = read_consumption("\n".join([*rows[:10], "2025-01-02 10:00,0.5"]))
    assert mixed.consumption is None
    assert "offset" in mixed.bad[-1].text


@pytest.mark.parametrize(
    ("row", "words"),
    [
        ("2025-01-01 05:00,abc", "'abc' is no number"),
        ("yesterday,0.5", "'yesterday' is no time"),
        ("2025-01-01 05:00,-1", "below nothing"),
        ("2025-01-01 05:00", "too few cells"),
    ],
)
def test_a_bad_reading_is_named_and_the_rest_is_taken(row: str, words: str) -> None:
    rows = year(60, days=30)
    rows[5] = row
    read = read_consumption("\n".join(["time,kwh", *rows]))
    assert read.consumption is not None
    assert read.bad[0].line == 7
    assert words in read.bad[0].text


def test_steps_that_are_not_read_are_refused() -> None:
    assert "7 min apart" in read_consumption("\n".join(["time,kwh", *year(7, days=3)])).bad[-1].text
    assert "no time column" in read_consumption("when,kwh\n2025-01-01,1\n").bad[0].text
    assert "value column" in read_consumption("time,much\n2025-01-01,1\n").bad[0].text


@pytest.mark.parametrize(
    ("values", "words"), [((54321.0, 54321.4, 54321.9), "a register that counts up"), ((90000.0, 1.0, 2.0), "the unit in the value column")]
)
def test_means_that_no_house_draws_are_refused_in_words(values: tuple[float, ...], words: str) -> None:
    lines = "\n".join(f"2026-03-01 {9 + n // 4:02}:{15 * (n % 4):02},{value}" for n, value in enumerate(values))
    read = read_consumption(f"time,kWh\n{lines}\n")
    assert read.consumption is None
    assert words in read.bad[-1].text
