"""Roof faces with their modules, and one voltage ruler per tracker."""

from __future__ import annotations

from markupsafe import Markup

from gumboot.core.card import ModuleCard
from gumboot.core.figure import Figure
from gumboot.core.job.model import Face
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.places import Area, area_of, spots
from gumboot.core.plan.strings import TrackerPlan
from gumboot.core.rules.strings import cold_voltage
from gumboot.drawing.show import figure_text, in_system, quantity
from gumboot.drawing.svg import Axis, Canvas


def _scale_of(faces: list[Area], room: float) -> float:
    """Drawing units per mm: one scale for all faces, so that they can be compared."""
    return min(room / max(sum(a.width for a in faces), 1.0), 150.0 / max(*(a.height for a in faces), 1.0))


def _face(c: Canvas, x0: float, base: float, face: Face, area: Area, k: float, plan: Plan, module: ModuleCard) -> None:
    def px(x: float, y: float) -> tuple[float, float]:
        return x0 + x * k, base - y * k

    inset = (area.width - area.ridge) / 2
    corners = [px(0, 0), px(area.width, 0), px(area.width - inset, area.height), px(inset, area.height)]
    c.path(corners, "ink", 1.6, "plaster", closed=True)
    kept = (face.setback_side_mm, face.setback_eaves_mm, face.setback_ridge_mm)
    if face.width_mm is not None and any(kept):
        side, eaves, ridge = kept
        low, high = px(side, eaves), px(area.width - side, area.height - ridge)
        c.rect(low[0], high[1], high[0] - low[0], low[1] - high[1], None, "blue", 0.8, "3 3")
    for o in face.obstacles:
        x, y = px(o.x_mm, o.y_mm + o.height_mm)
        c.rect(x, y, o.width_mm * k, o.height_mm * k, "hatch-pencil", "ink", 1.2)
    owners = [s.id for s in plan.job.strings if s.face == face.id for _ in range(s.modules)]
    order = list(dict.fromkeys(owners))
    numbers: dict[str, int] = {}
    found = spots(face, module)
    for n, spot in enumerate(found):
        x, y = px(spot.x, spot.y + spot.h)
        filled = n < len(owners)
        c.rect(
            x + 0.6,
            y + 0.6,
            spot.w * k - 1.2,
            spot.h * k - 1.2,
            "cell" if filled else None,
            "ink" if filled else "pencil",
            1,
            "" if filled else "3 3",
        )
        if filled:
            numbers[owners[n]] = numbers.get(owners[n], 0) + 1
            shade = order.index(owners[n]) % 2
            if shade:
                c.line(x + 2, y + 2, x + spot.w * k - 2, y + 2, "page", 2)
            if spot.w * k >= 21:
                c.text(
                    x + 3,
                    y + spot.h * k - 4,
                    f"{owners[n]}.{numbers[owners[n]]}" if spot.w * k >= 30 else f"{numbers[owners[n]]}",
                    9,
                    ink="page",
                    mono=True,
                )
    beyond = len(owners) - len(found)
    if beyond > 0:
        c.text(x0, base + 30, f"{beyond} modules have no place", 12, ink="oxide", bold=True)


def roof_drawing(plan: Plan, system: str = "SI") -> Markup:
    """Each face to one scale, with setbacks, obstacles and modules, filled by strings."""
    return roof_canvas(plan, system).render() if roof_ready(plan) else Markup("")


def roof_ready(plan: Plan) -> bool:
    """Whether there is a roof to draw."""
    return bool(plan.job.faces) and all(plan.seats.module_or_none(f.id) is not None for f in plan.job.faces)


