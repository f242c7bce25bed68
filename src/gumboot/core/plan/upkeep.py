"""What a job needs beside what was typed: a run for every circuit, a place for every CT, the revision of every card."""

from __future__ import annotations

from gumboot.core.card import Shelf
from gumboot.core.card.inverter import InverterCard
from gumboot.core.errors import GumbootError
from gumboot.core.installation import House
from gumboot.core.job import Job
from gumboot.core.job.model import CtPlace, Meter, Run
from gumboot.core.seating import seats_of


def completed(job: Job, shelf: Shelf, fit_cts: bool = False) -> Job:
    """The job with an empty run for each circuit that has none, and card revisions pinned.

    ``fit_cts`` also gives each CT input of the inverter a CT as its card wants it, where the job has none: when a job begins or
    a CT is chosen, and not when someone has just taken one off. Nothing that was decided is changed: an empty run is a question, and a card that is pinned stays at its revision.
    A job whose cards do not fit each other is given back as it is; deriving it says why.
    """
    changes: dict[str, object] = {}
    try:
        wanted = [c.id for c in House(job, seats_of(job, shelf)).circuits]
    except GumbootError:
        return job
    have = {r.id for r in job.runs}
    if missing := [Run(id=cid) for cid in wanted if cid not in have]:
        changes["runs"] = [*job.runs, *missing]
    if fit_cts and job.site.supply != "none":
        meters = [_with_cts(meter, job, shelf) for meter in job.sensing.meters]
        if meters != job.sensing.meters:
            changes["sensing"] = job.sensing.model_copy(update={"meters": meters})
    pins = {card_id: job.cards.get(card_id, shelf[card_id].revision) for card_id in chosen(job) if card_id in shelf}
    if pins != job.cards:
        changes["cards"] = pins
    return job.model_copy(update=changes) if changes else job


def chooses_cts(job: Job, path: str) -> bool:
    """Whether a field is the card of a meter or of an inverter: choosing it lays out the CTs."""
    return path in {f"sensing.meters.{m.id}.card" for m in job.sensing.meters} | {
        f"things.{t.id}.card" for t in job.things if t.seat == "inverter"
    }


def _with_cts(meter: Meter, job: Job, shelf: Shelf) -> Meter:
    """The meter with a CT for each input of its inverter, where it has none."""
    inverter = next((shelf[t.card] for t in job.things if t.id == meter.inverter), None)
    if not meter.card or meter.cts or not isinstance(inverter, InverterCard):
        return meter
    return meter.model_copy(update={"cts": [CtPlace(channel=c.id, leg=c.leg, arrow=inverter.ct_arrow) for c in inverter.ct_channels]})


def chosen(job: Job) -> list[str]:
    """Ids of the cards that a job names."""
    named = [t.card for t in job.things] + [b.card for b in job.banks]
    named += [f.module for f in job.faces if f.module] + [m.card for m in job.sensing.meters if m.card]
    named += [d.card for d in job.modbus.devices if d.card]
    return list(dict.fromkeys(named + [card for card in job.equipment.model_dump().values() if card]))


def without_battery(job: Job, battery: str) -> Job:
    """A job from whose bank a battery was taken: its run and its place on the wall go with it."""
    walls = [w.model_copy(update={"placements": [p for p in w.placements if p.id != battery]}) for w in job.walls]
    return job.model_copy(update={"runs": [r for r in job.runs if r.id != battery], "walls": walls})
