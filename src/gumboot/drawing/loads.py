"""Two columns of tags, per-leg beams, and the hours an outage is carried."""

from __future__ import annotations

from contextlib import nullcontext
from dataclasses import dataclass

from markupsafe import Markup

from gumboot.core.figure import Figure
from gumboot.core.job.model import Load
from gumboot.core.plan.derive import Plan
from gumboot.core.rules.loads import all_running, leg_running
from gumboot.core.study.year import YearStudy, field_figure
from gumboot.drawing.show import figure_text, quantity
from gumboot.drawing.svg import Canvas

LEG_INK = {"L1": "wire-black", "L2": "wire-red", "L3": "blue", "L1+L2": "pencil", "L1+L2+L3": "pencil"}


PRIORITY = {1: "must", 2: "should", 3: "may"}


def _tag(c: Canvas, x: float, y: float, width: float, load: Load, scale: float) -> None:
    run, surge = max(3, load.running_w * scale), load.surge_w * scale
    other = "house" if load.side == "backed" else "backed"
    side = "house" if other == "house" else "backed-up"
    with c.tag(load.id, load.side, f"{load.title}, {PRIORITY[load.priority]} run: move to the {side} side"):
        c.rect(x, y, width - 4, 21, "white", "rule", 1, r=3)
        name = load.title if len(load.title) <= 21 else load.title[:20].rstrip() + "…"
        c.text(x + 8, y + 15, name, 12)
        c.text(x + 168, y + 15, load.leg, 11, "end", "pencil", mono=True)
        x0 = x + 176
        c.rect(x0, y + 5, run, 11, LEG_INK[load.leg], None)
        if surge > run + 2:
            c.line(x0 + run, y + 10.5, x0 + surge, y + 10.5, "ink", 1.2)
            c.line(x0 + surge, y + 6, x0 + surge, y + 15, "ink", 1.2)
    with c.opens(f"in.loads.{load.id}.running_w", f"{load.title}, running {quantity(load.running_w, 'W')}"):
        c.text(x0 + max(surge, run) + 5, y + 15, quantity(load.running_w, "W"), 11, "start", "pencil", mono=True)


Group = tuple[str, list[Load], Figure | None, str]


def _backed(plan: Plan) -> list[Group]:
    """The backed-up side board by board; an island's total stands at its first board."""
    found: list[Group] = []
    for island in plan.islands:
        boards = island.house.boards
        counted = f", {len(boards)} boards" if len(boards) > 1 else ""
        for n, board in enumerate(boards):
            loads = island.house.loads_on((board,))
            found.append((board.name, loads, island.loads.running_total if n == 0 else None, counted))
    if len(found) == 1:
        return [("Backed-up side", *found[0][1:])]
    return found


def _column(side: str, groups: list[Group], words: str, scale: float, height: float) -> Canvas:
    """The tags of one side, under the name of each board."""
    c = Canvas(f"tags-{side}", 356, height, f"Loads on the {'house' if side == 'house' else 'backed-up'} side")
    y = 16.0
    for title, loads, total, counted in groups:
        c.text(4, y, title, 14, bold=True)
        if total is not None:
            with c.opens(total.key, f"{total.name}: {figure_text(total)}"):
                c.text(352, y, figure_text(total) + " running" + counted, 12, "end", "pencil", mono=True)
        rows = max(1, len(loads))
        c.rect(0, y + 6, 356, 24 * rows + 14 if len(groups) > 1 else height - 24, "plaster", None, r=4)
        if not loads:
            c.text(178, y + 26, words, 12, "middle", "pencil")
        for n, load in enumerate(loads):
            c.anchor(load.id, 178, y + 26 + 24 * n)
            _tag(c, 4, y + 14 + 24 * n, 348, load, scale)
        y += 24 * rows + 44
    return c


def tag_columns(plan: Plan) -> dict[str, Canvas]:
    """House side and backed-up side; tag length is running power, the whisker reaches to starting power."""
    house: list[Group] = [("House side", [x for x in plan.job.loads if x.side == "house"], plan.loads.house_total, "")]
    backed = _backed(plan)
    house_high, backed_high = (sum(24 * max(1, len(loads)) + 46 for _, loads, *_ in groups) for groups in (house, backed))
    if len(backed) == 1:
        house_high = backed_high = max(house_high, backed_high)
    scale = 116 / max(max((x.surge_w for x in plan.job.loads), default=1), 1)
    return {
        "house": _column("house", house, "drag a load here to leave it to the grid", scale, house_high),
        "backed": _column("backed", backed, "drag a load here to carry it through an outage", scale, backed_high),
    }


def tags_drawing(plan: Plan) -> Markup:
    """Both sides beside each other. A tag is dragged or keyed across."""
    columns = Markup("").join(
        Markup('<div class="column" data-side="{}">{}</div>').format(side, c.render()) for side, c in tag_columns(plan).items()
    )
    return Markup('<div class="columns">{}</div>').format(columns)


