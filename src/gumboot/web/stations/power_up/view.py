"""What the station Power up is drawn from."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup

from gumboot.core.plan.power_up.parts import Step
from gumboot.core.plan.power_up.station import closed_by
from gumboot.core.sim.switch_line import live_nodes, rehearse
from gumboot.core.standing import Judged
from gumboot.drawing import single_line
from gumboot.web import urls
from gumboot.web.view import Bench


@dataclass(frozen=True, slots=True)
class Told:
    """What a rehearsed move would do."""

    switch: str
    text: str
    allowed: bool


@dataclass(frozen=True, slots=True)
class Move:
    """A switch to rehearse with: where the move leads."""

    title: str
    closed: bool
    href: str


@dataclass(frozen=True, slots=True)
class StepRow:
    """A step of first power, how it stands, and what holds it."""

    step: Step
    judged: Judged
    holds: list[str]


@dataclass(frozen=True, slots=True)
class PowerUpView:
    """The station Power up."""

    next: StepRow | None
    rehearses: bool
    board: Markup
    told: list[Told]
    moves: list[Move]
    again_href: str
    unplanned: str
    school: str
    steps: list[StepRow]
    off_order: tuple[str, ...]


def view_of(b: Bench) -> PowerUpView:
    """The station as its page needs it: the live board, or the rehearsal that the address asks for."""
    planned, here = b.plan.power_up, urls.station(b.job.id, "power-up")
    moves = [m for m in b.query.get("moves", "").split(",") if m in {s.id for s in planned.line.switches}][:200]
    play = rehearse(planned.line, moves)
    rows = [StepRow(s, b.standing.steps[s.id], list(b.standing.step_holds[s.id])) for s in planned.steps]
    done = closed_by(planned.line, (row.step for row in rows if row.judged.good))
    if moves:
        board = single_line.single_line(b.plan, play.live, play.closed)
    else:
        board = single_line.single_line(b.plan, live_nodes(planned.line, done), done)
    return PowerUpView(
        next=None if moves else next((row for row in rows if not row.judged.good), None),
        rehearses=bool(moves),
        board=board,
        told=[Told(planned.line.switch(o.move).title, o.text, o.allowed) for o in play.outcomes],
        moves=[Move(s.title, s.id in play.closed, f"{here}?moves={','.join([*moves, s.id])}#reh") for s in planned.line.switches],
        again_href=f"{here}#reh",
        unplanned=planned.unplanned,
        school=planned.school,
        steps=rows,
        off_order=planned.off_order,
    )
