"""Where everything of a diagram with several inverters stands.

Columns from the left: batteries, the bars of the bank over the whole height, strings, inverters, combining panel, boards. Inverters
stand one under another; each has its strings, its battery main below them, GRID at its top right and LOAD at its bottom right. GRID
runs climb to the main board at the top, LOAD runs fall to the panel at the bottom: a LOAD run meets only the climbing runs of the
inverters below it, and hops over them; where a level run meets an upright one it hops.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cmp_to_key

from gumboot.core.job.bank import BatteryUnit
from gumboot.core.plan.bank import BankPlan
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.strings import TrackerPlan
from gumboot.core.seats import AnySeat, BoardSeat, InverterSeat, PvInverterSeat
from gumboot.drawing.single_line.extra_layout import Extra, extras_of, is_flagged
from gumboot.drawing.single_line.layout import behind, has_grid
from gumboot.drawing.single_line.measures import BEHIND, FEED
from gumboot.drawing.single_line.several_transfer import BOARD_ABOVE, BOARD_BELOW, Way, ways_of

WIDTH = 760.0
BAR = 100.0
CELLS = 116.0
SWITCH = 262.0
INVERTER = (290.0, 402.0)
PANEL = (506.0, 596.0)
BOARDS = (640.0, 754.0)
STRING_PITCH, TITLE, STEP = 48.0, 40.0, 13.0
# From one battery to the next on the bars: at least, and where there is room.
UNIT_PITCH = (30.0, 44.0)


@dataclass
class Block:
    """One inverter with its rows: y of each string's run, of the battery main, of GRID and of LOAD, and x of what climbs and falls."""

    seat: InverterSeat
    top: float
    bottom: float
    strings: list[tuple[TrackerPlan, float]]
    main: float
    grid: float
    load: float
    grid_x: float
    load_x: float
    generator: float = 0.0


@dataclass
class Beside:
    """A PV inverter on the backed-up board: its rows of strings, and the y of its output."""

    seat: PvInverterSeat
    strings: list[tuple[TrackerPlan, float]]
    top: float
    bottom: float
    out: float


@dataclass
class MainBox:
    """A main board with its rows: y of each breaker in it. ``fed`` is the board above it that feeds it, None where it has a supply;
    ``spare`` is room at its foot."""

    seat: BoardSeat
    top: float
    bottom: float
    rows: list[float]
    fed: MainBox | None = None
    spare: float = 0.0


@dataclass
class Places:
    """The whole diagram."""

    blocks: list[Block] = field(default_factory=list)
    batteries: list[tuple[BankPlan, BatteryUnit, float]] = field(default_factory=list)
    mains: list[MainBox] = field(default_factory=list)
    breakers: list[float] = field(default_factory=list)
    panel: tuple[float, float] = (0.0, 0.0)
    ways: list[float] = field(default_factory=list)
    onward: float = 0.0
    sub_board: tuple[float, float] = (0.0, 0.0)
    beside: list[Beside] = field(default_factory=list)
    transfers: list[Way] = field(default_factory=list)
    extras: list[Extra] = field(default_factory=list)
    legend: float = 0.0
    height: float = 0.0


def _blocks(plan: Plan) -> list[Block]:
    """One under another, those of one bank together, so that the bars of two banks never meet."""
    found: list[Block] = []
    seats, y = [seat for bank in plan.banks for seat in plan.house.on_bank(bank.id)], 10.0
    trackers = plan.strings.trackers if plan.strings else ()
    lowest = _lowest(plan)
    for k, seat in enumerate(seats):
        own = [t for t in trackers if t.place == seat.id]
        first = y + TITLE
        rows = [(t, first + STRING_PITCH * i) for i, t in enumerate(own)]
        main = first + STRING_PITCH * len(own) + (0 if own else 20)
        if seat.id in lowest:
            head, rows_below = lowest[seat.id]
            top = next((b.grid for b in found if b.seat.id == head), first)
            main = max(main, top + UNIT_PITCH[0] * rows_below)
        fed = any(g.thing.feeds == seat.id for g in plan.seats.generators[:1])
        bottom = max(main + 34, y + 132) + (44 if fed else 0)
        found.append(
            Block(
                seat=seat,
                top=y,
                bottom=bottom,
                strings=rows,
                main=main,
                grid=y + TITLE,
                load=bottom - 26,
                grid_x=0.0,
                load_x=INVERTER[1] + 16 + STEP * len(seats) + STEP * (len(seats) - 1 - k),
                generator=bottom - 30 if fed else 0.0,
            )
        )
        y = bottom + 26
    return found