@dataclass(frozen=True)
class _Beam:
    """A leg, or all: running and starting power with the limits of both; ``over`` where the running power is found too much."""

    title: str
    running: Figure
    starting: Figure
    limit: Figure
    surge: Figure
    timed: tuple[tuple[float, Figure], ...]
    over: bool
    by: str = ""


def _beam(c: Canvas, y: float, b: _Beam) -> None:
    running, starting, limit, surge, over = b.running, b.starting, b.limit, b.surge, b.over
    x0, width = 96.0, 470.0
    scale = width / max(surge.value * 1.06, starting.value * 1.02)
    c.text(0, y + 16, b.title, 14, bold=True)
    c.rect(x0, y, limit.value * scale, 24, "hatch-green", None)
    c.rect(x0 + surge.value * scale, y, max(4, width - surge.value * scale), 24, "hatch-oxide", None)
    with c.opens(running.key, f"{running.name}: {figure_text(running)}"):
        c.rect(x0, y + 5, running.value * scale, 14, "oxide" if over else "green", None)
    with c.opens(starting.key, f"{starting.name}: {figure_text(starting)}"):
        c.rect(x0 + running.value * scale, y + 3, max(0, (starting.value - running.value) * scale), 18, "page", None)
        c.line(x0 + running.value * scale, y + 12, x0 + starting.value * scale, y + 12, "ink", 2)
        c.line(x0 + starting.value * scale, y + 5, x0 + starting.value * scale, y + 19, "ink", 2)
    for f, ink, by in ((limit, "green", ""), (surge, "oxide", b.by)):
        with c.opens(f.key, f"{f.name}: {figure_text(f)}"):
            c.line(x0 + f.value * scale, y - 4, x0 + f.value * scale, y + 28, ink, 2)
            c.text(x0 + f.value * scale, y + 41, figure_text(f) + by, 11, "middle", ink, mono=True)
    for seconds, figure in b.timed:
        x = x0 + figure.value * scale
        if x <= x0 + width:
            with c.opens(figure.key, f"{figure.name}: {figure_text(figure)}"):
                if figure is not surge:
                    c.line(x, y - 2, x, y + 26, "ochre", 1.6)
                c.text(x, y - 6, f"{seconds:g} s", 10, "middle", "oxide" if figure is surge else "ochre", mono=True)
    c.line(x0, y + 24, x0 + width, y + 24, "ink", 1)
    c.text(728, y + 11, f"{figure_text(running)} running", 12, "end", "oxide" if over else "ink", mono=True)
    c.text(728, y + 27, f"{figure_text(starting)} starting", 12, "end", "pencil", mono=True)


def beams_drawing(plan: Plan) -> Markup:
    """The beams, as the page has them."""
    return beams_canvas(plan).render()


def beams_canvas(plan: Plan) -> Canvas:
    """One beam per leg or phase and one for all: running and starting against continuous and timed ratings."""
    p = plan.loads
    legs = list(p.running) if len(p.running) > 1 else []
    foot = 80 + 58 * len(legs)
    c = Canvas("beams", 728, foot + 14, "Running and starting power against the ratings of inverter and bank")
    for i, leg in enumerate(legs):
        word = "Leg" if len(legs) == 2 else "Phase"
        runs, timed = p.running[leg], tuple((x.seconds, x.leg) for x in p.timed)
        over = plan.says(leg_running.code, runs)
        _beam(c, 18 + i * 58, _Beam(f"{word} {leg}", runs, p.starting[leg], p.leg_limit, p.leg_surge_limit, timed, over))
    title, timed = "All" if len(legs) != 2 else "Both", tuple((x.seconds, x.total) for x in p.timed)
    over = plan.says(all_running.code, p.running_total)
    # What the batteries give for a start may end before what the inverter holds.
    held = p.start_limit
    whole = _Beam(title, p.running_total, p.starting_total, p.total_limit, held, timed, over, " bank" if held is p.bank_peak else "")
    _beam(c, 18 + len(legs) * 58, whole)
    c.rect(96, foot, 22, 10, "hatch-green")
    c.text(124, foot + 9, "continuous", 11, ink="pencil")
    c.rect(200, foot, 22, 10, "hatch-oxide")
    c.text(228, foot + 9, "beyond all ratings", 11, ink="pencil")
    c.text(340, foot + 9, "bar: running · whisker: largest start · above: how long it holds", 11, ink="pencil")
    c.anchor("beams", 140, foot / 2)
    return c


def ribbon_drawing(plan: Plan) -> Markup:
    """The ribbon, as the page has it."""
    return ribbon_canvas(plan).render()


