"""Can the island hold back the PV inverter that is coupled to it on the AC side?"""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule

HAIR = 1e-9


class Power(Facts):
    """All AC-coupled PV against the power that the battery inverters hold, or that the banks take; ``where`` is one PV inverter of it."""

    power: Figure
    most: Figure
    where: str
    number: int = 1

    @property
    def gives(self) -> str:
        """How a finding begins."""
        return "The PV inverter gives" if self.number == 1 else f"The {self.number} PV inverters give"


@rule("PV-RATIO")
def ratio(p: Power) -> Breach | None:
    """AC-coupled PV stays within what the battery inverter holds."""
    if p.power.value <= p.most.value:
        return None
    text = f"{p.gives} {p.power.value:.0f} W; the battery inverter holds at most {p.most.value:.0f} W."
    act = "Put part of the PV on the grid side, or choose a larger battery inverter."
    return Breach(p.where, text, act, p.power, p.most, f"things.{p.where}.card")


@rule("AC-BANK")
def bank_takes(p: Power) -> Breach | None:
    """In full sun without load the bank takes what the PV gives."""
    if p.power.value <= p.most.value:
        return None
    text = f"In full sun without load {p.power.value:.0f} W would flow into the bank; it takes {p.most.value:.0f} W."
    return Breach(p.where, text, "Add a battery, or expect the frequency to hold the PV back.", p.power, p.most)


class Droops(Facts):
    """Whether a PV inverter falls back with frequency."""

    droop: str
    where: str


@rule("AC-NO-DROOP")
def falls_back(d: Droops) -> Breach | None:
    """The PV inverter falls back with frequency."""
    if d.droop:
        return None
    text = "The PV inverter does not fall back with frequency: a full battery in an island has no way to refuse its power."
    act = "Choose a PV inverter with frequency response, or keep it on the grid side."
    return Breach(d.where, text, act, field=f"things.{d.where}.card")


class Shift(Facts):
    """The highest frequency that the island is shifted to, against the one at which the PV inverter is silent."""

    silent: Figure
    most: Figure | None
    where: str
    inverter: str


@rule("AC-SHIFT")
def shifts_far_enough(s: Shift) -> Breach | None:
    """The island is shifted until the PV inverter is silent."""
    if s.most is not None and s.most.value >= s.silent.value - HAIR:
        return None
    shifted = f"The island is shifted to {s.most.value:g} Hz at most" if s.most else "The battery inverter's card names no frequency shift"
    text = f"{shifted}; the PV inverter is silent from {s.silent.value:.2f} Hz."
    act = "Set a higher shift, or move the PV inverter to the grid side: a full battery could not refuse it."
    return Breach(s.where, text, act, s.silent, s.most, f"things.{s.inverter}.card")


class Black(Facts):
    """The reserve against the charge at which the battery stops: what is left to form an island with."""

    reserve: Figure
    floor: Figure
    inverter: str
    where: str


@rule("AC-BLACK")
def starts_from_black(b: Black) -> Breach | None:
    """After a black start the battery holds the island until the PV inverter joins."""
    if b.reserve.value > b.floor.value:
        return None
    text = (
        f"The reserve of {b.reserve.value:g} % is all that the battery keeps ({b.floor.value:g} %): "
        "with nothing left to form an island, PV cannot start."
    )
    act = f"Raise the reserve above {b.floor.value:g} %: {b.inverter} must hold the island until the PV inverter joins."
    return Breach(b.where, text, act, b.reserve, b.floor, "settings.reserve_pct")
