"""Labels: what they say, how high their letters are, what they go on, and what is marked at both ends."""

from __future__ import annotations

import io
import re
from collections.abc import Sequence

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pypdf import PdfReader

from gumboot.core.acts import Kind, State, acts
from gumboot.core.acts.labels import mark_act
from gumboot.core.plan.marks import marks_of, numbers_of
from gumboot.core.study.label_prints import Medium, Print, media, prints_of
from gumboot.core.wording import within
from gumboot.documents.labels import CAPITAL, Laid, label_svg, labels_csv, laid_out, medium_of, narrowest, wide
from gumboot.documents.pdf import labels_pdf
from tests.core.test_stands import one, state
from tests.helpers import plan_of
from tests.kept import HOUSES

PLANS = {house: plan_of(None, name=house) for house in HOUSES}
MM_PT = 72 / 25.4


def _of(key: str) -> Medium:
    found = medium_of(key)
    assert found is not None
    return found


def _holds(laid: Laid, medium: Medium) -> bool:
    """Whether every line and all of them together stay on the paper."""
    widest = max(wide(line.words) * line.size for line in laid.lines)
    return widest <= laid.width - 2 * medium.margin_mm + 0.01 and laid.block_mm <= laid.height - 2 * medium.margin_mm + 0.01


def _pages(prints: Sequence[Print], medium: Medium) -> list[tuple[float, float]]:
    """Width and height of each page, mm."""
    pages = PdfReader(io.BytesIO(labels_pdf(prints, medium, "t"))).pages
    return [(float(page.mediabox.width) / MM_PT, float(page.mediabox.height) / MM_PT) for page in pages]


@pytest.mark.parametrize("house", HOUSES)
def test_every_label_of_every_house_goes_on_something_with_letters_as_high_as_its_clause_asks(house: str) -> None:
    for print_ in prints_of(PLANS[house]):
        made = [(medium, laid) for medium in media() if (laid := laid_out(print_, medium)) is not None]
        assert made, print_.text
        for medium, laid in made:
            assert _holds(laid, medium), (print_.text, medium.key)
            assert " ".join(line.words for line in laid.lines).split() == print_.text.split()
            assert laid.capital_mm >= print_.letters_mm - 1e-6
            # Below a heading that must be high, words are read at arm's length.
            assert all(line.size * CAPITAL >= min(3.0, print_.letters_mm) - 1e-6 for line in laid.lines)


@given(words=st.text("ABCDEFGHIJ klmnop.", min_size=1, max_size=200).map(str.split).map(" ".join).filter(bool), least=st.floats(1, 12))
def test_what_goes_on_a_tape_goes_on_every_wider_one(words: str, least: float) -> None:
    tapes = [medium for medium in media() if medium.is_strip]
    print_ = Print(words, ("here",), least)
    fits = [laid_out(print_, tape) is not None for tape in tapes]
    assert fits == sorted(fits)
    assert all(_holds(laid, tape) for tape in tapes if (laid := laid_out(print_, tape)) is not None)


def test_the_height_of_letters_at_the_limit() -> None:
    # A tape of 9 mm prints 6 mm; what hangs below the line takes a fifth of the type's size.
    most = 6 / (CAPITAL + 0.2) * CAPITAL
    tape = _of("strip-9")
    assert laid_out(Print("PV", ("here",), most - 0.001), tape) is not None
    assert laid_out(Print("PV", ("here",), most + 0.001), tape) is None


def test_a_word_that_is_wider_than_the_paper_is_not_cut() -> None:
    assert laid_out(Print("W" * 400, ("here",), 3.0), _of("strip-36")) is None
    assert narrowest(Print("W" * 400, ("here",), 3.0)) is None


@pytest.mark.parametrize(
    ("starts", "letters_mm", "stock"),
    [
        # NEC 690.31(D)(2) and 690.12(D): capitals of 3/8 in, the first on red; from memory.
        ("PHOTOVOLTAIC POWER SOURCE", 9.5, "white letters on red, reflective"),
        ("SOLAR PV SYSTEM EQUIPPED WITH RAPID SHUTDOWN", 9.5, ""),
        ("ENERGY STORAGE SYSTEM DISCONNECT", 3.0, ""),
    ],
)
def test_letters_and_stock_of_a_label(starts: str, letters_mm: float, stock: str) -> None:
    found = next(print_ for print_ in prints_of(PLANS["d1-saltmarsh"]) if print_.text.startswith(starts))
    assert (found.letters_mm, found.stock) == (letters_mm, stock)
    assert found.letters is not None
    assert found.letters.value == letters_mm


def test_a_high_heading_does_not_make_the_words_below_it_high() -> None:
    found = next(print_ for print_ in prints_of(PLANS["d1-saltmarsh"]) if print_.text.startswith("SOLAR"))
    laid = laid_out(found, _of("letter-4"))
    assert laid is not None
    assert laid.lines[-1].words.endswith("array.")
    assert laid.lines[-1].size == pytest.approx(laid.lines[0].size * 3.0 / 9.5)


