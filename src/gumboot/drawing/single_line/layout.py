"""Where everything of a diagram with one inverter stands. Each run has a row of its own, so that no line meets another's words."""

from __future__ import annotations

from dataclasses import dataclass, field

from gumboot.core.plan.derive import Plan
from gumboot.core.plan.strings import TrackerPlan
from gumboot.core.seats import BoardSeat, PvInverterSeat
from gumboot.drawing.single_line.extra_layout import Extra, extras_of, is_flagged
from gumboot.drawing.single_line.measures import ABOVE, AHEAD, BEHIND, BELOW, CAPTION, FEED


@dataclass
class Layout:
    """Columns and rows in drawing units. A row is the y of a run; absent ones are not in ``rows``."""

    inverter: tuple[float, float] = (228.0, 400.0)
    transfer: tuple[float, float] = (0.0, 0.0)
    boards: tuple[float, float] = (606.0, 756.0)
    rows: dict[str, float] = field(default_factory=dict)
    units: list[float] = field(default_factory=list)
    own: list[TrackerPlan] = field(default_factory=list)
    coupled: list[TrackerPlan] = field(default_factory=list)
    inverter_y: tuple[float, float] = (0.0, 0.0)
    transfer_y: tuple[float, float] = (0.0, 0.0)
    main_y: tuple[float, float] | None = None
    main_spare: float = 0.0
    ahead: list[tuple[BoardSeat, float]] = field(default_factory=list)
    sub_y: tuple[float, float] = (0.0, 0.0)
    behind_y: float = 0.0
    extras: list[Extra] = field(default_factory=list)
    style: str = ""
    legend_y: float = 0.0
    height: float = 0.0


def circuit_of(plan: Plan, base: str) -> str:
    """The circuit of an island that is called ``base`` in a house of one; empty where it has none."""
    own = plan.house.by_id
    # A feeder between main boards is of no island.
    if base in own or base in plan.circuits.sized:
        return base
    return next((cid for cid in own if plan.house.mark and cid.startswith(f"{base}-")), "")


def circuits_on(plan: Plan, board: BoardSeat | None) -> str:
    """How many circuits a backed-up board has, in words."""
    number = len(plan.house.loads_on((board,))) if board is not None else 0
    return "1 circuit" if number == 1 else f"{number} circuits"


def transfer_style(plan: Plan) -> str:
    """``gateway``, ``manual``, or nothing where no transfer equipment stands."""
    return plan.seats.transfer.style if plan.seats.transfer else ""


def has_grid(plan: Plan) -> bool:
    """Whether a grid is drawn."""
    return plan.house.joins_grid and plan.seats.main_board is not None


def bypass(plan: Plan) -> str:
    """The bypass around the inverter, which joins the first island's board."""
    return "none" if plan.house.mark else plan.job.backup.bypass


def drawn_pv(plan: Plan) -> PvInverterSeat | None:
    """The PV inverter that has a row: the first, on the backed-up board."""
    first = next(iter(plan.seats.pv_inverters), None)
    board = plan.seats.board("backed-up")
    return first if first is not None and board is not None and first.thing.feeds == board.id else None


def joined_main(plan: Plan) -> BoardSeat | None:
    """The main board that the inverter joins, itself or by its transfer equipment; the first where it joins none."""
    mains = plan.seats.mains
    joining = [c.source for c in plan.house.of_kind("grid", "through")]
    return next((b for b in mains if b.id in joining), mains[0] if mains else None)


def mains_ahead(plan: Plan) -> list[BoardSeat]:
    """The main boards between the supply and the one that the inverter joins, the one at the supply first."""
    joined = joined_main(plan)
    ahead = plan.house.mains_above(joined.id)[1:] if joined is not None else ()
    return [b for name in reversed(ahead) for b in plan.seats.mains if b.id == name]


def in_place(plan: Plan) -> set[str]:
    """The things that have a place in the diagram of one inverter."""
    seats, joined = plan.seats, joined_main(plan)
    placed = [drawn_pv(plan), joined, *seats.generators[:1], *mains_ahead(plan), plan.seats.board("backed-up"), *behind(plan)]
    return {seat.id for seat in placed if seat is not None}


def behind(plan: Plan) -> list[BoardSeat]:
    """The boards that are drawn below the backed-up board: those that stand behind it."""
    first = plan.seats.board("backed-up")
    return [b for b in plan.house.boards if first is not None and b.thing.fed_from == first.id]


