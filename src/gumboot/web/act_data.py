"""The acts of a house as data: each with what it asks, what its answers must be, its gate, and what has ended what was seen before."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from gumboot.core.acts import Act, Gates, Stands
from gumboot.core.plan.derive import Plan
from gumboot.core.record import AnyRecord, Reading
from gumboot.core.recording import Input, Term, inputs_of, terms_of
from gumboot.core.standing import Standing, run_of


def _told(**named: Any) -> dict[str, Any]:
    """What says something: what is empty is left out."""
    return {name: value for name, value in named.items() if value not in ("", None, False, (), [], {})}


def _time(at: datetime | None) -> str | None:
    return at.isoformat() if at is not None else None


def _band(act: Act) -> dict[str, Any]:
    band = act.band
    ends = {
        name: figure.value for name, figure in (("low", band.low), ("high", band.high), ("expected", band.expected)) if figure is not None
    }
    more = {"measures": band.measures, "shows": list(band.shows), "words": band.words, "choices": list(band.choices)}
    return {"unit": band.unit, **ends, **_told(**more)}


def _input(asked: Input) -> dict[str, Any]:
    more = {
        "unit": asked.unit,
        "units": list(asked.units),
        "choices": list(asked.choices),
        "says": list(asked.says),
        "stands": asked.stands,
        "hint": asked.hint,
    }
    return {
        "name": asked.name,
        "words": asked.words,
        "takes": asked.takes,
        "required": asked.required,
        "group": asked.group,
        **_told(**more),
    }


def _term(term: Term) -> dict[str, Any]:
    ends = {name: end for name, end in (("low", term.low), ("high", term.high)) if end is not None}
    more = _told(equals=list(term.equals), unit=term.unit, is_optional=term.is_optional, is_doubtful=term.is_doubtful)
    tools = {} if term.tools is None else {"tools": dict(term.tools)}
    return {"inputs": list(term.inputs), "measures": term.measures, **ends, **more, **tools}


def act_data(act: Act, stands: Stands, gates: Gates, asks: Sequence[Input]) -> dict[str, Any]:
    """One act with what it asks for and its gate as it is now: what it needs, and which of that holds it."""
    return {
        "id": act.id,
        "kind": act.kind,
        "station": act.station,
        "title": act.title,
        "thing": act.thing,
        "prepare": act.prepare,
        "see": act.see,
        "caution": act.caution,
        "band": _band(act),
        "inputs": [_input(asked) for asked in asks],
        "guards": act.guards,
        "who": list(act.who),
        "needs": list(act.needs),
        "heeds": list(act.heeds),
        "lasts": {
            "hours": act.lasts.hours,
            "moves": act.lasts.moves,
            "landed": list(act.lasts.landed),
            "rests": act.lasts.rests,
            "firmware": act.lasts.firmware,
            "below": act.lasts.below.value if act.lasts.below is not None else None,
        },
        "hours_after": act.hours_after,
        "moves": list(act.moves),
        "undoes": list(act.undoes),
        "makes_safe": act.makes_safe,
        "is_derived": act.is_derived,
        "is_optional": act.is_optional,
        "state": stands.state,
        "why": stands.why,
        "held_by": [trouble.act.id for trouble in gates.held_by(act.id)],
    }


def _record(record: AnyRecord | None) -> dict[str, Any]:
    """When the record that stands was made, and what it read."""
    if record is None:
        return {}
    read = {"value": record.value} if isinstance(record, Reading) else {}
    return {"done_at": _time(record.done_at), **read}


def carried(plan: Plan, standing: Standing) -> dict[str, Any]:
    """Everything that a phone takes along to tell by itself what may be done, until the server decides."""
    runs, found = run_of(plan), []
    for act in standing.acts.values():
        terms = terms_of(plan, act)
        found.append(
            {
                **act_data(act, standing.stands[act.id], standing.gates, inputs_of(plan, standing, act)),
                "run": runs.get(act.id, ""),
                "terms": None if terms is None else [_term(term) for term in terms],
                "last": _record(standing.last.get(act.id)),
            }
        )
    since = standing.since
    times = {
        "moved": _time(since.moved),
        "landed": {run: _time(at) for run, at in since.landed.items()},
        "undone": {act: _time(at) for act, at in since.undone.items()},
        "updated": _time(since.updated),
    }
    return {"acts": found, "since": times}