def _joined(plan: Plan, at: Places) -> tuple[list[str], list[str]]:
    """The main board that each inverter, and each transfer equipment, has its breaker in; the first where it has none."""
    mains = plan.seats.mains
    by = {c.load: c.source for c in plan.house.of_kind("grid", "through") if c.source in {b.id for b in mains}}
    first = mains[0].id if mains else ""
    return [by.get(b.seat.id, first) for b in at.blocks], [by.get(t.id, first) for t in plan.seats.transfers]


def _mains(plan: Plan, at: Places) -> list[float]:
    """The main boards that inverters join and those ahead of them, one under another from the supply down, each with its breakers.

    Returns the rows of the transfer equipment's breakers.
    """
    of_blocks, of_transfers = _joined(plan, at)
    # From the supply of the first board down, then that of another.
    order = {b.id: n for n, b in enumerate(plan.seats.mains)}
    chains = [tuple(reversed(plan.house.mains_above(board))) for board in {*of_blocks, *of_transfers} if board]
    chains.sort(key=lambda chain: [order[name] for name in chain])
    drawn = list(dict.fromkeys(name for chain in chains for name in chain))
    y = 74.0 + 24 * max(1, len(plan.sensing.cts)) if has_grid(plan) else 10.0
    at.breakers, switched, boxes = [0.0] * len(at.blocks), [0.0] * len(plan.seats.transfers), dict[str, MainBox]()
    for seat in [b for name in drawn for b in plan.seats.mains if b.id == name]:
        rows = list[float]()
        for places, rows_of in ((of_blocks, at.breakers), (of_transfers, switched)):
            for n, board in enumerate(places):
                if board == seat.id:
                    rows_of[n] = y + 66 + 41 * len(rows)
                    rows.append(rows_of[n])
        # The bars and the bond stand in the first.
        # Letters of runs that are drawn below stand under the bars.
        spare = 22.0 if is_flagged(plan, seat.id, drawn) else 0.0
        bottom = (rows[-1] if rows else y + 30) + (44 if boxes else 78) + spare
        boxes[seat.id] = MainBox(seat, y, bottom, rows, boxes.get(seat.thing.fed_from or ""), spare)
        y = bottom + FEED
    if not boxes:
        at.breakers = [y + 66 + 41 * n for n in range(len(at.blocks))]
        return [at.breakers[-1] + 41 * n for n in range(1, 1 + len(switched))]
    at.mains = list(boxes.values()) if has_grid(plan) else []
    return switched


def _in_place(plan: Plan, at: Places) -> set[str]:
    """The things that have a place in the diagram of several inverters."""
    seats, backed = plan.seats, plan.seats.board("backed-up")
    placed: list[AnySeat] = [*(box.seat for box in at.mains), *(beside.seat for beside in at.beside), *behind(plan)]
    placed += [way.board for way in at.transfers if way.board is not None]
    placed += [b for b in seats.boards if b.thing.duty == "combining"][:1]
    placed += [g for g in seats.generators[:1] if any(c.owner == g.id for c in plan.house.of_kind("generator"))]
    return {seat.id for seat in placed} | ({backed.id} if backed is not None else set())


