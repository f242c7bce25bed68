"""Writes anew what the houses say: ``python -m tests.keep``. A change that is meant shows in the difference, to be read like any other."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial

from gumboot.catalogue import demo_house, shelf
from gumboot.core.plan.derive import Plan, derive
from tests.kept import HOUSES, KEPT, STUDIED, STUDIES, TURNED, studied, told
from tests.turned import TURNED_HOUSES, marks_of


def of_demo_house(house: str, lines: Callable[[Plan], Iterator[str]]) -> Iterator[str]:
    """The lines of a demo house as it stands."""
    return lines(derive(demo_house(house), shelf()))


def main() -> None:
    """Write what every house says now."""
    for folder, houses, lines in (
        (KEPT, HOUSES, partial(of_demo_house, lines=told)),
        (STUDIES, STUDIED, partial(of_demo_house, lines=studied)),
        (TURNED, TURNED_HOUSES, marks_of),
    ):
        folder.mkdir(exist_ok=True)
        for house in houses:
            (folder / f"{house}.txt").write_text("\n".join(lines(house)) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