def roof_canvas(plan: Plan, system: str = "SI") -> Canvas:
    """The roof as drawn shapes."""
    faces = plan.job.faces
    cards = {f.id: plan.seats.module_on(f.id) for f in faces}
    areas = [area_of(f, cards[f.id]) for f in faces]
    gap = 26.0
    k = _scale_of(areas, 700.0 - gap * (len(faces) - 1))
    # A narrow face still needs room for its words.
    widths = [max(a.width * k, 168.0) for a in areas]
    k *= min(1.0, (728.0 - gap * (len(faces) - 1)) / sum(widths))
    widths = [max(a.width * k, 168.0) for a in areas]
    base = 44 + max(a.height for a in areas) * k
    c = Canvas(
        "roof", 728, base + (40 if len({card.id for card in cards.values()}) == 1 else 52), "Roof faces to one scale with their modules"
    )
    x0 = 0.0
    for face, area, width in zip(faces, areas, widths, strict=True):
        used, holds = sum(s.modules for s in plan.job.strings if s.face == face.id), len(spots(face, cards[face.id]))
        c.anchor(face.id, x0 + width / 2, base - area.height * k / 2)
        c.text(x0, 15, face.title, 14, bold=True)
        c.text(x0, 32, f"{face.tilt_deg:g}° tilt, {compass(face.azimuth_deg)} {face.azimuth_deg:g}°", 11, ink="pencil")
        _face(c, x0, base, face, area, k, plan, cards[face.id])
        size = (
            f"{quantity(area.width / 1000, 'm', system)} × {quantity(area.height / 1000, 'm', system)}"
            if face.width_mm
            else "size not entered"
        )
        c.text(x0, base + 15, f"{used} of {holds} places, {size}", 11, ink="pencil")
        if len({card.id for card in cards.values()}) > 1:
            c.text(x0, base + 44, cards[face.id].title, 11, ink="pencil")
        x0 += width + gap
    return c


def compass(azimuth_deg: float) -> str:
    """The direction a face looks to, in eight winds."""
    return ("north", "north-east", "east", "south-east", "south", "south-west", "west", "north-west")[round(azimuth_deg / 45) % 8]


def terminal_rating(plan: Plan, t: TrackerPlan, bridged: bool) -> Figure | None:
    """What one terminal, or two under the bridge, bears, off the card that holds the tracker."""
    field = "bridge_max_a" if bridged and t.tracker.bridge_max_a is not None else "terminal_max_a"
    return plan.figures.get(f"card.{plan.house.card_at(t.place).id}.trackers.{t.tracker.id}.{field}")


def terminals_drawing(plan: Plan) -> Markup:
    """Each PV input's terminals with what they carry, and the maker's bridge where it is set."""
    rows = plan.strings.trackers if plan.strings else ()
    if not rows:
        return Markup("")
    c = Canvas("terminals", 728, 84 + 12, "PV terminals, what each carries against what it bears")
    pitch = min(238.0, 728.0 / len(rows))
    for n, t in enumerate(rows):
        x, bridged = n * pitch, any(s.bridge for s in t.strings)
        # Judged by the plan; drawn here.
        over = any(f.where == t.name and f.code in ("PV-TERMINAL-CURRENT", "PV-BRIDGE") for f in plan.findings)
        bears = terminal_rating(plan, t, bridged)
        c.text(x, 13, t.name, 13, bold=True)
        for k in range(2):
            tx = x + 6 + 34 * k
            used = k == 0 or bridged
            c.rect(
                tx,
                24,
                26,
                26,
                "wash" if used and not over else "oxide-wash" if used else "white",
                "ink" if used else "pencil",
                1.6 if used else 1,
                "" if used else "3 3",
            )
            c.circle(tx + 13, 37, 5, "page", "ink" if used else "pencil", 1.2)
        if bridged:
            c.rect(x + 14, 33, 44, 8, "ochre", "ink", 1.2)
        with c.opens(t.maximum_a.key, f"{t.maximum_a.name}: {figure_text(t.maximum_a)}"):
            c.text(x + 74, 34, figure_text(t.maximum_a), 13, ink="oxide" if over else "ink", mono=True, bold=True)
        if bears is not None:
            with c.opens(bears.key, f"{bears.name}: {figure_text(bears)}"):
                c.text(x + 74, 49, f"of {figure_text(bears)}", 11, ink="oxide" if over else "pencil", mono=True)
        words = (
            "two under the bridge"
            if bridged
            else "one terminal" + (f"; bridge {t.tracker.bridge_max_a:g} A" if t.tracker.bridge_max_a else "; no bridge")
        )
        c.text(x + 6, 68, words, 11, ink="pencil")
        c.text(
            x + 6, 83, f"{len(t.strings)} string{'s' if len(t.strings) > 1 else ''}: {', '.join(s.id for s in t.strings)}", 11, ink="pencil"
        )
    return c.render()


