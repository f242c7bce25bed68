"""A crew that records: for any act a record as somebody makes it on site, good or bad."""

from __future__ import annotations

import uuid
from datetime import datetime
from typing import Any

from gumboot.core.acts import Act, Kind
from gumboot.core.plan.derive import Plan
from gumboot.core.record import AnyRecord, parse_record
from gumboot.core.recording import Person, inputs_of
from gumboot.core.standing import Standing

IVO = Person("ivo", "Ivo Installer", "installer")
LENA = Person("lena", "Lena Licence", "licence holder")
TOOL = {"id": "TW-2", "title": "Wrench", "calibrated_to": "2027-03-31"}
LOADS = {"L1": 1500.0, "L2": 600.0, "L3": 1000.0}


def said(act: str, at: datetime, who: Person = IVO) -> dict[str, Any]:
    """What every record says."""
    return {"id": str(uuid.uuid4()), "act": act, "done_at": at, "by": who.display, "doer": who.name, "role": who.role, "revision": 1}


# What is answered yes or no.
YES_NO = (
    Kind.LOOK,
    Kind.COVER,
    Kind.LABEL,
    Kind.RECHECK,
    Kind.INSIDE,
    Kind.UNPACK,
    Kind.FIND,
    Kind.BOARD,
    Kind.MARKED,
    Kind.BRIDGE,
    Kind.FERRITE,
    Kind.BRIDGED,
    Kind.ENTRIES,
)


def _value(act: Act, *, bad: bool) -> float:
    band = act.band
    if bad:
        return band.high.value + 9000 if band.high is not None else band.low.value / 4 if band.low is not None else 0.0
    if band.low is not None and band.high is not None:
        return (band.low.value + band.high.value) / 2
    figure = band.expected or band.high or band.low
    return figure.value if figure is not None else 1.0


def _meter(plan: Plan, act: Act, *, bad: bool) -> dict[str, Any]:
    tested = next(s for s in plan.sensing.sets if s.test == act.name)
    legs = {ct.place.channel: ct.wanted_leg for ct in tested.cts}
    runs = [
        {
            "loads": {leg: LOADS[leg]},
            "after": {channel: 310.0 + (LOADS[leg] * (-1 if bad else 1) if own == leg else 0) for channel, own in legs.items()},
        }
        for leg in tested.legs
    ]
    return {"kind": "meter", "before": dict.fromkeys(legs, 310.0), "runs": runs}


def _heard(plan: Plan, act: Act, *, bad: bool) -> dict[str, int]:
    """Where each core of a lead beeps; of a bad one the first beeps nowhere."""
    lead = plan.leads.of(act.name)
    assert lead is not None
    heard = {str(wire.first): wire.second for wire in lead.wires}
    return heard | ({str(lead.wires[0].first): 0} if bad else {})


