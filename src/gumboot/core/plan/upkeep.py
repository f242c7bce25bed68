"""What a job needs beside what was typed: a run for every circuit, a place for every CT, the revision of every card."""

from __future__ import annotations

from gumboot.core.card import Shelf
from gumboot.core.card.model import InverterCard
from gumboot.core.errors import GumbootError
from gumboot.core.job import Job
from gumboot.core.job.model import CtPlace, Run
from gumboot.core.ledger import Ledger
from gumboot.core.plan.topology import circuits


def completed(job: Job, shelf: Shelf, fit_cts: bool = False) -> Job:
    """The job with an empty run for each circuit that has none, and card revisions pinned.

    ``fit_cts`` also gives each CT input of the inverter a CT as its card wants it, where the job has none: when a job begins or
    a CT is chosen, and not when someone has just taken one off. Nothing that was decided is changed: an empty run is a question, and a card that is pinned stays at its revision.
    A job whose cards do not fit each other is given back as it is; deriving it says why.
    """
    changes: dict[str, object] = {}
    try:
        wanted = [c.id for c in circuits(Ledger(job, shelf))]
    except GumbootError:
        return job
    have = {r.id for r in job.runs}
    if missing := [Run(id=cid) for cid in wanted if cid not in have]:
        changes["runs"] = [*job.runs, *missing]
    inverter = shelf[job.equipment.inverter]
    if fit_cts and job.equipment.ct and isinstance(inverter, InverterCard) and not job.sensing.cts and job.site.supply != "none":
        cts = [CtPlace(channel=c.id, leg=c.leg, arrow=inverter.ct_arrow) for c in inverter.ct_channels]
        if cts:
            changes["sensing"] = job.sensing.model_copy(update={"cts": cts})
    pins = {card_id: job.cards.get(card_id, shelf[card_id].revision) for card_id in chosen(job) if card_id in shelf}
    if pins != job.cards:
        changes["cards"] = pins
    return job.model_copy(update=changes) if changes else job


def chosen(job: Job) -> list[str]:
    """Ids of the cards that a job names."""
    return list(dict.fromkeys(card for card in job.equipment.model_dump().values() if card))


def without_battery(job: Job, battery: str) -> Job:
    """A job from whose bank a battery was taken: its run and its place on the wall go with it."""
    placements = [p for p in job.wall.placements if p.id != battery]
    return job.model_copy(
        update={"runs": [r for r in job.runs if r.id != battery], "wall": job.wall.model_copy(update={"placements": placements})}
    )
