"""Does the backed-up side fit the inverter and the bank, leg by leg, running and starting?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule


class Carried(Facts):
    """Power of a leg, or of all, against what carries it; ``seconds`` is how long a start is held."""

    where: str
    power: Figure
    most: Figure
    seconds: float = 0.0


@rule("LOAD-LEG-OVER")
def leg_running(c: Carried) -> Breach | None:
    """A leg carries what runs on it."""
    if c.power.value <= c.most.value:
        return None
    text = f"{c.where} runs at {c.power.value:.0f} W; one leg of the inverter carries {c.most.value:.0f} W."
    return Breach(c.where, text, f"Move a load from {c.where} to another leg, or back to the house side.", c.power, c.most)


@rule("LOAD-LEG-SURGE")
def leg_starting(c: Carried) -> Breach | None:
    """A leg holds the largest start on it."""
    if c.power.value <= c.most.value:
        return None
    text = f"{c.where} reaches {c.power.value:.0f} W at the largest start; the leg holds {c.most.value:.0f} W for {c.seconds:g} s."
    act = "Let fewer loads start together, fit a soft starter, or move one to the other leg."
    return Breach(c.where, text, act, c.power, c.most)


@rule("LOAD-TOTAL-OVER")
def all_running(c: Carried) -> Breach | None:
    """The inverter carries all that runs."""
    if c.power.value <= c.most.value:
        return None
    text = f"The backed-up side runs at {c.power.value:.0f} W; the inverter carries {c.most.value:.0f} W."
    return Breach(c.where, text, "Move a load back to the house side.", c.power, c.most)


@rule("LOAD-SURGE")
def all_starting(c: Carried) -> Breach | None:
    """The inverter holds the largest start of all."""
    if c.power.value <= c.most.value:
        return None
    text = f"Starting reaches {c.power.value:.0f} W; the inverter holds {c.most.value:.0f} W for {c.seconds:g} s."
    return Breach(c.where, text, "Let fewer loads start together or fit a soft starter.", c.power, c.most)


@rule("LOAD-BANK-OVER")
def bank_carries(c: Carried) -> Breach | None:
    """The bank gives what runs at its lowest voltage."""
    if c.power.value <= c.most.value:
        return None
    text = f"The backed-up side runs at {c.power.value:.0f} W; the bank gives {c.most.value:.0f} W at its lowest voltage."
    return Breach(c.where, text, "Add a battery or move a load back to the house side.", c.power, c.most)


@rule("LOAD-BANK-SURGE")
def bank_starts(c: Carried) -> Breach | None:
    """The batteries give the largest start of all at their lowest voltage, for as long as the inverter holds it."""
    if c.power.value <= c.most.value:
        return None
    text = f"Starting reaches {c.power.value:.0f} W; the bank gives {c.most.value:.0f} W for {c.seconds:g} s at its lowest voltage."
    return Breach(c.where, text, "Add a battery in parallel, let fewer loads start together or fit a soft starter.", c.power, c.most)


class OnLeg(Facts):
    """A backed-up load and the legs that the inverter gives."""

    title: str
    leg: str
    gives: Sequence[str]
    field: str


@rule("LOAD-NO-LEG")
def leg_exists(x: OnLeg) -> Breach | None:
    """A backed-up load is on legs that the inverter gives."""
    if set(x.leg.split("+")) <= set(x.gives):
        return None
    text = f"{x.title} is on {x.leg}; this inverter gives {' and '.join(x.gives)}."
    return Breach(x.title, text, "Put it on a leg that the inverter has.", field=x.field)


class Schooled(Facts):
    """The school of backing up that is stated, and what its equipment and its circuits must be for it to be true.

    ``switches`` are what is thrown by hand; ``left_out`` the circuits on the house side; ``passes`` what inverters or gateway pass,
    against the ``main`` device of the supply; None where there is no grid, or no answer.
    """

    school: str
    switches: Sequence[str] = ()
    left_out: Sequence[str] = ()
    passes: Figure | None = None
    main: Figure | None = None


@rule("SCHOOL-MANUAL")
def thrown_by_hand(s: Schooled) -> Breach | None:
    """Manual transfer has something that is thrown by hand."""
    if s.school != "manual transfer" or s.switches:
        return None
    text = "Manual transfer is stated, and there is neither a manual transfer switch nor an interlocked inlet."
    return Breach(
        "backed-up side",
        text,
        "Choose a transfer switch, say that the bypass is interlocked, or state another school.",
        field="backup.school",
    )


@rule("SCHOOL-WHOLE")
def whole_house(s: Schooled) -> Breach | None:
    """A whole house has every circuit on the backed-up side, and inverters or a gateway that pass all that its main device lets in."""
    if s.school != "whole house":
        return None
    act = "Move them over, or state the sub-board school."
    if s.left_out:
        named = ", ".join(s.left_out[:3]) + (f" and {len(s.left_out) - 3} more" if len(s.left_out) > 3 else "")
        return Breach("backed-up side", f"The whole house is stated; {named} stay on the house side.", act, field="backup.school")
    if s.passes is None or s.main is None or s.passes.value >= s.main.value:
        return None
    text = f"The whole house is stated; {s.main.value:g} A come through its main device, and {s.passes.value:g} A pass to it."
    act = "Fit a gateway of that rating or a smaller main device, or state the sub-board school."
    return Breach("backed-up side", text, act, s.main, s.passes, "backup.school")


class SingleLine(Facts):
    """A single 120 V line that feeds the backed-up board: whether multiwire circuits hang there, None while nobody has looked."""

    multiwire: bool | None


@rule("LOAD-MULTIWIRE")
def no_multiwire(s: SingleLine) -> Breach | None:
    """No multiwire branch circuit hangs on a board that a single line feeds: its neutral would carry both halves. An open question is a gap."""
    if not s.multiwire:
        return None
    text = (
        "Multiwire branch circuits hang on a board that a single 120 V line feeds: their shared neutral carries the current of both halves."
    )
    act = "Part each into two circuits with a neutral each, or leave them on the house side."
    return Breach("backed-up board", text, act, field="backup.multiwire")
