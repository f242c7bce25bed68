"""The gates of a house: one row for acts of a kind that open the same gates, one column for each step of first power."""

from __future__ import annotations

from typing import NamedTuple

from gumboot.core.acts import PLAN, Act, Acts, Kind
from gumboot.drawing.svg import Canvas, shortened

ROW, TOP, LEFT, GAP, NAMES = 24.0, 92.0, 20.0, 26.0, 360.0
# What several acts of a kind are called in one row.
MANY = {
    Kind.HOLE: "sets of holes",
    Kind.INSIDE: "boxes filled first",
    Kind.LIFT: "boxes hung",
    Kind.TORQUE: "landings",
    Kind.RECHECK: "marks a day later",
    Kind.RITUAL: "tasks of the ritual",
    Kind.READ_BACK: "numbers read back",
    Kind.PACK: "loads of the van",
    Kind.UNPACK: "boxes unpacked",
    Kind.MARKED: "holes marked",
    Kind.FIXED: "boxes with anchors at their torque",
    Kind.BRIDGE: "bridges taken out",
    Kind.JOINT: "factory joints",
    Kind.FERRITE: "ferrites",
    Kind.BRIDGED: "maker's bridges",
    Kind.ENTRIES: "entries closed",
    Kind.LEAD: "leads made",
    Kind.RING: "leads rung out",
    Kind.CORE: "cores closed",
    Kind.LOOK: "looks",
    Kind.MEASUREMENT: "measurements",
    Kind.DISPLAYS: "readings of two displays",
    Kind.SETTING: "settings as left",
    Kind.COVER: "boxes closed",
    Kind.LABEL: "labels",
    Kind.SERIAL: "serial numbers",
    Kind.FIRMWARE: "firmware versions",
    Kind.METER: "meter tests",
}


class Row(NamedTuple):
    """Acts of one kind and station with one set of gates: the steps that wait for them, and those that they wait for."""

    acts: tuple[Act, ...]
    opens: frozenset[str]
    waits: frozenset[str]

    @property
    def title(self) -> str:
        """One act by its title, several by their number and kind."""
        first = self.acts[0]
        return first.title if len(self.acts) == 1 else f"{len(self.acts)} {MANY.get(first.kind, first.kind.value)}"


def rows_of(acts: Acts) -> list[Row]:
    """Every act that somebody waits for or that waits for a step, in the order of the work."""
    steps = {a.id for a in acts.values() if a.kind is Kind.STEP}
    opens: dict[str, set[str]] = {}
    for step in steps:
        for need in (*acts[step].needs, *acts[step].heeds):
            opens.setdefault(need, set()).add(step)
    grouped: dict[tuple[object, ...], list[Act]] = {}
    for act in acts.values():
        if act.is_optional or act.kind is Kind.SIGN_OFF or (act.kind is Kind.PLAN and act.id != PLAN):
            continue
        gates, waits = frozenset(opens.get(act.id, ())), frozenset(i for i in act.needs if i in steps)
        key = (act.id,) if act.kind is Kind.STEP else (act.station, act.kind, gates, waits)
        grouped.setdefault(key, []).append(act)
    return [Row(tuple(a), frozenset(opens.get(a[0].id, ())), frozenset(i for i in a[0].needs if i in steps)) for a in grouped.values()]


def gates_drawing(acts: Acts, title: str) -> Canvas:
    """The chart: a filled dot where the step of a column waits for the row, an open one where the row waits for that step."""
    rows, steps = rows_of(acts), [a for a in acts.values() if a.kind is Kind.STEP]
    at = {step.id: LEFT + NAMES + GAP * (n + 0.5) for n, step in enumerate(steps)}
    width = max(LEFT + NAMES + GAP * max(len(steps), 1) + 40, 720.0)
    c = Canvas("acts", width, TOP + ROW * len(rows) + 16, f"The gates of {title}")
    c.text(LEFT, 26, f"Gates of {title}", 16, bold=True)
    c.text(LEFT, 46, "Filled: the step waits for it. Open: it waits for the step. Ring: the step itself.", 12, ink="pencil")
    for n, step in enumerate(steps, start=1):
        c.text(at[step.id], TOP - 12, str(n), 12, "middle", "pencil", mono=True)
    for n, row in enumerate(rows):
        _row(c, row, TOP + ROW * (n + 0.5), at, width, shaded=bool(n % 2))
    return c


def _row(c: Canvas, row: Row, y: float, at: dict[str, float], width: float, *, shaded: bool) -> None:
    if shaded:
        c.rect(LEFT - 8, y - ROW / 2, width - 2 * LEFT + 16, ROW, "plaster")
    first = row.acts[0]
    c.text(LEFT, y + 4, first.station, 11, ink="pencil")
    is_step = first.kind is Kind.STEP
    numbered = f"{list(at).index(first.id) + 1}. {row.title}" if is_step else row.title
    c.text(LEFT + 84, y + 4, shortened(numbered, 12, NAMES - 104, bold=is_step), 12, bold=is_step)
    marks = [at[s] for s in row.opens | row.waits] + ([at[first.id]] if is_step else [])
    if len(marks) > 1:
        c.line(min(marks), y, max(marks), y, "rule", 1.2)
    for step in row.waits:
        c.circle(at[step], y, 4.2, "white", "green", 1.6)
    for step in row.opens:
        c.circle(at[step], y, 4.2, "green", "green", 1.6)
    if is_step:
        c.circle(at[first.id], y, 6.5, "white", "ink", 2.2)
