"""What the answers of an act must be for it to be good, as data: what a phone without signal judges by until the server decides."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from gumboot.core.acts import YES_OR_NO, Act, Band, Kind, tick_of
from gumboot.core.as_left import SAME
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.prove import Check
from gumboot.core.rules.landings import HAIR_NM
from gumboot.core.rules.readings import APART_S, Measures
from gumboot.core.values import Values


class Term(Values):
    """What must be true of one answer, or of how far two stand apart.

    ``inputs`` are the answers by the names that an act asks them under. ``equals`` are the words that are right; ``low`` and ``high`` bound
    a number in ``unit``, read as ``measures`` says; ``tools`` are those that may be used, each with the last day of its calibration.
    ``is_optional``: no answer is right too. ``is_doubtful``: another answer may be right as well, which only the server can tell.
    """

    inputs: tuple[str, ...]
    equals: tuple[str, ...] = ()
    low: float | None = None
    high: float | None = None
    unit: str = ""
    measures: Measures = "never negative"
    tools: Mapping[str, str] | None = None
    is_optional: bool = False
    is_doubtful: bool = False


Terms = tuple[Term, ...] | None


class _Of(Values):
    plan: Plan
    act: Act

    @property
    def check(self) -> Check | None:
        return next((c for c in self.plan.all_checks() if c.id == self.act.name), None)


def _tools(plan: Plan, *, is_optional: bool) -> Term:
    kind = "meter" if is_optional else "torque tool"
    held = {tool.id: tool.calibrated_to for tool in plan.job.tools if tool.kind == kind}
    return Term(inputs=("tool",), tools=held, is_optional=is_optional)


def _landing(of: _Of) -> Terms:
    term, band = of.plan.termination(of.act.name), of.act.band
    if term is None or term.tightened_by == "unknown":
        return None
    found = [Term(inputs=("tug",), equals=("held",))]
    if term.tightened_by == "spring":
        found.append(Term(inputs=("pressed",), equals=("yes",)))
    return (*found, *_torqued(of.plan, band))


def _torqued(plan: Plan, band: Band) -> tuple[Term, ...]:
    """A torque within its band, by a tool that holds; nothing where no torque is asked for."""
    if band.low is None or band.high is None:
        return ()
    reached = Term(inputs=("reached",), low=band.low.value - HAIR_NM, high=band.high.value + HAIR_NM, unit="N m")
    return (reached, _tools(plan, is_optional=False))


def _joint(of: _Of) -> Terms:
    return _torqued(of.plan, of.act.band)


def _drilled(_: _Of) -> Terms:
    # As marked is right beyond doubt; what else the wall bears, the server tells.
    return tuple(
        Term(inputs=(name,), low=0.0, high=0.0, unit="mm", measures="signed", is_optional=True, is_doubtful=True)
        for name in ("right", "up")
    )


def _reading(of: _Of) -> Terms:
    check = of.check
    # A bare number of degrees is read by the units of the page.
    if check is None or check.unit == "°C":
        return None
    low, high = (None if end is None else end.value for end in (check.low, check.high))
    value = Term(inputs=("value",), low=low, high=high, unit=check.unit, measures=check.measures)
    if check.cell is None:
        return (value, _tools(of.plan, is_optional=True))
    # The band stands for the cells as the page says they are.
    cell = Term(inputs=("cell_c",), equals=(f"{check.cell.value:g}",), is_doubtful=True)
    return (cell, value, _tools(of.plan, is_optional=True))


def _displays(of: _Of) -> Terms:
    check = of.check
    if check is None or check.high is None:
        return None
    # A display that shows nothing has no link, whatever the other shows.
    each = [Term(inputs=(name,), low=1e-9, unit=check.unit) for name in ("value", "second")]
    apart = Term(inputs=("value_ms", "second_ms"), high=APART_S * 1000, is_optional=True)
    return (*each, Term(inputs=("value", "second"), high=check.high.value, unit=check.unit), apart)


def _setting(of: _Of) -> Terms:
    row = next(row for row in of.plan.settings.sheet if row.key == of.act.name)
    if row.figure is None:
        return (Term(inputs=("value",), equals=(row.text,), is_doubtful=True),)
    # Only the very value is right beyond doubt; how far a device may round it, the server knows.
    value, hair = row.figure.value, SAME * max(1.0, abs(row.figure.value))
    return (Term(inputs=("value",), low=value - hair, high=value + hair, unit=row.figure.unit, measures="signed", is_doubtful=True),)


def _read_back(of: _Of) -> Terms:
    return tuple(Term(inputs=(name,), low=number, high=number) for name, number in of.act.band.wants.items())


def _rung(of: _Of) -> Terms:
    lead = of.plan.leads.of(of.act.name)
    return tuple(Term(inputs=(f"pin-{wire.first}",), equals=(str(wire.second),)) for wire in lead.wires) if lead is not None else None


def _answer(_: _Of) -> Terms:
    return (Term(inputs=("answer",), equals=("yes",)),)


def _firmware(of: _Of) -> Terms:
    return None if of.act.band.words else ()


def _packed(of: _Of) -> Terms:
    return tuple(Term(inputs=(tick_of(line),), equals=("yes",)) for line in of.act.band.lines)


def _by_server(_: _Of) -> Terms:
    return None


_TERMS: Mapping[Kind, Callable[[_Of], Terms]] = {
    Kind.TORQUE: _landing,
    Kind.MEASUREMENT: _reading,
    Kind.DISPLAYS: _displays,
    **dict.fromkeys(YES_OR_NO, _answer),
    Kind.HOLE: _drilled,
    Kind.FIXED: _joint,
    Kind.JOINT: _joint,
    Kind.READ_BACK: _read_back,
    Kind.RING: _rung,
    Kind.SETTING: _setting,
    Kind.FIRMWARE: _firmware,
    Kind.METER: _by_server,
    Kind.PACK: _packed,
    Kind.SIGN_OFF: _by_server,
}


def terms_of(plan: Plan, act: Act) -> Terms:
    """What its answers must be for an act to be good; none where doing it is enough, None where only the server can tell."""
    made = _TERMS.get(act.kind)
    return made(_Of(plan=plan, act=act)) if made is not None else ()
