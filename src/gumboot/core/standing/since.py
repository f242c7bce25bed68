"""What has happened on a site that ends the truth of what was seen before: a switch moved, an end landed anew, steps taken back, firmware."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime

from gumboot.core.acts import Acts
from gumboot.core.acts.leads import lead_made, lead_run
from gumboot.core.plan.derive import Plan
from gumboot.core.record import AnyRecord, Done, Words
from gumboot.core.values import Values


class Since(Values):
    """When it happened last.

    ``moved`` is when a switch was moved, ``landed`` when an end of each circuit was landed (its earth apart) or a lead made, called as ``run_of`` does,
    ``undone`` when each act was taken back by switching off, ``updated`` when firmware was found to be another than before.
    """

    moved: datetime | None = None
    landed: Mapping[str, datetime]
    undone: Mapping[str, datetime]
    updated: datetime | None = None


def _moved(acts: Acts, records: Sequence[AnyRecord]) -> datetime | None:
    """When a switch was moved last: by a step, or by switching off."""
    return max((r.at for r in records if isinstance(r, Done) and (act := acts.get(r.act)) and (act.moves or act.undoes)), default=None)


def _undone(acts: Acts, records: Sequence[AnyRecord]) -> dict[str, datetime]:
    """When each step was taken back last, by switching off or opening again."""
    found: dict[str, datetime] = {}
    for record in records:
        act = acts.get(record.act)
        for name in act.undoes if act is not None and isinstance(record, Done) else ():
            found[name] = max(record.at, found.get(name, record.at))
    return found


def _updated(records: Sequence[AnyRecord]) -> datetime | None:
    """When the firmware of anything was found to be another than before."""
    known, found = dict[str, str](), None
    for record in records:
        if isinstance(record, Words) and record.act.startswith("firmware:"):
            if known.get(record.act, record.text) != record.text:
                found = record.at
            known[record.act] = record.text
    return found


def _landed(plan: Plan, last: Mapping[str, AnyRecord]) -> dict[str, datetime]:
    """When an end of each circuit was landed last, its earth apart."""
    found: dict[str, datetime] = {}
    for act, run in run_of(plan).items():
        record = last.get(act)
        if record is not None:
            found[run] = max(record.at, found.get(run, record.at))
    return found


def run_of(plan: Plan) -> dict[str, str]:
    """By act of landing or of making a lead: the circuit that is landed there, the earth of one, or the lead."""
    landed = {f"torque:{t.id}": f"earth of {t.circuit}" if t.role == "earth" else t.circuit for t in plan.terminations}
    return landed | {lead_made(lead): lead_run(lead) for lead in plan.leads.leads}


def since_of(plan: Plan, acts: Acts, counting: Sequence[AnyRecord], every: Sequence[AnyRecord], last: Mapping[str, AnyRecord]) -> Since:
    """What has happened, by the records that count; of firmware by every record in the order in which it was done."""
    return Since(moved=_moved(acts, counting), landed=_landed(plan, last), undone=_undone(acts, counting), updated=_updated(every))
