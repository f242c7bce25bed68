"""What would change a figure: each decision it rests on moved a step, what it feeds, and how far it is from its limit."""

from __future__ import annotations

from dataclasses import dataclass

from pydantic import ValidationError

from gumboot.core.errors import GumbootError
from gumboot.core.figure import Figure
from gumboot.core.finding import Finding
from gumboot.core.job import BadPath, Job, read_path, write_path
from gumboot.core.plan.derive import Plan, derive

MOST_DECISIONS = 6


@dataclass(frozen=True)
class Effect:
    """A decision moved to another value, and what the figure becomes; None where it is then no longer worked out."""

    decision: Figure
    to: float
    becomes: Figure | None
    newly: tuple[Finding, ...]


@dataclass(frozen=True)
class Sensitivity:
    """Effects by decision, figures that rest on this one, and the findings that judge it."""

    effects: tuple[Effect, ...]
    feeds: tuple[Figure, ...]
    judged_by: tuple[Finding, ...]


def _steps(value: float, whole: bool) -> tuple[float, float]:
    if whole:
        return value - 1, value + 1
    step = abs(value) * 0.1 if abs(value) >= 1e-9 else 1.0
    return round(value - step, 6), round(value + step, 6)


def _with(document: dict[str, object], path: str, value: float, whole: bool) -> Job:
    return Job.model_validate(write_path(document, path, int(value) if whole else value))


def sensitivity(plan: Plan, key: str, decisions: int = MOST_DECISIONS) -> Sensitivity:
    """Move each decision behind a figure one step down and up (a whole one by one, else by a tenth) and plan again.

    A step that the job refuses, or that no plan can be derived from, is left out. Raises KeyError for an unknown figure.
    """
    figure = plan.figures[key]
    own = [figure] if figure.source.startswith("input:") else figure.decisions()
    document = plan.job.model_dump(mode="json")
    known = {f.key for f in plan.findings}
    effects: list[Effect] = []
    seen: set[str] = set()
    for decision in own:
        path = decision.source.removeprefix("input:")
        if path in seen or len(seen) >= decisions:
            continue
        try:
            present = read_path(document, path)
        except BadPath:
            continue
        if isinstance(present, bool) or not isinstance(present, int | float):
            continue
        seen.add(path)
        whole = isinstance(present, int)
        for value in _steps(float(present), whole):
            try:
                other = derive(_with(document, path, value, whole), plan.shelf, plan)
            except (ValidationError, GumbootError):
                continue
            newly = tuple(f for f in other.findings if f.key not in known and f.level != "note")
            effects.append(Effect(decision, value, other.figures.get(key), newly))
    feeds = tuple(f for f in plan.figures.values() if any(g.key == key for g in f.given))
    judged = tuple(f for f in plan.findings if (f.found and f.found.key == key) or (f.limit and f.limit.key == key))
    return Sensitivity(tuple(effects), feeds, judged)
