"""What an act asks of who does it: the answers that make its record, so that every page and phone asks the same ones."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Literal

from gumboot.core.acts import YES_OR_NO, Act, Kind, tick_of
from gumboot.core.plan.derive import Plan
from gumboot.core.record import Left
from gumboot.core.sim.ringing import NONE, PLUG, SCREEN, SEVERAL
from gumboot.core.standing import Standing, unpacked
from gumboot.core.values import Values

TORQUE_UNITS = ("N m", "lbf in", "lbf ft")
LENGTH_UNITS = ("mm", "in")
COULD_NOT_WORDS = ("could not be done", "snug only", "no tool")
# A number with its unit, words, one of several, a tick, a tool or meter of the job, what the page showed and sends back, or the moment, ms by
# the device's clock, in which the answer that its name begins with was typed.
Takes = Literal["quantity", "text", "choice", "tick", "tool", "seen", "moment"]


class Input(Values):
    """One answer that an act asks for.

    ``name`` is what it is sent as, ``words`` its question, ``unit`` what a number is in, ``units`` those among which one chooses (sent as
    ``unit``), ``choices`` the answers to choose from, ``says`` how they are put where a bare yes would not do, for a tool its kinds. ``sends``
    is a choice that is the record: choosing it sends.
    ``stands`` is what stands there before anything is typed, ``group`` the part of the form in which it is asked; ``is_open``: of its
    choices none is chosen before somebody chooses.
    """

    name: str
    words: str
    takes: Takes = "text"
    unit: str = ""
    units: tuple[str, ...] = ()
    choices: tuple[str, ...] = ()
    says: tuple[str, ...] = ()
    required: bool = True
    sends: bool = False
    stands: str = ""
    hint: str = ""
    group: str = ""
    is_open: bool = False


# The first screen of a meter test.
AS_FOUND = "Everything as found"
# What is asked of every screw with a torque.
TORQUED = (
    Input(name="reached", words="reached", takes="quantity", unit="N m", units=TORQUE_UNITS),
    Input(name="tool", words="tool", takes="tool", choices=("torque tool",)),
)


class _Of(Values):
    """The act that asks, the plan and the standing it is asked under."""

    plan: Plan
    standing: Standing
    act: Act


Asks = tuple[Input, ...]


def _torque(of: _Of) -> Asks:
    term = of.plan.termination(of.act.name)
    if term is None or term.tightened_by == "unknown":
        return ()
    found = [
        Input(name="tug", words="tug test", takes="choice", choices=("held", "moved")),
        Input(name="note", words="note", required=False),
    ]
    if term.tightened_by == "spring":
        found.insert(1, Input(name="pressed", words="pressed home again after the tug", takes="choice", choices=("yes", "no")))
    if of.act.band.expected is not None:
        found[:0] = TORQUED
    return tuple(found)


def _joint(_: _Of) -> Asks:
    return TORQUED


def _drilled(_: _Of) -> Asks:
    return (
        Input(name="right", words="right of its mark", takes="quantity", unit="mm", units=LENGTH_UNITS, stands="0"),
        Input(name="up", words="above its mark", takes="quantity", unit="mm", units=LENGTH_UNITS, stands="0"),
    )


def _reading(of: _Of) -> Asks:
    check = next(c for c in of.plan.all_checks() if c.id == of.act.name)
    value = Input(name="value", words=f"Reading for {of.act.title}", takes="quantity", unit=check.unit)
    meter = Input(name="tool", words=f"Instrument for {of.act.title}", takes="tool", choices=("meter",), required=False)
    cell = () if check.cell is None else (Input(name="cell_c", words="Cell temperature", takes="seen", stands=f"{check.cell.value:g}"),)
    return (*cell, value, meter)


def _displays(of: _Of) -> Asks:
    pairs = tuple(zip(("value", "second"), of.act.band.shows, strict=True))
    shown = (Input(name=name, words=words, takes="quantity", unit=of.act.band.unit) for name, words in pairs)
    return (*shown, *(Input(name=f"{name}_ms", words=f"{words} at", takes="moment", required=False) for name, words in pairs))


def _answer(of: _Of) -> Asks:
    return (Input(name="answer", words=of.act.title, takes="choice", choices=("yes", "no"), sends=True),)


def _mark(of: _Of) -> Asks:
    of_lug = of.plan.termination(of.act.name) is not None
    return tuple(asked.but(says=("Mark unmoved", "It has moved") if of_lug else ()) for asked in _answer(of))


def _read_back(of: _Of) -> Asks:
    return tuple(Input(name=name, words=f"{name} shown", takes="quantity") for name in of.act.band.wants)


# What may be heard beside the beep of a pin.
HEARD = {"none": NONE, "screen": SCREEN, "several": SEVERAL}


def _rung(of: _Of) -> Asks:
    """Of every core: the pin of the other plug that beeps, which may be any that it has."""
    lead = of.plan.leads.of(of.act.name)
    if lead is None:
        return ()
    known = {pin.pin for pin in lead.ends[1].pins}
    pins = sorted(known | set(range(1, PLUG + 1))) if lead.ends[1].plug == "eight-way plug" else sorted(known)
    places = (*(str(pin) for pin in pins), "none", *(("screen",) if lead.has_screen else ()), "several")
    return tuple(
        Input(
            name=f"pin-{wire.first}",
            words=f"pin {wire.first}, {wire.colour} ({wire.signal}), beeps at",
            takes="choice",
            choices=places,
            is_open=True,
        )
        for wire in lead.wires
    )


def _words(of: _Of) -> Asks:
    return (Input(name="text", words=of.act.title),)


def _setting(of: _Of) -> Asks:
    left = of.standing.settings[of.act.name]
    value = Input(name="value", words=f"{of.act.title} as left")
    if left.record is None or left.same or not isinstance(left.record, Left):
        return (value,)
    return (value, Input(name="reason", words=f"Why {of.act.title} differs", required=False, hint="why it differs"))


def _meter(of: _Of) -> Asks:
    own = next(each for each in of.plan.sensing.sets if each.test == of.act.name)
    verdict = of.standing.meters.get(of.act.name)
    again = verdict.concerns if verdict is not None else ()

    def shown(when: str, group: str) -> list[Input]:
        names = [ct.place.channel for ct in own.cts]
        return [
            Input(
                name=f"{when}-{name}{own.mark}", words=f"{name} shows", takes="quantity", unit="W", group=group, required=not again or name in again
            )
            for name in names
        ]  # fmt: skip

    found = shown("before", AS_FOUND)
    for leg in own.legs:
        group, planned = f"Load on {leg} on, alone", getattr(of.plan.job.sensing, f"test_{leg.lower()}_w")
        load = Input(
            name=f"load-{leg.lower()}{own.mark}", words=f"load on {leg}", takes="quantity", unit="W", stands=f"{planned:g}", group=group
        )
        found += [load, *shown(leg.lower(), group)]
    if again and len(again) < len(own.cts):
        found.append(Input(name="all", words="another core was touched: test all", takes="tick", choices=("yes",), required=False))
    return tuple(found)


def _packed(of: _Of) -> Asks:
    left = unpacked(of.act, of.standing.last.get(of.act.id))
    return tuple(
        Input(
            name=tick_of(line), words=line, takes="tick", choices=("yes",), required=False, stands="" if line in left else "yes"
        )
        for line in of.act.band.lines
    )  # fmt: skip


def _clearance(of: _Of) -> Asks:
    return (Input(name="reason", words=f"Reason for clearing the hold: {of.act.title}", hint="reason for clearing"),)


def _sign_off(of: _Of) -> Asks:
    head, revision = of.standing.head or "", "" if of.standing.revision is None else str(of.standing.revision)
    seen = (
        Input(name="head", words="Records as seen", takes="seen", stands=head),
        Input(name="revision", words="Revision as seen", takes="seen", stands=revision),
    )
    return (*seen, Input(name="number", words="Licence number"))


_ASKS: Mapping[Kind, Callable[[_Of], Asks]] = {
    Kind.TORQUE: _torque,
    Kind.MEASUREMENT: _reading,
    Kind.DISPLAYS: _displays,
    **dict.fromkeys(YES_OR_NO, _answer),
    Kind.RECHECK: _mark,
    Kind.HOLE: _drilled,
    Kind.FIXED: _joint,
    Kind.READ_BACK: _read_back,
    Kind.JOINT: _joint,
    Kind.RING: _rung,
    Kind.SERIAL: _words,
    Kind.FIRMWARE: _words,
    Kind.SETTING: _setting,
    Kind.METER: _meter,
    Kind.PACK: _packed,
    Kind.CLEARANCE: _clearance,
    Kind.SIGN_OFF: _sign_off,
}


def inputs_of(plan: Plan, standing: Standing, act: Act) -> Asks:
    """What an act asks for. Nothing: it is done, and one tap says so."""
    asks = _ASKS.get(act.kind)
    return asks(_Of(plan=plan, standing=standing, act=act)) if asks is not None and not act.is_derived else ()


def could_not_inputs(act: Act) -> Asks:
    """What is asked of who could not do an act as asked."""
    choices = COULD_NOT_WORDS if act.is_torqued else tuple(w for w in COULD_NOT_WORDS if w != "snug only")
    return (
        Input(name="could_not", words=f"What stood in the way of {act.title}", takes="choice", choices=choices),
        Input(name="reason", words="Why", hint="why, in ten letters or more"),
    )