def ribbon_canvas(plan: Plan) -> Canvas:
    """Hours carried for an outage that begins at each hour of the day."""
    carried = plan.loads.carried
    top = max(f.value for f in carried)
    c = Canvas("ribbon", 728, 128, "Hours the bank carries the backed-up side, by hour at which the outage begins")
    width = 728 / 24
    for hour, figure in enumerate(carried):
        h = 74 * figure.value / max(top, 0.1)
        shortest = figure is plan.loads.shortest
        if shortest:
            c.anchor("shortest", hour * width + width / 2, 64)
        with c.opens(figure.key, f"{figure.name}: {figure_text(figure)}"):
            c.rect(hour * width + 1.5, 94 - h, width - 3, h, "ochre-wash" if shortest else "wash", "ochre" if shortest else "green", 1)
            c.text(
                hour * width + width / 2,
                88 - h,
                f"{figure.value:.1f}" if figure.value < 99.5 else f"{figure.value:.0f}",
                11,
                "middle",
                mono=True,
            )
        if hour % 3 == 0:
            c.line(hour * width, 94, hour * width, 99, "ink", 1)
            c.text(hour * width + 2, 109, f"{hour:02d}:00", 11, "start", "pencil", mono=True)
    c.line(0, 94, 728, 94, "ink", 1.2)
    c.text(0, 124, "hour at which the outage begins · figures are hours carried · no PV counted · shortest is ochre", 11, ink="pencil")
    return c


MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")


def field_drawing(study: YearStudy, wished_h: float, prefix: str = "") -> Markup:
    """Hours carried by hour of the day and month: nine days in ten carry longer. The darker, the longer; short of the wish is ochre.

    ``prefix`` is what the keys of its figures begin with where the study is one of several.
    """
    if study.field_low is None:
        return Markup("")
    c = Canvas(
        "field",
        728,
        24 * 15 + 52,
        "Hours an outage is carried, by the hour and the month in which it begins; nine days in ten carry longer",
    )
    left, top, w, h = 56.0, 22.0, 56.0, 15.0
    most = max(float(study.field_low.max()), 1.0)
    for m, month in enumerate(MONTHS):
        c.text(left + m * w + w / 2, 14, month, 11, "middle", "pencil")
        for hour in range(24):
            value = float(study.field_low[hour, m])
            short = value < wished_h - 1e-9
            depth = min(3, int(4 * value / most))
            ink = "ochre-wash" if short else ("plaster", "wash", "wash-deep", "wash-deeper")[depth]
            x, y = left + m * w, top + hour * h
            words = f"{value:.0f}" if value >= 9.95 else f"{value:.1f}"
            figure = field_figure(study, hour, m)
            with c.opens(prefix + figure.key, f"{figure.name}: {figure_text(figure)}", cell=(hour, m)) if figure else nullcontext():
                c.rect(x, y, w - 1, h - 1, ink, None)
                c.text(
                    x + w / 2, y + 10, "240+" if value >= 240 else words, 10, "middle", "ochre" if short else "ink", mono=True, bold=short
                )
    for hour in range(0, 24, 3):
        c.text(left - 6, top + hour * h + 11, f"{hour:02d}:00", 11, "end", "pencil", mono=True)
    y = top + 24 * h + 16
    c.text(
        left,
        y,
        f"hours carried · nine days in ten of that month carry longer · deeper green: longer · ochre: less than the {wished_h:g} h wished",
        11,
        ink="pencil",
    )
    return c.render()


def months_drawing(study: YearStudy) -> Markup:
    """PV yield, consumption and what is taken from the grid, month by month."""
    if study.pv_month_kwh is None or study.load_month_kwh is None or study.import_month_kwh is None:
        return Markup("")
    c = Canvas("months", 728, 150, "PV yield, consumption and grid, month by month")
    most = max(float(study.pv_month_kwh.max()), float(study.load_month_kwh.max()), 1.0)
    left, base, w, high = 56.0, 112.0, 56.0, 92.0
    for m, month in enumerate(MONTHS):
        x = left + m * w
        for k, (series, ink) in enumerate(
            ((study.pv_month_kwh, "ochre"), (study.load_month_kwh, "pencil"), (study.import_month_kwh, "blue"))
        ):
            value = float(series[m])
            c.rect(x + 4 + 15 * k, base - high * value / most, 13, high * value / most, ink, None)
        c.text(x + w / 2, base + 14, month, 11, "middle", "pencil")
    c.line(left, base, left + 12 * w, base, "ink", 1.2)
    for part in (0.5, 1.0):
        c.text(left - 6, base - high * part + 4, f"{most * part:.0f}", 11, "end", "pencil", mono=True)
        c.line(left - 3, base - high * part, left, base - high * part, "ink", 1)
    c.text(left - 6, base + 14, "kWh", 11, "end", "pencil")
    for x, ink, words in ((left, "ochre", "PV yield"), (left + 110, "pencil", "consumption"), (left + 240, "blue", "taken from the grid")):
        c.rect(x, base + 24, 13, 10, ink, None)
        c.text(x + 19, base + 33, words, 11, ink="pencil")
    return c.render()
