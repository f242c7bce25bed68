"""May a battery join a bank that stands? What is not known is asked for, never assumed."""

from __future__ import annotations

from gumboot.core.card.storage import BatteryCard
from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule

HAIR = 1e-9


class Meeting(Facts):
    """Two batteries about to be joined: how far apart they stand, None while nobody measured, and how far they may."""

    apart: Figure | None
    most: Figure


@rule("BANK-JOIN")
def voltages_agree(m: Meeting) -> Breach | None:
    """The voltages lie within the maker's window when batteries meet."""
    if m.apart is None:
        return Breach("join", "The voltages are not measured.", "Measure both before they meet.", level="note")
    if m.apart.value <= m.most.value + HAIR:
        return None
    text = f"They stand {m.apart.value:.2f} V apart; {m.most.value:g} V is the most at which they may be joined."
    return Breach("join", text, "Charge or discharge the one alone until they agree.", m.apart, m.most)


class Types(Facts):
    """The bank's battery and the one that is to join it."""

    own: BatteryCard
    other: BatteryCard


@rule("JOIN-CHEMISTRY")
def one_chemistry(t: Types) -> Breach | None:
    """One bank is of one chemistry."""
    if t.other.chemistry == t.own.chemistry:
        return None
    text = f"It is {t.other.chemistry}; the bank is {t.own.chemistry}. Their voltages rest and charge apart."
    return Breach("join", text, "Never join two chemistries.")


@rule("JOIN-VOLTAGE")
def one_voltage(t: Types) -> Breach | None:
    """One bank is of one nominal voltage."""
    if t.other.nominal_v == t.own.nominal_v:
        return None
    text = f"It is {t.other.nominal_v:g} V; the bank's units are {t.own.nominal_v:g} V."
    return Breach("join", text, "Choose the same voltage.")


@rule("JOIN-SHARING")
def alike_inside(t: Types) -> Breach | None:
    """Energy and resistance of the units are alike, so that they share the current."""
    if t.other.energy_wh == t.own.energy_wh and t.other.cell_mohm == t.own.cell_mohm:
        return None
    text = (
        f"It holds {t.other.energy_wh:g} Wh at {t.other.cell_mohm:g} mΩ, "
        f"the others {t.own.energy_wh:g} Wh at {t.own.cell_mohm:g} mΩ: they share current unequally."
    )
    return Breach("join", text, "Choose the same type.")


@rule("JOIN-PROTOCOL")
def heard(t: Types) -> Breach | None:
    """The newcomer speaks a protocol of the bank."""
    mine, theirs = {(p.name, p.bus) for p in t.own.protocols}, {(p.name, p.bus) for p in t.other.protocols}
    if not mine or mine & theirs:
        return None
    return Breach("join", "It speaks no protocol of this bank: its BMS would not be heard.", "Choose the same make.")


@rule("JOIN-TYPE")
def one_type(t: Types) -> Breach | None:
    """One bank is of one type, maker and model."""
    if t.other.id == t.own.id:
        return None
    return Breach("join", f"{t.other.title} is another type than {t.own.title}.", "One bank is of one type, maker and model.")


class Ages(Facts):
    """Ages in months; None where nobody has read the date codes."""

    own: float | None
    other: float | None
    most_apart: Figure


@rule("JOIN-AGE")
def ages_agree(a: Ages) -> Breach | None:
    """The batteries are within a year of each other."""
    if a.own is None or a.other is None:
        return Breach("join", "The ages are not given.", "Read the date codes of both.", level="note")
    if abs(a.other - a.own) <= a.most_apart.value:
        return None
    text = f"It is {a.other:g} months old, the bank {a.own:g}: the younger one works harder until it is as old."
    return Breach("join", text, "Add within a year of the first, or ask the maker.", limit=a.most_apart)


class Versions(Facts):
    """Firmware of the bank and of the newcomer; None where nobody has read it."""

    own: str
    other: str | None


@rule("JOIN-FIRMWARE")
def versions_agree(v: Versions) -> Breach | None:
    """All batteries run one firmware."""
    if not v.own:
        return None
    if v.other is None:
        return Breach("join", "Its firmware is not given.", "Read it in the maker's tool.", level="note")
    if v.other == v.own:
        return None
    return Breach("join", f"Its firmware is {v.other}; the bank's is {v.own}.", "Bring both to one version first.")


class Room(Facts):
    """The tightest limit on growth: how many more it lets in, and why."""

    more: int
    why: str


@rule("JOIN-ROOM")
def room(r: Room) -> Breach | None:
    """There is room for one more."""
    return None if r.more >= 1 else Breach("join", f"There is no room: {r.why}", "Plan a second bank or a larger box.")


TYPES = (one_chemistry, one_voltage, alike_inside, heard, one_type)
