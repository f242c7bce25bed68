"""How good is each layout of a roof, which comes first, and why?"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from gumboot.core.expression import total
from gumboot.core.figure import Figure
from gumboot.core.plan.derive import Plan
from gumboot.core.study.layouts import Finder, Lay, assignments, cold_volts, finder_of

SHOWN = 8
# Beyond this a person waits too long; such a roof is asked about with fewer faces or alike trackers first.
MOST_TRIED = 150_000


@dataclass(frozen=True)
class Layout:
    """One admissible assignment with what ranks it. Margin in V below the nearest limit, yield in kWh a year, wiring in cores."""

    lays: tuple[Lay, ...]
    modules: int
    margin_v: float
    kwh: float | None
    spread: float
    cores: int
    why: str = ""
    margin: Figure | None = None
    yearly: Figure | None = None

    def on(self, tracker: str) -> Lay | None:
        """What one tracker carries."""
        return next((x for x in self.lays if x.tracker == tracker), None)


@dataclass(frozen=True)
class Found:
    """The finder's answer: how many were tried and fit, the best of them, and what kept it from answering."""

    tried: int
    fit: int
    best: tuple[Layout, ...]
    waits_for: str = ""
    counts: tuple[int, ...] = ()


def measured(f: Finder, lays: tuple[Lay, ...]) -> Layout:
    """A layout with its margin, yield, balance and wiring."""
    modules = sum(x.total for x in lays)
    if f.optimiser is None:
        margin = min(f.limit_v[x.tracker, x.face] - cold_volts(f, x) for x in lays)
    else:
        margin = min(f.limit_v[x.tracker, x.face] - f.optimiser.string_v for x in lays)
    kwh = sum(x.total * f.kwh_each[x.face] for x in lays) if f.kwh_each is not None else None
    each = [x.total for x in lays]
    return Layout(lays, modules, margin, kwh, float(max(each) - min(each)), 2 * sum(x.count for x in lays))


def find_layouts(plan: Plan, modules: int | None = None, shown: int = SHOWN, first: str = "yield") -> Found:
    """Enumerate every admissible layout, of ``modules`` in all or of any number, and rank them.

    Rank by ``first``: yield, margin or wiring. Nothing is sampled.
    """
    f = finder_of(plan)
    if isinstance(f, str):
        return Found(0, 0, (), f)
    return find(f, modules, shown, first)


def _order(f: Finder, best_kwh: float, first: str) -> Callable[[Layout], tuple[float, ...]]:
    """Sort key. Yields within 2 % count alike, and margin beyond a twentieth of the limit is not worth a cable."""

    def key(x: Layout) -> tuple[float, ...]:
        lost = int(50 * (best_kwh - (x.kwh or 0.0)) / best_kwh + 1e-9) if best_kwh else 0
        enough = min(x.margin_v, min(f.limit_v.values()) / 20)
        rest = (-round(enough, 1), x.cores, x.spread, -round(x.kwh or 0.0), -round(x.margin_v, 1))
        if first == "margin":
            return (-round(x.margin_v, 1), -x.modules, lost, *rest)
        if first == "wiring":
            return (x.cores, -x.modules, lost, *rest)
        return (-x.modules, lost, *rest)

    return key


def find(f: Finder, modules: int | None = None, shown: int = SHOWN, first: str = "yield") -> Found:
    """As find_layouts, for a finder."""
    tried, fit, counts = 0, [], set()
    for lays in assignments(f):
        tried += 1
        if tried > MOST_TRIED:
            return Found(tried, 0, (), f"this roof has more than {MOST_TRIED} layouts: take faces off, or choose alike trackers")
        laid = sum(x.total for x in lays)
        counts.add(laid)
        if modules is None or laid == modules:
            fit.append(lays)
    if not fit:
        return Found(tried, 0, (), "", tuple(sorted(counts)))
    ranked = sorted((measured(f, lays) for lays in fit), key=_order(f, max(_kwh(f, lays) for lays in fit), first))
    best = tuple(_with_figures(_with_reason(x, ranked[0], n, f, first), f) for n, x in enumerate(ranked[:shown]))
    return Found(tried, len(fit), best, "", tuple(sorted(counts)))


