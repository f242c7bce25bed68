"""Rule books: a family of clauses and the numbers in which its editions and countries differ.

What differs between families is answered here, one module per topic with both families' answers side by side
(``book.strings.fuse_range(...)``); nobody else asks which family a book is of.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from gumboot.core.errors import NotInTable
from gumboot.core.rulebook.books.bank import BANK, BankClauses
from gumboot.core.rulebook.books.boards import BoardClauses, IecBoards, NecBoards
from gumboot.core.rulebook.books.place import IecPlace, NecPlace, PlaceClauses
from gumboot.core.rulebook.books.raceways import IecRaceways, NecRaceways, RacewayClauses
from gumboot.core.rulebook.books.shock import IecShock, NecShock, ShockClauses
from gumboot.core.rulebook.books.strings import IecStrings, NecStrings, StringClauses
from gumboot.core.rulebook.books.wiring import WiringClauses
from gumboot.core.rulebook.books.wiring_iec import IecWiring
from gumboot.core.rulebook.books.wiring_nec import NecWiring
from gumboot.core.rulebook.loader import HERE

Family = Literal["nec", "iec"]


@dataclass(frozen=True, slots=True)
class RuleBook:
    """One rule book. A variant's entry in the file holds only what differs from its base."""

    id: str
    family: Family
    title: str
    regions: str
    units: str
    mains_hz: float
    drop_limit_pct: float
    drop_totals_pct: Mapping[str, float]
    drop_source: str
    rise_limit_pct: float
    rise_source: str
    pv_limits_v: Mapping[str, float]
    pv_limit_source: str
    identification: str
    droop: str
    notify_a: float | None
    imbalance_a: float | None
    imbalance_source: str
    opening_mm: float
    opening_source: str
    exit_mm: float
    # From a battery up to what ventilates or opens above it, and how far its barrier reaches beside and above it; None: not asked.
    above_mm: float | None
    barrier_mm: tuple[float, float] | None
    loop_margin: float
    loop_trips: Literal["surely", "on average"]
    loop_trips_source: str
    room_limits: str
    working_mm: float
    working_source: str
    torque_source: str
    bending_source: str
    standby_source: str
    left_to_local: str

    @property
    def strings(self) -> StringClauses:
        """Clauses of PV strings."""
        return _STRINGS[self.family]

    @property
    def wiring(self) -> WiringClauses:
        """Clauses of conductors."""
        return _WIRING[self.family]

    def usual_insulation(self, *, pv: bool) -> str:
        """What a run is laid in where nothing else is decided: of building wire, or of a string's run."""
        return self.strings.usual_insulation if pv else self.wiring.usual_insulation

    @property
    def raceways(self) -> RacewayClauses:
        """Clauses of raceways."""
        return _RACEWAYS[self.family]

    @property
    def boards(self) -> BoardClauses:
        """Clauses of boards that several sources feed."""
        return _BOARDS[self.family]

    @property
    def shock(self) -> ShockClauses:
        """Clauses of protection against shock."""
        return _SHOCK[self.family]

    @property
    def place(self) -> PlaceClauses:
        """Clauses of where a battery stands."""
        return _PLACE[self.family]

    @property
    def bank(self) -> BankClauses:
        """Clauses of the battery circuit."""
        return BANK[self.family]


_WIRING: dict[Family, WiringClauses] = {"nec": NecWiring(), "iec": IecWiring()}
_RACEWAYS: dict[Family, RacewayClauses] = {"nec": NecRaceways(), "iec": IecRaceways()}
_BOARDS: dict[Family, BoardClauses] = {"nec": NecBoards(), "iec": IecBoards()}
_SHOCK: dict[Family, ShockClauses] = {"nec": NecShock(), "iec": IecShock()}
_PLACE: dict[Family, PlaceClauses] = {"nec": NecPlace(), "iec": IecPlace()}
_STRINGS: dict[Family, StringClauses] = {"nec": NecStrings(), "iec": IecStrings()}


def _load() -> dict[str, RuleBook]:
    found: dict[str, dict[str, object]] = {}
    for row in json.loads((HERE / "common/books.json").read_text(encoding="utf-8")):
        base = found.get(row.pop("base", ""), {})
        found[row["id"]] = {**base, **row}
    return {key: RuleBook(**row) for key, row in found.items()}  # type: ignore[arg-type]


BOOKS = _load()


def book(book_id: str) -> RuleBook:
    """A rule book by id. Raises NotInTable."""
    try:
        return BOOKS[book_id]
    except KeyError:
        raise NotInTable("rule book", book_id, ", ".join(BOOKS), "the register of rule books", "Choose one of these.") from None
