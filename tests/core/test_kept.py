"""Each house says what it said: figures with their workings, findings with everything they name, landings, steps, settings, material."""

from __future__ import annotations

from pathlib import Path

import pytest

from gumboot.catalogue import demo_house, shelf
from gumboot.core.plan.derive import derive
from tests.kept import HOUSES, KEPT, STUDIED, STUDIES, TURNED, studied, told
from tests.turned import TURNED_HOUSES, marks_of


def compared(now: list[str], file: Path) -> None:
    kept = file.read_text(encoding="utf-8").splitlines()
    gone, new = sorted(set(kept) - set(now)), sorted(set(now) - set(kept))
    assert (gone, new) == ([], []), "meant so? Then: python -m tests.keep"
    assert now == kept


@pytest.mark.parametrize("house", HOUSES)
def test_a_house_says_what_it_said(house: str) -> None:
    compared(list(told(derive(demo_house(house), shelf()))), KEPT / f"{house}.txt")


@pytest.mark.long
@pytest.mark.parametrize("house", STUDIED)
def test_its_studies_say_what_they_said(house: str) -> None:
    compared(list(studied(derive(demo_house(house), shelf()))), STUDIES / f"{house}.txt")


@pytest.mark.long
@pytest.mark.parametrize("house", TURNED_HOUSES)
def test_a_turned_house_says_what_it_said(house: str) -> None:
    compared(list(marks_of(house)), TURNED / f"{house}.txt")