def record_of(plan: Plan, standing: Standing, act: Act, at: datetime, *, bad: bool = False) -> AnyRecord:
    """A record of an act by who may make it; a bad one says that it is not as it should be."""
    who = IVO if "installer" in act.who else LENA
    more: dict[str, Any]
    match act.kind:
        case Kind.TORQUE:
            torque = act.band.expected.value if act.band.expected else None
            term = plan.termination(act.name)
            more = {
                "kind": "landing",
                "reached_nm": torque and (torque * 0.7 if bad else torque),
                "tool": TOOL,
                "tug": not bad,
                "pressed": True,
            }
            more["size"] = term.size if term else ""
        case Kind.MEASUREMENT:
            cell = next((c.cell for c in plan.all_checks() if f"check:{c.id}" == act.id), None)
            more = {"kind": "reading", "value": _value(act, bad=bad), "unit": act.band.unit, "cell_c": cell and cell.value}
        case Kind.DISPLAYS:
            more = {"kind": "reading", "value": 30.0 if bad else 0.0, "shown": [71.0, 41.0] if bad else [41.0, 41.0], "unit": act.band.unit}
        case Kind.JOINT | Kind.FIXED:
            torque = act.band.expected.value if act.band.expected else 0.0
            more = {"kind": "landing", "reached_nm": torque * (0.7 if bad else 1), "tool": TOOL}
        case Kind.READ_BACK:
            more = {"kind": "read-back", "shown": {name: number + bad for name, number in act.band.wants.items()}}
        case Kind.RING:
            more = {"kind": "rung", "heard": _heard(plan, act, bad=bad)}
        case Kind.PACK:
            more = {"kind": "packed", "packed": act.band.lines[bad:]}
        case Kind.HOLE if not bad:
            more = {"kind": "drilled", "right_mm": 0.0, "up_mm": 0.0}
        case kind if kind in YES_NO:
            more = {"kind": "answer", "yes": not bad}
        case Kind.SERIAL | Kind.FIRMWARE:
            more = {"kind": "words", "text": act.band.words or f"SN {act.name}"}
        case Kind.SETTING:
            row = next(r for r in plan.settings.sheet if r.key == act.name)
            more = {"kind": "left", "as_left": "77.7" if bad else f"{row.figure.value:g}" if row.figure else row.text}
        case Kind.METER:
            more = _meter(plan, act, bad=bad)
        case Kind.CLEARANCE:
            more = {"kind": "clearance", "reason": "looked at it again together"}
        case Kind.SIGN_OFF:
            more = {"kind": "sign-off", "licence": "L-123"}
        case Kind.PHOTO:
            more = {"kind": "photo", "photo": "0" * 64}
        case _:
            more = {"kind": "could-not", "what": "no tool"} if bad else {"kind": "done"}
    return parse_record({**said(act.id, at, who), **more})


def person_of(record: AnyRecord) -> Person:
    """Who made it."""
    return IVO if record.doer == "ivo" else LENA


def typed_of(plan: Plan, standing: Standing, act: Act, *, bad: bool = False) -> dict[str, str]:
    """What somebody types and taps for an act: its declared answers, as they should be or not."""
    typed = {i.name: i.stands or (i.choices[bad and len(i.choices) > 1] if i.choices else "") for i in inputs_of(plan, standing, act)}
    for asked in ("value", "second"):
        if asked in typed:
            typed[asked] = f"{_value(act, bad=bad):.9g}"
    if "value_ms" in typed:
        typed |= {"value_ms": "1790000000000", "second_ms": f"{1790000090000 + bad * 60000}"}
    match act.kind:
        case Kind.TORQUE | Kind.JOINT | Kind.FIXED if act.band.expected is not None:
            tool = next(t.id for t in plan.job.tools if t.kind == "torque tool")
            typed |= {"reached": f"{act.band.expected.value * (0.7 if bad else 1):.9g}", "unit": "N m", "tool": tool}
        case Kind.HOLE if bad:
            typed = {}
        case Kind.PACK:
            typed = dict.fromkeys(list(typed)[bad:], "yes")
        case Kind.DISPLAYS:
            typed |= {"value": "71" if bad else "41", "second": "41"}
        case Kind.MEASUREMENT:
            typed["tool"] = ""
        case Kind.SETTING:
            row = next(r for r in plan.settings.sheet if r.key == act.name)
            typed["value"] = "77.7" if bad else f"{row.figure.value:.9g}" if row.figure else row.text
        case Kind.METER:
            typed = {i.name: i.stands or "300" for i in inputs_of(plan, standing, act)}
        case Kind.READ_BACK:
            typed = {name: str(number + bad) for name, number in act.band.wants.items()}
        case Kind.RING:
            typed = {f"pin-{pin}": str(heard or "none") for pin, heard in _heard(plan, act, bad=bad).items()}
        case Kind.CLEARANCE:
            typed["reason"] = "looked at it again together"
        case Kind.SERIAL | Kind.FIRMWARE:
            typed["text"] = act.band.words or f"SN {act.name}"
        case _:
            pass
    if bad and not typed:
        typed = {"could_not": "no tool"}
    return typed
