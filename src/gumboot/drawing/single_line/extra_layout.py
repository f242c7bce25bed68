"""Where the boxes stand that have no place of their own in the diagram."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from gumboot.core.installation import Circuit
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.strings import TrackerPlan
from gumboot.core.seats import BoardSeat, GeneratorSeat, PvInverterSeat
from gumboot.drawing.single_line.measures import ABOVE, BELOW, CAPTION

# Letters that nobody takes for a figure.
LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ"


@dataclass
class Extra:
    """A thing with its rows: y of each string's run, of its own run, and where it ends. ``circuit`` is None for a board of its own supply."""

    seat: PvInverterSeat | GeneratorSeat | BoardSeat
    circuit: Circuit | None
    letter: str
    strings: list[tuple[TrackerPlan, float]]
    run: float
    bottom: float

    @property
    def other(self) -> str:
        """The thing at the other end of its run."""
        if self.circuit is None:
            return ""
        return self.circuit.load if self.circuit.source == self.seat.id else self.circuit.source


def is_flagged(plan: Plan, board: str, drawn: Collection[str]) -> bool:
    """Whether runs that are drawn below end at a main board: of PV inverters, and of main boards that ``drawn`` does not name."""
    behind = [b.thing.fed_from for b in plan.seats.mains if b.id not in drawn]
    return board in [*(pv.thing.feeds for pv in plan.seats.pv_inverters), *behind]


def _run_of(plan: Plan, place: str, *, is_board: bool) -> Circuit | None:
    """The run of a source, or the one that feeds a board; None for a board with a supply of its own."""
    runs = [c for c in plan.house.whole.circuits if not c.is_dc and c.kind != ("pv-ac" if is_board else "")]
    return next((c for c in runs if place == (c.load if is_board else c.source)), None)


def extras_of(plan: Plan, drawn: Collection[str], y: float) -> list[Extra]:
    """The boxes that ``drawn`` does not name, one under another from ``y``."""
    seats, found = plan.seats, list[Extra]()
    every: tuple[PvInverterSeat | GeneratorSeat | BoardSeat, ...] = (*seats.pv_inverters, *seats.generators, *seats.boards)
    trackers = plan.strings.trackers if plan.strings else ()
    for seat in every:
        if seat.id in drawn:
            continue
        circuit = _run_of(plan, seat.id, is_board=seat.card.kind == "board")
        rows = [(t, y + ABOVE + k * (ABOVE + CAPTION + 4)) for k, t in enumerate(t for t in trackers if t.place == seat.id)]
        run = y + ABOVE
        bottom = max(rows[-1][1] if rows else run, run) + BELOW
        letter = LETTERS[len(found) % len(LETTERS)]
        found.append(Extra(seat, circuit, letter, rows, run, bottom))
        y = bottom + 10
    return found
