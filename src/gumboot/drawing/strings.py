"""Roof faces with their modules, and one voltage ruler per tracker."""

from __future__ import annotations

from markupsafe import Markup

from gumboot.core.card import ModuleCard
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.strings import TrackerPlan
from gumboot.drawing.show import figure_text, in_system
from gumboot.drawing.svg import Axis, Canvas


def roof_drawing(plan: Plan) -> Markup:
    """Each face with its places, filled by strings."""
    if plan.job.equipment.module is None or not plan.job.faces:
        return Markup("")
    module = plan.shelf[plan.job.equipment.module]
    if not isinstance(module, ModuleCard):
        raise TypeError(f"{module.id} is no module card")
    c = Canvas("roof", 728, 184, "Roof faces with modules")
    width = 728 / max(1, len(plan.job.faces))
    for i, face in enumerate(plan.job.faces):
        x0 = i * width
        strings = [s for s in plan.job.strings if s.face == face.id]
        owners = [s.id for s in strings for _ in range(s.modules)]
        places = face.columns * face.rows
        c.text(x0, 15, face.title, 14, bold=True)
        c.text(
            x0 + len(face.title) * 8 + 8,
            15,
            f"{face.tilt_deg:g}° tilt · {face.azimuth_deg:g}° · {len(owners)} of {places} places · {', '.join(f'{s.id} on {s.tracker}' for s in strings)}",
            12,
            ink="pencil",
        )
        w = min((width - 60) / face.columns, 118 * module.width_mm / module.height_mm / face.rows * 1.0, 50)
        h = w * module.height_mm / module.width_mm
        inner = face.columns * w
        c.path([(x0 + 12, 26), (x0 + inner + 36, 26), (x0 + inner + 48, 166), (x0, 166)], "ink", 1.6, "plaster", closed=True)
        for n in range(max(places, len(owners))):
            row, column = divmod(n, face.columns)
            x, y = x0 + 24 + column * w, 32 + row * h
            filled, beyond = n < len(owners), n >= places
            c.rect(
                x + 1.2,
                y + 1.2,
                w - 2.4,
                h - 2.4,
                ("oxide" if beyond else "cell") if filled else None,
                "ink" if filled else "pencil",
                1,
                "" if filled else "3 3",
            )
            if filled:
                c.line(x + w / 2, y + 2, x + w / 2, y + h - 2, "pencil", 0.6)
                c.text(x + 5, y + h - 6, f"{n + 1}", 10, ink="page", mono=True)
    return c.render()


def _ruler(c: Canvas, y: float, t: TrackerPlan, system: str, hot_c: float, cold_c: float) -> None:
    x0, width = 140.0, 560.0
    top = max(t.limit_v.value * 1.12, t.cold_v.value * 1.08)
    sx = width / top
    at: Axis = lambda v: x0 + v * sx
    over = t.cold_v.value > t.limit_v.value
    c.text(0, y + 32, t.tracker.id, 16, bold=True)
    c.text(0, y + 50, f"{t.modules} × {t.face.title.lower()}", 12, ink="pencil")
    with c.opens(t.operating_a.key, f"Operating current {figure_text(t.operating_a)}"):
        c.text(0, y + 66, f"{figure_text(t.operating_a)} · max {figure_text(t.maximum_a)}", 12, ink="pencil", mono=False)
    c.rect(at(t.window_low_v.value), y + 22, at(t.tracker.v_full_max) - at(t.window_low_v.value), 40, "hatch-green")
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
    """One ruler per tracker, from hot operating to cold open-circuit voltage."""
    if plan.strings is None or not plan.strings.trackers:
        return Markup("")
    trackers = plan.strings.trackers
    c = Canvas("rulers", 728, 106 * len(trackers) + 20, "Voltage of each tracker against its window and limit")
    for i, t in enumerate(trackers):
        hot = plan.figures.get(f"strings.{t.tracker.id}.hot_cell")
        hot_c = hot.value if hot else 0.0
        _ruler(c, 6 + 106 * i, t, system, hot_c, plan.job.site.record_low_c or 0.0)
    y = 106 * len(trackers) + 2
    c.rect(140, y, 26, 11, "hatch-green")
    first = trackers[0]
    c.text(172, y + 10, f"tracker window {first.tracker.v_min:g} to {first.tracker.v_full_max:g} V", 11, ink="pencil")
    c.line(372, y - 1, 372, y + 12, "ochre", 3)
    c.text(380, y + 10, f"start-up {figure_text(first.start_v)}", 11, ink="pencil")
    c.line(512, y - 1, 512, y + 12, "oxide", 2.4)
    c.text(520, y + 10, f"never above {figure_text(first.limit_v)}", 11, ink="pencil")
    return c.render()
