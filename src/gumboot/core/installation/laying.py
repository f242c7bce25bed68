"""What lies together: a raceway is a thing that contains runs, whichever of them says so."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from gumboot.core.job.runs import Run


class Raceway(NamedTuple):
    """Runs that lie in one raceway, in the job's order. ``said_by`` are those that name its kind; the others lie in it.

    ``length_mm`` is the longest that is said of it, None while one of those that name it says none.
    """

    runs: tuple[str, ...]
    said_by: tuple[str, ...]
    kind: str = ""
    length_mm: float | None = None


def raceways_of(runs: Sequence[Run]) -> tuple[Raceway, ...]:
    """The raceways of a job. A run that another names lies in that one's raceway, and so does all that lies with either."""
    lies_in: dict[str, set[str]] = {}
    if not [run for run in runs if run.shares_with]:
        return tuple([_raceway([run]) for run in runs if run.raceway])
    for run in runs:
        if run.raceway or run.shares_with:
            together = {run.id, *run.shares_with}.union(*(lies_in.get(name, ()) for name in (run.id, *run.shares_with)))
            for name in together:
                lies_in[name] = together
    there = {run.id: run for run in runs}
    found = dict.fromkeys(tuple(name for name in there if name in lies_in[run]) for run in there if run in lies_in)
    return tuple(_raceway([there[name] for name in inside]) for inside in found)


def _raceway(inside: Sequence[Run]) -> Raceway:
    naming = [run for run in inside if run.raceway]
    lengths = [run.raceway_mm for run in naming if run.raceway_mm is not None]
    longest = max(lengths) if naming and len(lengths) == len(naming) else None
    kind = (naming[0].raceway or "") if naming else ""
    return Raceway(tuple([run.id for run in inside]), tuple([run.id for run in naming]), kind, longest)