def _left(plan: Plan, at: Layout) -> float:
    """Strings, bank and generator on the inverter's left, each on its row; returns where they end."""
    y = 8.0
    for t in at.own:
        at.rows[t.circuit] = y + ABOVE
        y += ABOVE + CAPTION + 4
    if at.own:
        y += BELOW - CAPTION
    if circuit_of(plan, "bat-main"):
        n = len(plan.house.heads(plan.banks[0].id))
        if plan.seats.busbar_box:
            pitch = 30.0 if n <= 4 else max(15.0, 150.0 / n)
            span = (n - 1) * pitch
            top = max(y + 36, y + ABOVE + 8 - span / 2)
            at.units = [top + k * pitch for k in range(n)]
            at.rows["bat-main"] = top + span / 2
            y = max(top + span + 52, at.rows["bat-main"] + BELOW)
        else:
            at.rows["bat-main"] = y + ABOVE + 30
            y = at.rows["bat-main"] + 70
    if plan.seats.generator:
        at.rows["generator-feed"] = y + ABOVE
        y += ABOVE + BELOW
    return y


def _right(plan: Plan, at: Layout) -> float:
    """Service, main board, transfer equipment and backed-up board on the inverter's right; returns where they end."""
    y = 16.0
    at.style = transfer_style(plan)
    if at.style:
        at.inverter, at.transfer, at.boards = (226.0, 368.0), (468.0, 556.0), (656.0, 756.0)
    if has_grid(plan):
        top = 78.0 + 26 * max(1, len(plan.sensing.cts))
        for board in mains_ahead(plan):
            at.ahead.append((board, top))
            top += AHEAD + FEED
        grid = top + 76
        at.rows["grid"] = grid
        bottom = grid + 62
        if at.style == "manual":
            at.rows["through"] = grid + 84
            bottom = at.rows["through"] + 58
        joined = joined_main(plan)
        # Letters of runs that are drawn below stand under the words of the bars.
        at.main_spare = 20.0 if joined is not None and is_flagged(plan, joined.id, (joined.id,)) else 0.0
        bottom += at.main_spare
        at.main_y = (top, bottom)
        y = bottom + (76 if bypass(plan) != "none" else 28)
    load = y + 62
    at.rows["backup"] = load
    at.sub_y = (y, load + 66)
    if at.style == "gateway":
        at.rows["through"] = (at.rows.get("grid", load - 30) + load) / 2
        at.transfer_y = (min(at.rows.get("grid", load), at.rows["through"]) - 24, load + 24)
    elif at.style == "manual":
        at.rows["inverter-out"] = load
        at.transfer_y = (at.rows.get("through", load - 40) - 22, load + 24)
    return at.sub_y[1]


def lay_out(plan: Plan) -> Layout:
    """The layout of a plan's single-line diagram, for every kind of system."""
    trackers = plan.strings.trackers if plan.strings else ()
    beside = drawn_pv(plan)
    own, coupled = plan.house.lead.id, beside.id if beside else ""
    at = Layout(own=[t for t in trackers if t.place == own], coupled=[t for t in trackers if t.place == coupled])
    left, right = _left(plan, at), _right(plan, at)
    ports = [v for k, v in at.rows.items() if not (k in ("backup", "grid", "through") and at.style == "gateway")]
    if at.style == "gateway":
        ports = [v for k, v in at.rows.items() if k not in ("backup", "grid")]
    if at.style == "manual":
        ports = [v for k, v in at.rows.items() if k not in ("backup", "through")]
    top, bottom = min(ports) - 24, max(ports) + 24
    # Room for the title, the battery current, the bond and the state.
    if bottom - top < 150:
        bottom = top + 150
    at.inverter_y = (top, bottom)
    end = max(left, right, bottom + 8)
    if beside is not None:
        y = max(end - 30, at.inverter_y[1]) + ABOVE
        at.rows["pv-ac"] = y
        for k, t in enumerate(at.coupled):
            at.rows[t.circuit] = y + k * (ABOVE + CAPTION + 4)
        last = y + max(0, len(at.coupled) - 1) * (ABOVE + CAPTION + 4)
        at.sub_y = (at.sub_y[0], y + 42)
        end = last + BELOW + 8
    at.behind_y = at.sub_y[1] + BEHIND * len(behind(plan))
    at.extras = extras_of(plan, in_place(plan), max(end, at.behind_y) + 6)
    at.legend_y = (at.extras[-1].bottom if at.extras else max(end, at.behind_y)) + 22
    at.height = at.legend_y + 26
    return at