def test_the_shutdown_label_says_the_order_and_the_directory_every_source() -> None:
    words = {label.place: label.text for label in PLANS["g01-cooperage"].labels}
    order = words["Inverter and battery place"]
    assert [int(n) for n in re.findall(r"[:;] (\d+) ", order)] == list(range(1, 11))
    assert "PV switches open" in order
    directory = next(text for text in words.values() if text.startswith("POWER SOURCES"))
    assert "grid at the service disconnect" in directory
    assert directory.count("PV at the PV disconnect of") == 2
    # A house without a grid has none to switch off.
    assert not any("grid at" in label.text for label in PLANS["d4-lookout"].labels)


@pytest.mark.parametrize("house", HOUSES)
def test_every_string_and_every_lead_is_marked_at_both_ends(house: str) -> None:
    plan = PLANS[house]
    marks = marks_of(plan.job.strings, plan.strings, plan.leads.leads)
    for string in plan.job.strings:
        own = [mark for mark in marks if mark.where.startswith(f"String {string.id} ")]
        assert sorted(mark.text[-1] for mark in own) == sorted("++−−")
    numbers = numbers_of(plan.leads.leads)
    assert len(set(numbers.values())) == len(numbers)
    for lead in plan.leads.leads:
        own = [mark for mark in marks if mark.where.startswith(f"{numbers[lead.id]} at ")]
        assert len(own) == (0 if lead.is_air else 2)


@pytest.mark.parametrize("house", HOUSES)
def test_a_string_is_marked_before_it_is_landed_at_its_source(house: str) -> None:
    plan = PLANS[house]
    graph = acts(plan)
    for each in plan.strings.trackers if plan.strings is not None else ():
        marks = {mark_act(string.id) for string in each.strings}
        ends = [t for t in plan.terminations if t.circuit == each.circuit and t.live_method]
        assert all(marks <= set(graph[f"torque:{t.id}"].needs) for t in ends)
        assert all(graph[mark].kind is Kind.LABEL and graph[mark].station == "wire" for mark in marks)


def test_exchanged_labels_stand_on_their_own_ends() -> None:
    plan = plan_of({"strings.S1.label_bottom": "W1"})
    own = [mark for mark in marks_of(plan.job.strings, plan.strings, ()) if mark.thing == "S1"]
    assert [mark.text for mark in own] == ["S1 +", "S1 −", "W1 +", "W1 −"]


def test_pages_of_tape_are_as_long_as_their_labels_and_sheets_as_large_as_paper() -> None:
    prints = prints_of(PLANS["d2-schoolhouse"])
    tape, sheet = _of("strip-18"), _of("a4-24")
    copies = [laid for print_ in prints for _ in print_.where if (laid := laid_out(print_, tape)) is not None]
    assert _pages(prints, tape) == [pytest.approx((laid.width, 18), abs=0.2) for laid in copies]
    count = sum(len(print_.where) for print_ in prints if laid_out(print_, sheet) is not None)
    assert _pages(prints, sheet) == [pytest.approx((210, 297), abs=0.2)] * -(-count // 24)


def test_words_cannot_break_out_of_a_label() -> None:
    laid = laid_out(Print("<script> & 'more'", ("here",), 3.0), _of("strip-24"))
    assert laid is not None
    drawn = label_svg(laid, "<b>")
    assert "<script>" not in drawn
    assert "<b>" not in drawn


def test_the_list_names_the_tape_and_no_cell_is_a_formula() -> None:
    rows = labels_csv([Print("=1+1", ("here", "there"), 3.0), Print("W" * 400, ("x",), 3.0)]).splitlines()
    assert rows[1] == "'=1+1,here; there,2,3,9,"
    assert rows[2].endswith(",x,1,3,,")


@pytest.mark.parametrize(
    ("begins", "stands"),
    [("Grid breaker open", "grid breaker open"), ("PV switch", "PV switch"), ("L1 to N", "L1 to N"), ("A lead", "a lead"), ("", "")],
)
def test_words_in_the_middle_of_a_sentence(begins: str, stands: str) -> None:
    assert within(begins) == stands


def test_a_string_whose_live_ends_are_landed_already_is_not_asked_for_its_marks() -> None:
    plan = PLANS["d1-saltmarsh"]
    ends = [t for t in plan.terminations if t.circuit == "pv-pv1" and t.live_method]
    rows = [
        one(f"torque:{t.id}", kind="landing", reached_nm=t.torque.value if t.torque else None, tug=True, pressed=True, size=t.size)
        for t in ends
    ]
    assert len(rows) == 2
    assert state(mark_act("S1"), *rows)[0] is State.GOOD
    assert state(mark_act("S1"), rows[0])[0] is State.OPEN
    assert state(mark_act("W1"), *rows)[0] is State.OPEN
    # A label on a box is asked for whatever is landed.
    assert state("label:service-disconnect", *rows)[0] is State.OPEN
