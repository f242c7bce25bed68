"""May these inverters work as one group: alike, as many as their maker allows, on banks and phases that it lets them have?"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from gumboot.core.card.inverter import InverterCard, Parallel
from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule

PLACE = "inverters"
HAIR = 1e-9


class Group(Facts):
    """Inverters that feed the same loads: ids and cards, the leader first, and the legs that each makes."""

    units: Sequence[str]
    cards: Sequence[InverterCard]
    legs: Mapping[str, Sequence[str]]
    wanted: Sequence[str] = ()
    banks: Sequence[str] = ("bank",)

    @property
    def allows(self) -> Parallel | None:
        """What the leader's card says of several."""
        return self.cards[0].parallel

    @property
    def largest(self) -> int:
        """The most inverters on one leg."""
        return max((len(units) for units in self.legs.values()), default=0)


@rule("PAR-ALIKE")
def alike(g: Group) -> Breach | None:
    """Inverters of one group are of one card and one revision of its firmware."""
    first = g.cards[0]
    unlike = [n for n, card in enumerate(g.cards) if card is not first and (card.id, card.firmware) != (first.id, first.firmware)]
    if not unlike:
        return None
    other = unlike[0]
    text = f"{g.units[other]} is a {g.cards[other].title}, {g.units[0]} a {first.title}: unlike inverters do not share a load."
    act = "Take inverters of one card and one firmware in a group; one of another kind gets a board of its own."
    return Breach(g.units[other], text, act, field=f"things.{g.units[other]}.card")


@rule("PAR-COUNT")
def as_many_as_allowed(g: Group) -> Breach | None:
    """No more inverters than the maker allows in parallel; a card that says nothing of several allows one."""
    if len(g.units) == 1:
        return None
    if g.allows is None:
        text = f"The card of {g.cards[0].title} says nothing of several inverters together: one is allowed."
        return Breach(PLACE, text, "Choose an inverter that its maker lets work in a group.", field=f"things.{g.units[0]}.card")
    if len(g.units) <= g.allows.most and g.largest <= g.allows.most_per_leg:
        return None
    text = (
        f"{len(g.units)} inverters, {g.largest} of them on one leg; "
        f"{g.cards[0].title} allows {g.allows.most} together and {g.allows.most_per_leg} on a leg."
    )
    return Breach(PLACE, text, "Take inverters out of the group or choose larger ones.", field="things")


@rule("PAR-SHIFT")
def makes_these_phases(g: Group) -> Breach | None:
    """Single-phase units make split or three phase only where their maker lets them."""
    made = {1: "", 2: "split phase", 3: "three phase"}[len(g.legs)] if len(g.cards[0].phases) == 1 else ""
    if not made or (g.allows is not None and made in g.allows.shifts):
        return None
    text = f"{len(g.units)} single-phase inverters are to make {made}; the card of {g.cards[0].title} does not let them."
    return Breach(
        PLACE, text, "Choose inverters that may be phase-shifted, or one that makes all legs.", field=f"things.{g.units[0]}.phase"
    )


@rule("PAR-BANKS")
def banks_as_allowed(g: Group) -> Breach | None:
    """Inverters of a group hang on one bank, or on several where their maker lets them; a card that is silent means one."""
    if len(g.units) == 1:
        return None
    several = len(set(g.banks)) > 1
    if (("several" if several else "one for all") in g.allows.banks) if g.allows is not None else not several:
        return None
    title, hang = g.cards[0].title, "several banks" if several else "one bank"
    text = f"The inverters hang on {hang}; the card of {title} does not say that a group may."
    act = (
        "Hang all inverters on one bank, or choose inverters that may have their own."
        if several
        else "Give each inverter a bank of its own."
    )
    return Breach(PLACE, text, act, field=f"things.{g.units[-1]}.bank")


class Emptied(Facts):
    """What several banks deliver until the first of them is empty, against all that they hold."""

    first: str
    together: Figure
    held: Figure


@rule("PAR-EMPTY")
def empty_together(e: Emptied) -> Breach | None:
    """Banks of one group are empty at the same time, each beside inverters of a size that fits it."""
    if e.together.value >= e.held.value * (1 - HAIR):
        return None
    text = f"{e.first} is empty first: of {e.held.value:.0f} Wh in all banks {e.together.value:.0f} Wh are counted on, as inverters share by size."
    return Breach(e.first, text, "Give each bank its share by the size of its inverters.", e.together, e.held, f"banks.{e.first}.units")


class Shared(Facts):
    """A bank and the islands whose inverters hang on it, by their leaders."""

    bank: str
    islands: Sequence[str]


@rule("BANK-ISLANDS")
def bank_of_one_island(s: Shared) -> Breach | None:
    """A bank serves one island: how two that are not in step would share it is not worked out."""
    if len(s.islands) < 2:
        return None
    text = f"{s.bank} serves {' and '.join(s.islands)}, which feed apart: how they share it is not worked out."
    return Breach(s.bank, text, "Give each its own bank, or let them feed one panel as a group.", field=f"things.{s.islands[-1]}.bank")


@rule("PAR-LEG")
def every_leg_is_made(g: Group) -> Breach | None:
    """Each leg that the backed-up side has is made by an inverter, and each single-phase unit of several says which."""
    missing = [leg for leg in g.wanted if not g.legs.get(leg)]
    if not missing:
        return None
    text = f"No inverter makes {' and '.join(missing)}, which the backed-up side has."
    return Breach(PLACE, text, "Say for each single-phase inverter which phase it makes.", field=f"things.{g.units[-1]}.phase")
