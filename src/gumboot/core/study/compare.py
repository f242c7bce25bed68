"""What differs between two designs: decisions, figures, findings, material."""

from __future__ import annotations

from dataclasses import dataclass
from math import isclose

from gumboot.core.figure import Figure
from gumboot.core.finding import Finding
from gumboot.core.plan.derive import Plan
from gumboot.core.study.materials import Item, materials

# Figures that differ by less, relative, are one figure: another order of adding leaves such a hair.
SAME = 1e-9


@dataclass(frozen=True)
class Decision:
    """One decided field with its value in either design; None where a design has no such field."""

    path: str
    before: object
    after: object


@dataclass(frozen=True)
class Moved:
    """A figure whose value or label differs; None where a design has no such figure."""

    key: str
    before: Figure | None
    after: Figure | None


@dataclass(frozen=True)
class Amount:
    """A material line whose quantity differs."""

    item: Item
    before: float
    after: float


@dataclass(frozen=True)
class Differences:
    """Everything that differs, and how many figures stand as they were."""

    decisions: tuple[Decision, ...]
    figures: tuple[Moved, ...]
    same_figures: int
    gone: tuple[Finding, ...]
    come: tuple[Finding, ...]
    material: tuple[Amount, ...]


def flat(node: object, path: str = "") -> dict[str, object]:
    """A document as path and value; list items by their id or channel where they have one, else by place."""
    if isinstance(node, dict):
        rows: dict[str, object] = {}
        for key, value in node.items():
            rows |= flat(value, f"{path}.{key}" if path else str(key))
        return rows
    if isinstance(node, list) and node and all(isinstance(x, dict) for x in node):
        rows = {}
        for n, item in enumerate(node):
            rows |= flat(item, f"{path}.{item.get('id') or item.get('channel') or n + 1}")
        return rows
    return {path: node}


def changed_fields(before: object, after: object) -> tuple[Decision, ...]:
    """Fields of two documents that differ, in the first one's order, then the second one's own."""
    a, b = flat(before), flat(after)
    skipped = ("id", "format")
    return tuple(Decision(k, a.get(k), b.get(k)) for k in dict.fromkeys((*a, *b)) if a.get(k) != b.get(k) and k not in skipped)


def compare(before: Plan, after: Plan) -> Differences:
    """The differences from one plan to another. Swapping the two swaps every pair."""
    decisions = changed_fields(before.job.model_dump(mode="json"), after.job.model_dump(mode="json"))
    moved, same = [], 0
    for key in dict.fromkeys((*before.figures, *after.figures)):
        a, b = before.figures.get(key), after.figures.get(key)
        if a is not None and b is not None and a.label == b.label and isclose(a.value, b.value, rel_tol=SAME):
            same += 1
        elif not (a or b) or not (a or b).is_input:  # type: ignore[union-attr]
            moved.append(Moved(key, a, b))
    old, new = {f.key: f for f in before.findings}, {f.key: f for f in after.findings}
    gone = tuple(f for k, f in old.items() if k not in new)
    come = tuple(f for k, f in new.items() if k not in old)
    return Differences(decisions, tuple(moved), same, gone, come, _material(before, after))


def _material(before: Plan, after: Plan) -> tuple[Amount, ...]:
    def totals(plan: Plan) -> dict[tuple[str, str], tuple[Item, float]]:
        rows: dict[tuple[str, str], tuple[Item, float]] = {}
        for item in materials(plan).items:
            key = (item.group, item.item)
            rows[key] = (item, rows[key][1] + item.quantity if key in rows else item.quantity)
        return rows

    a, b = totals(before), totals(after)
    found = []
    for key in dict.fromkeys((*a, *b)):
        item = (b.get(key) or a[key])[0]
        was, now = a[key][1] if key in a else 0.0, b[key][1] if key in b else 0.0
        if abs(was - now) > 1e-9:
            found.append(Amount(item, was, now))
    return tuple(found)
