"""Transfer switches and gateways of a house with several inverters: below the combining panel, each with the board that it feeds."""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.installation import Circuit
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.power_up.board import board_node
from gumboot.core.seats import BoardSeat, TransferSeat

BOX, PITCH, BOARD_ABOVE, BOARD_BELOW = 104.0, 138.0, 46.0, 62.0
# From the main board's way down to each GRID side, beside the boards; and from the panel down to each INV side.
GRID_X, STEP_X, INV_X = 612.0, 9.0, 494.0


@dataclass
class Way:
    """One transfer switch or gateway with its rows: where it is fed from the panel and from the main board, and what it feeds."""

    seat: TransferSeat
    board: BoardSeat | None
    top: float
    breaker: float
    grid_x: float

    @property
    def inv(self) -> float:
        """Row of the run from the panel, on its left."""
        return self.top + 72

    @property
    def grid(self) -> float:
        """Row of the run from the main board, on its right."""
        return self.top + 58

    @property
    def load(self) -> float:
        """Row of the run to its board, on its right."""
        return self.top + 84

    @property
    def bottom(self) -> float:
        """Where it and its board end."""
        return self.load + BOARD_BELOW


def ways_of(plan: Plan, breakers: list[float], top: float) -> list[Way]:
    """Every transfer switch and gateway, one under another from ``top``; ``breakers`` are their rows in the main board."""
    boards = {b.id: b for b in plan.house.boards}
    rows = enumerate(zip(plan.seats.transfers, breakers, strict=True))
    return [Way(seat, boards.get(seat.thing.feeds), top + PITCH * n, breaker, GRID_X + STEP_X * n) for n, (seat, breaker) in rows]


def circuits_of(plan: Plan, way: Way) -> tuple[Circuit | None, Circuit | None, Circuit | None]:
    """Its runs: from the panel, from the main board, and to its board."""
    at, mains = plan.house.at(way.seat.id), {b.id for b in plan.seats.mains}
    panel = next((c for c in at if c.source in plan.house.panels), None)
    grid = next((c for c in at if c.source in mains), None)
    return panel, grid, next((c for c in at if c.source == way.seat.id and c.kind == "backup"), None)


def main_of(plan: Plan, way: Way) -> tuple[str, str]:
    """The switch of the main of its board, and the board's node on the switching network."""
    if way.board is None:
        return "", ""
    first = way.board.id == plan.house.boards[0].id
    return f"sub-main{plan.house.mark}" if first else f"sub-main-{way.board.id}", board_node(plan.house, way.board.id)
