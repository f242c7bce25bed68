"""The charge ruler and the day strip."""

from __future__ import annotations

from itertools import groupby

from markupsafe import Markup

from gumboot.core.plan.derive import Plan
from gumboot.core.plan.settings import ChargeRuler
from gumboot.drawing.show import figure_text
from gumboot.drawing.svg import Axis, Canvas

KIND = {"peak": ("oxide-wash", "oxide"), "shoulder": ("ochre-wash", "ochre"), "off-peak": ("wash", "green")}


def charge_ruler(plan: Plan) -> Markup:
    """The charge ruler of every bank."""
    return Markup("").join(ruler_of(plan, ruler) for ruler in plan.settings.rulers)


def ruler_of(plan: Plan, s: ChargeRuler) -> Markup:
    """All open-loop thresholds of a bank on one voltage axis."""
    return ruler_canvas(plan, s).render()


def ruler_canvas(plan: Plan, s: ChargeRuler) -> Canvas:
    """As ``ruler_of``, as drawn shapes."""
    low, high = s.v_min.value, s.v_max.value
    c = Canvas(f"ruler-{s.bank}" if s.of else "ruler", 728, 150, f"Fallback voltages on one axis{s.of}")
    x: Axis = lambda v: 14 + 700 * (v - low) / (high - low)
    c.rect(14, 66, 700, 18, "hatch-green", "ink", 1.2)
    for v in range(int(low) + 1, int(high) + 1):
        c.line(x(v), 84, x(v), 89 if v % 2 else 92, "ink", 1)
        if v % 2 == 0 and all(abs(x(v) - x(r.amount.value)) > 19 for r in s.thresholds[1::2]):
            c.text(x(v), 104, f"{v} V", 11, "middle", "pencil", mono=True)
    bad = {f.where for f in plan.findings if f.code in ("SET-ORDER", "SET-VOLTAGE-RANGE")}
    for i, row in enumerate(s.thresholds):
        px = min(max(x(row.amount.value), 14), 714)
        up = i % 2 == 0
        ink = "oxide" if any(row.title in b for b in bad) else "ink"
        y2 = 34 if up else 122
        c.anchor(row.key, px, 75)
        with c.opens(row.amount.key, f"{row.title} {figure_text(row.amount)}"):
            c.line(px, 64 if up else 86, px, y2 + (2 if up else -10), ink, 1.6)
            c.text(
                px,
                y2 - 14 if up else y2 + 4,
                row.title.removesuffix(s.of),
                11,
                "middle" if 40 < px < 690 else ("start" if px <= 40 else "end"),
                ink,
            )
            c.text(
                px,
                y2 if up else y2 + 18,
                figure_text(row.amount),
                12,
                "middle" if 40 < px < 690 else ("start" if px <= 40 else "end"),
                ink,
                mono=True,
                bold=True,
            )
    return c


def day_strip(plan: Plan) -> Markup:
    """24 hours of tariff with the backed-up demand over it."""
    c = Canvas("day", 728, 138, "A day of tariff and backed-up demand")
    pitch = 700 / 24
    # What all islands ask together: the tariff is one.
    profile_w = [sum(hour) for hour in zip(*plan.island_loads.profile_w.values(), strict=True)]
    top = max(profile_w) or 1
    half = 0
    for windows, alike in groupby(plan.settings.tariff_by_half):
        # One field for all half hours alike: no seam between them.
        px, wide = 14 + half * pitch / 2, (long := len(list(alike))) * pitch / 2
        half += long
        fill = KIND[windows[0].kind][0] if len(windows) == 1 else "hatch-oxide" if windows else None
        c.rect(px, 14, wide, 88, fill, None)
        if any(w.grid_charge for w in windows):
            c.rect(px, 14, wide, 8, "green", None)
    for hour in range(24):
        px = 14 + hour * pitch
        h = 66 * profile_w[hour] / top
        c.line(px, 102 - h, px + pitch, 102 - h, "ink", 2)
        if hour:
            before = 66 * profile_w[hour - 1] / top
            c.line(px, 102 - before, px, 102 - h, "ink", 1)
        if hour % 3 == 0:
            c.text(px, 116, f"{hour:02d}", 11, "middle", "pencil", mono=True)
    c.line(14, 102, 714, 102, "ink", 1.2)
    x = 14.0
    for w in plan.job.settings.tariff:
        c.rect(x, 124, 14, 10, KIND[w.kind][0], KIND[w.kind][1], 1)
        words = f"{w.title} {w.price:.2f} per kWh, {w.kind}"
        c.text(x + 19, 133, words, 11, ink="pencil")
        x += 32 + 6.0 * len(words)
    c.rect(x, 124, 14, 10, "green")
    c.text(x + 19, 133, "grid charge", 11, ink="pencil")
    c.text(18, 36, "demand of the backed-up side", 11, ink="ink")
    return c.render()