def _ruler(c: Canvas, y: float, plan: Plan, t: TrackerPlan, system: str) -> None:
    x0, width = 140.0, 560.0
    top = max(t.limit_v.value * 1.12, t.cold_v.value * 1.08)
    sx = width / top
    at: Axis = lambda v: x0 + v * sx
    over = plan.says(cold_voltage.code, t.cold_v)
    # Its window is what is looked at: the bar's cold end stands against the limit.
    for name in (t.name, *(s.id for s in t.strings)):
        c.anchor(name, at(t.cold_v.value) - 60, y + 42)
    hot_cell = plan.figures.get(f"strings.{t.key}.hot_cell")
    hot_c, cold_c = hot_cell.value if hot_cell else 0.0, plan.job.site.record_low_c or 0.0
    c.text(0, y + 32, t.name, 16, bold=True)
    c.text(0, y + 50, f"{t.modules} × {t.face.title.lower()}", 12, ink="pencil")
    with c.opens(t.operating_a.key, f"Operating current {figure_text(t.operating_a)}"):
        c.text(0, y + 66, f"{figure_text(t.operating_a)} · max {figure_text(t.maximum_a)}", 12, ink="pencil", mono=False)
    # The window may end beyond the drawn scale, as on inputs made for far higher voltages than this string's.
    c.rect(at(t.window_low_v.value), y + 22, min(at(t.tracker.v_full_max), x0 + width) - at(t.window_low_v.value), 40, "hatch-green")
    c.rect(at(t.limit_v.value), y + 22, x0 + width - at(t.limit_v.value), 40, "hatch-oxide")
    c.line(x0, y + 62, x0 + width, y + 62, "ink", 1.4)
    step = 100 if top > 250 else 50
    for v in range(0, int(top) + 1, step):
        c.line(at(v), y + 62, at(v), y + 68, "ink", 1)
        c.text(at(v), y + 80, str(v), 11, "middle", "pencil", mono=True)
    left, right = at(t.hot_v.value), at(t.cold_v.value)
    with c.opens(t.cold_v.key, f"{t.cold_v.name}: {figure_text(t.cold_v)}"):
        c.rect(left, y + 34, right - left, 17, "oxide" if over else "green")
        c.line(right, y + 29, right, y + 56, "ink", 2)
        end = right > x0 + width - 70
        cold = in_system(cold_c, "°C", system)
        c.text(right + (4 if end else 0), y + 4, f"cold, {cold[0]} {cold[1]} air", 11, "end" if end else "middle", "pencil")
        c.text(
            right + (4 if end else 0),
            y + 18,
            figure_text(t.cold_v),
            13,
            "end" if end else "middle",
            "oxide" if over else "green",
            mono=True,
            bold=True,
        )
    with c.opens(t.hot_v.key, f"{t.hot_v.name}: {figure_text(t.hot_v)}"):
        c.line(left, y + 29, left, y + 56, "ink", 2)
        hot = in_system(hot_c, "°C", system)
        c.text(left - 4, y + 4, f"hot, {hot[0]} {hot[1]} cell", 11, "middle", "pencil")
        c.text(left - 4, y + 18, figure_text(t.hot_v), 13, "middle", mono=True, bold=True)
    with c.opens(t.start_v.key, f"Start-up voltage {figure_text(t.start_v)}"):
        c.line(at(t.start_v.value), y + 54, at(t.start_v.value), y + 66, "ochre", 3)
    with c.opens(t.limit_v.key, f"Never above {figure_text(t.limit_v)}"):
        c.line(at(t.limit_v.value), y + 20, at(t.limit_v.value), y + 68, "oxide", 2.4)


def rulers_drawing(plan: Plan, system: str) -> Markup:
    """One ruler per tracker, as the page has them; nothing where no tracker is planned."""
    return rulers_canvas(plan, system).render() if plan.strings is not None and plan.strings.trackers else Markup("")


def rulers_canvas(plan: Plan, system: str) -> Canvas:
    """One ruler per tracker that is planned, from hot operating to cold open-circuit voltage."""
    trackers = plan.strings.trackers if plan.strings is not None else ()
    c = Canvas("rulers", 728, 106 * len(trackers) + 20, "Voltage of each tracker against its window and limit")
    for i, t in enumerate(trackers):
        _ruler(c, 6 + 106 * i, plan, t, system)
    y = 106 * len(trackers) + 2
    c.rect(140, y, 26, 11, "hatch-green")
    first = trackers[0]
    c.text(172, y + 10, f"tracker window {first.tracker.v_min:g} to {first.tracker.v_full_max:g} V", 11, ink="pencil")
    c.line(372, y - 1, 372, y + 12, "ochre", 3)
    c.text(380, y + 10, f"start-up {figure_text(first.start_v)}", 11, ink="pencil")
    c.line(512, y - 1, 512, y + 12, "oxide", 2.4)
    c.text(520, y + 10, f"never above {figure_text(first.limit_v)}", 11, ink="pencil")
    return c