def _beside(plan: Plan, y: float) -> list[Beside]:
    """The PV inverters of the backed-up board, below everything else."""
    board, trackers, found = plan.seats.board("backed-up"), plan.strings.trackers if plan.strings else (), list[Beside]()
    for seat in plan.seats.pv_inverters:
        if board is None or seat.thing.feeds != board.id:
            continue
        own = [t for t in trackers if t.place == seat.id]
        rows = [(t, y + TITLE + STRING_PITCH * k) for k, t in enumerate(own)]
        bottom = max(y + 76, rows[-1][1] + 36 if rows else 0.0)
        found.append(Beside(seat, rows, y, bottom, (y + bottom) / 2 + 12))
        y = bottom + 22
    return found


def _lowest(plan: Plan) -> dict[str, tuple[str, int]]:
    """The last inverter of each bank, with its first one and the rows that the bank's batteries take below the first."""
    found = {}
    for bank in plan.banks:
        hanging = plan.house.on_bank(bank.id)
        found[hanging[-1].id] = (hanging[0].id, max(0, len(standing(plan, bank)) - 1))
    return found


def _upright(at: Places) -> None:
    """Where the GRID runs climb or fall: of two, the one that passes the other's row stands beyond it, so that they never meet."""

    def beyond(j: int, k: int) -> int:
        low, high = min(j, k), max(j, k)
        first = at.breakers[low] > at.blocks[high].grid
        return (1 if first else -1) * (1 if j == low else -1)

    for nth, k in enumerate(sorted(range(len(at.blocks)), key=cmp_to_key(beyond))):
        at.blocks[k].grid_x = INVERTER[1] + 16 + STEP * nth


def standing(plan: Plan, bank: BankPlan) -> list[BatteryUnit]:
    """Batteries that are drawn on the bars: each of a parallel bank, one for all in series, none that stand inside an inverter."""
    if not plan.house.mains_of(bank.id):
        return []
    return list(plan.house.heads(bank.id))


def _batteries(plan: Plan, at: Places, bank: BankPlan) -> list[tuple[BankPlan, BatteryUnit, float]]:
    """The batteries of a bank beside the inverters that hang on it."""
    units, names = standing(plan, bank), {seat.id for seat in plan.house.on_bank(bank.id)}
    own = [b for b in at.blocks if b.seat.id in names]
    n, first, last = len(units), own[0], own[-1]
    span = min(UNIT_PITCH[1] * max(0, n - 1), last.main - first.grid)
    top = (first.grid + last.main - span) / 2
    return [(bank, unit, top + (span * k / (n - 1) if n > 1 else 0)) for k, unit in enumerate(units)]


def lay_out(plan: Plan) -> Places:
    """The layout of a house with several inverters."""
    at = Places(blocks=_blocks(plan))
    count, last = len(at.blocks), at.blocks[-1]
    at.batteries = [row for bank in plan.banks for row in _batteries(plan, at, bank)]
    switched = _mains(plan, at)
    _upright(at)
    foot = at.mains[-1].bottom if at.mains else max([*at.breakers, *switched]) + 78
    at.ways = [max(foot + 70, last.load - 41 * (count - 1)) + 41 * k for k in range(count)]
    at.panel = (at.ways[0] - 46, at.ways[-1] + 40)
    at.onward = (at.ways[0] + at.ways[-1]) / 2
    at.sub_board = (at.onward - 56, at.onward + 62)
    at.transfers = ways_of(plan, switched, at.panel[1] + 34)
    foot = at.sub_board[1] + BEHIND * len(behind(plan))
    if at.transfers:
        first, foot = at.transfers[0], at.transfers[-1].bottom
        at.sub_board = (first.load - BOARD_ABOVE, first.load + BOARD_BELOW)
    at.beside = _beside(plan, max(last.bottom, at.panel[1] + 20, foot) + 24)
    end = max(
        at.beside[-1].bottom if at.beside else 0.0,
        last.bottom,
        at.panel[1],
        foot,
        at.batteries[-1][2] + 60 if at.batteries else 0.0,
    )
    at.extras = extras_of(plan, _in_place(plan, at), end + 6)
    at.legend = (at.extras[-1].bottom if at.extras else end) + 26
    at.height = at.legend + 22
    return at
