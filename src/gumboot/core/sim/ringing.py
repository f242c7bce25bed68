"""What does the ringing-out of a lead say: which cores are crossed, open, joined, or touch the screen?

One probe stands on a pin of the first plug, the other goes along the second. Which of the two plugs is wrong a beep cannot tell.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal, NamedTuple

from gumboot.core.plan.leads import Lead, Wire
from gumboot.core.rulebook.common.signals import meaning

# What is heard from a pin: the pin of the other plug that beeps, or one of these.
NONE, SCREEN, SEVERAL = 0, -1, -2
Said = Literal["right", "elsewhere", "open", "screen", "several"]
# Contacts of an eight-way plug, counted from the other side when it is made upside down.
PLUG, PAIR = 8, 2
PRESS = "Press the contacts of both plugs down again, then ring all cores."
AGAIN = "Compare both plugs with the drawing, cut off the one that differs, make it again, and ring all cores."

CONSEQUENCES: Mapping[str, str] = {
    "CAN H": "The bus does not speak.",
    "CAN L": "The bus does not speak.",
    "RS-485 A": "The line does not speak.",
    "RS-485 B": "The line does not speak.",
    "ENABLE": "The battery never wakes, or never sleeps.",
    "GND": "It may speak on the bench and fail beside a running inverter.",
    "SENSE L": "The box chatters and drops out.",
    "SENSE N": "The box chatters and drops out.",
    "CONTACTOR +": "The contactor does not pull.",
    "CONTACTOR −": "The contactor does not pull.",
    "START A": "The generator does not start.",
    "START B": "The generator does not start.",
    "+12 V": "A supply on a signal pin destroys the socket.",
    "12 V": "A supply on a signal pin destroys the socket.",
}


class Rung(NamedTuple):
    """What one core did: where it beeped, and in a word."""

    wire: Wire
    heard: int
    said: Said


class Verdict(NamedTuple):
    """All cores, and in sentences what is wrong with the lead; none where every core is where it belongs."""

    cores: tuple[Rung, ...]
    faults: tuple[str, ...]

    @property
    def cure(self) -> str:
        """What to do about it; nothing where nothing is wrong."""
        only_open = all(core.said in ("right", "open") for core in self.cores)
        return (PRESS if only_open else AGAIN) if self.faults else ""

    @property
    def is_right(self) -> bool:
        """Whether every core is where it belongs, and none touches another."""
        return not self.faults


def _said(wire: Wire, heard: int) -> Said:
    if heard == wire.second:
        return "right"
    return {NONE: "open", SCREEN: "screen", SEVERAL: "several"}.get(heard, "elsewhere")  # type: ignore[return-value]


def _worst(wires: list[Wire]) -> str:
    """What comes of it, of the core that matters most: a supply, then the signal, then the reference."""
    told = [CONSEQUENCES.get(meaning(wire.signal), "") for wire in wires]
    told.sort(key=lambda words: ("destroys" not in words, "may speak" in words, words == ""))
    return f" {told[0]}" if told and told[0] else ""


def verdict(lead: Lead, heard: Mapping[int, int]) -> Verdict:
    """Judge a ringing-out: ``heard`` by the pin of the first plug. A core of which nothing was noted counts as not rung: it is open."""
    cores = tuple(Rung(wire, found := heard.get(wire.first, NONE), _said(wire, found)) for wire in lead.wires)
    wrong = [core for core in cores if core.said == "elsewhere"]
    return Verdict(cores, (*_elsewhere(cores, wrong), *_others(cores)))


def _elsewhere(cores: tuple[Rung, ...], wrong: list[Rung]) -> list[str]:
    """Cores that beep at another pin: all of them turned about, two exchanged, or one astray."""
    turned = [core for core in wrong if core.heard == PLUG + 1 - core.wire.second]
    # Two cores that stand in each other's place are that, whatever else they might be.
    if len(turned) == len(cores) > PAIR:
        return [f"Every core beeps at the pin counted from the other side: one plug is upside down.{_worst([c.wire for c in wrong])}"]
    found, left = [], list(wrong)
    while left:
        one = left.pop(0)
        other = next((each for each in left if each.heard == one.wire.second and one.heard == each.wire.second), None)
        if other is not None:
            left.remove(other)
            pair = [one.wire, other.wire]
            beeps = f"{one.wire.first} beeped at {one.heard}, {other.wire.first} at {other.heard}"
            found.append(f"{one.wire.colour.capitalize()} and {other.wire.colour} are crossed: {beeps}.{_worst(pair)}")
            continue
        off = abs(one.heard - one.wire.second) == 1
        where = f"{one.wire.first} beeped at {one.heard}, it belongs at {one.wire.second}"
        words = "is one place off" if off else "goes to another pin"
        found.append(f"{one.wire.colour.capitalize()} ({one.wire.signal}) {words}: {where}.{_worst([one.wire])}")
    return found


def _others(cores: tuple[Rung, ...]) -> list[str]:
    """Cores that do not beep, beep at more than one pin, or touch the screen."""
    found = []
    for core in cores:
        wire, name = core.wire, f"{core.wire.colour.capitalize()} ({core.wire.signal})"
        if core.said == "open":
            found.append(f"{name} beeps nowhere: a contact is not pressed down, or the core is broken.{_worst([wire])}")
        if core.said == "several":
            found.append(f"{name} beeps at more than one pin: two cores touch in a plug.")
        if core.said == "screen":
            found.append(f"{name} beeps at the screen: a strand of the drain wire touches it.")
    return found