def _kwh(f: Finder, lays: tuple[Lay, ...]) -> float:
    return sum(x.total * f.kwh_each[x.face] for x in lays) if f.kwh_each is not None else 0.0


def _with_reason(x: Layout, first: Layout, rank: int, f: Finder, by: str) -> Layout:
    """Why a layout stands where it stands: what it gives up against the first, in words."""
    free = {face.title: f.holds[face.id] - sum(y.total for y in x.lays if y.face == face.id) for face in f.faces}
    spare = [f"{n} free on {title.lower()}" for title, n in free.items() if n]
    said = []
    if rank == 0:
        near = "within 2 % of the most yield, " if x.kwh is not None else ""
        margin = "enough margin" if x.margin_v >= min(f.limit_v.values()) / 20 else f"only {x.margin_v:.0f} V of margin"
        said.append({"yield": f"most modules, {near}{margin}, least wiring", "margin": "most margin", "wiring": "least wiring"}[by])
    else:
        if x.modules < first.modules:
            said.append(f"{first.modules - x.modules} fewer modules")
        elif x.modules > first.modules:
            said.append(f"{x.modules - first.modules} more modules")
        if x.kwh is not None and first.kwh is not None and round(first.kwh - x.kwh) > 0:
            said.append(f"{first.kwh - x.kwh:.0f} kWh less a year")
        elif x.kwh is not None and first.kwh is not None and round(x.kwh - first.kwh) > 0:
            said.append(f"{x.kwh - first.kwh:.0f} kWh more a year")
        if x.margin_v > first.margin_v + 0.5:
            said.append(f"{x.margin_v - first.margin_v:.0f} V more margin")
        elif x.margin_v < first.margin_v - 0.5:
            said.append(f"{first.margin_v - x.margin_v:.0f} V less margin")
        if x.cores > first.cores:
            said.append(f"{x.cores - first.cores} more cores")
        elif x.cores < first.cores:
            said.append(f"{first.cores - x.cores} fewer cores")
        if x.spread < first.spread:
            said.append("better balanced")
        elif x.spread > first.spread:
            said.append("less balanced")
    if any(y.bridge for y in x.lays):
        said.append("needs the maker's bridge")
    if spare:
        said.append(", ".join(spare))
    return Layout(x.lays, x.modules, x.margin_v, x.kwh, x.spread, x.cores, "; ".join(said) or "the same by every measure")


def layout_key(lays: tuple[Lay, ...]) -> str:
    """A layout as one word, for the keys of its figures."""
    return "+".join(f"{x.tracker}-{x.face}-{x.modules}x{x.count}{'b' if x.bridge else ''}" for x in lays)


def _with_figures(x: Layout, f: Finder) -> Layout:
    """A layout whose margin and yield open their working."""
    key = layout_key(x.lays)
    near = min(
        x.lays,
        key=lambda y: f.limit_v[y.tracker, y.face] - (f.optimiser.string_v if f.optimiser else cold_volts(f, y)),
    )
    limit = Figure(
        f"layout.{key}.limit",
        "V_lim",
        f"Never above, {near.tracker}",
        f.limit_v[near.tracker, near.face],
        "V",
        source=f.book.strings.voltage_source,
    )
    reached = f.limit_v[near.tracker, near.face] - x.margin_v
    cold = Figure(
        f"layout.{key}.cold", "V", f"{near.modules} modules of {near.tracker} on the coldest morning", reached, "V", source=limit.source
    )
    margin = Figure(f"layout.{key}.margin", "V_mar", "Margin below the nearest limit", limit - cold, "V", source="arith")
    if f.kwh_each is None or x.kwh is None:
        return replace(x, margin=margin)
    parts = []
    for face in dict.fromkeys(y.face for y in x.lays):
        count = float(sum(y.total for y in x.lays if y.face == face))
        modules = Figure(f"layout.{key}.n.{face}", "n", f"Modules on {face}", count, "", source="arith")
        each = Figure(f"layout.{key}.e.{face}", "e", f"Yield of one module on {face}, AC side", f.kwh_each[face], "kWh", source="sun.chain")
        parts.append(modules * each)
    yearly = Figure(f"layout.{key}.kwh", "E_pv", "PV yield of a year, AC side", total(parts, parts[0]), "kWh", source="sun.chain")
    return replace(x, margin=margin, yearly=yearly)
