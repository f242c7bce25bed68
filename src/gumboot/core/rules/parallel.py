"""May these inverters work as one group: alike, as many as their maker allows, joined at a panel, led, and with one bond?"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from gumboot.core.card.inverter import InverterCard, Parallel
from gumboot.core.figure import Figure
from gumboot.core.rules.register import Breach, rule

PLACE = "inverters"
HAIR = 1e-9


class Group(NamedTuple):
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
    other = next((i for i, c in enumerate(g.cards) if (c.id, c.firmware) != (first.id, first.firmware)), None)
    if other is None:
        return None
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


class Emptied(NamedTuple):
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


@rule("PAR-LEG")
def every_leg_is_made(g: Group) -> Breach | None:
    """Each leg that the backed-up side has is made by an inverter, and each single-phase unit of several says which."""
    missing = [leg for leg in g.wanted if not g.legs.get(leg)]
    if not missing:
        return None
    text = f"No inverter makes {' and '.join(missing)}, which the backed-up side has."
    return Breach(PLACE, text, "Say for each single-phase inverter which phase it makes.", field=f"things.{g.units[-1]}.phase")


class Joined(NamedTuple):
    """Outputs of several inverters and where they come together. ``panel`` is empty where each lands by itself."""

    units: Sequence[str]
    fed: str
    panel: str


@rule("PAR-PANEL")
def at_a_panel(j: Joined) -> Breach | None:
    """Several inverters come together at a combining panel, each on a breaker of its own, before they reach the house."""
    if len(j.units) == 1 or j.panel:
        return None
    text = f"{len(j.units)} inverters feed {j.fed} directly: there is no place where each can be opened and proved alone."
    act = "Put a combining panel between the inverters and the house."
    return Breach(j.fed, text, act, field=f"things.{j.units[-1]}.feeds")


class Studs(NamedTuple):
    """Landing places on the bars of a bank for the mains of its inverters."""

    box: str
    title: str
    studs: int
    inverters: int


@rule("BANK-STUDS")
def bars_take_each_main(s: Studs) -> Breach | None:
    """The DC busbar box has a pair of studs for the main of each inverter."""
    if s.inverters <= s.studs:
        return None
    text = f"{s.title} has studs for {s.studs} inverter{'s' if s.studs != 1 else ''}; {s.inverters} hang on this bank."
    return Breach(
        s.box, text, "Choose bars with more studs: two lugs on one stud of a main are not made for it.", field=f"things.{s.box}.card"
    )


class Leads(NamedTuple):
    """Loop resistance of each inverter's battery main, and how far they may stand apart."""

    bank: str
    units: Sequence[str]
    ohms: Sequence[Figure]
    apart: Figure
    most: Figure


@rule("PAR-LEADS")
def equal_mains(x: Leads) -> Breach | None:
    """Inverters of one bank have battery mains of like length and size: the one with less resistance would do more of the work."""
    if x.apart.value <= x.most.value:
        return None
    near = min(zip(x.ohms, x.units, strict=True), key=lambda pair: pair[0].value)[1]
    text = f"The battery mains differ by {x.apart.value:.0f} %: {near} has the easier way to the bank. {x.most.value:g} % is the most."
    return Breach(x.bank, text, "Make the mains of one length and one size.", x.apart, x.most, f"runs.{near}.length_m")


class Led(NamedTuple):
    """One inverter on the link between inverters: its place, address and terminator against what they must be."""

    unit: str
    leader: str
    address: int
    wanted: int
    taken: bool
    fitted: bool
    at_an_end: bool
    terminates: bool = True


@rule("PAR-ADDRESS")
def own_address(x: Led) -> Breach | None:
    """The leader has the first address and each follower the next: no two of them the same."""
    if x.address == x.wanted:
        return None
    act = f"Set {x.unit} to {x.wanted}."
    if x.taken:
        text = f"{x.unit} is set to address {x.address}, which another inverter already has."
    elif x.unit == x.leader:
        text = f"{x.unit} leads the group and is set to address {x.address}; the leader's is {x.wanted}."
    else:
        text = f"{x.unit} is set to address {x.address}; its place on the link wants {x.wanted}."
    return Breach(x.unit, text, act, field=f"things.{x.unit}.address", level=None if x.taken or x.unit == x.leader else "caution")


@rule("PAR-TERMINATOR")
def ends_of_the_link(x: Led) -> Breach | None:
    """The link between inverters carries terminators at its two ends and nowhere else."""
    wanted = x.at_an_end and x.terminates
    if x.fitted == wanted:
        return None
    said = (
        "it sits at an end of the link between inverters and has no terminator"
        if wanted
        else "its place wants no terminator and it has one"
    )
    return Breach(x.unit, f"{x.unit}: {said}.", "Terminate the two ends and nothing between.", field=f"things.{x.unit}.terminator")


class Bonding(NamedTuple):
    """How inverters of a group bond the neutral in island: each by its own relay, and what their maker says of that."""

    units: Sequence[str]
    relays: int
    rule: str
    opens_neutral: bool | None


@rule("PAR-BOND")
def one_of_them_bonds(b: Bonding) -> Breach | None:
    """Of several inverters at most one closes a bond relay in island; where nobody says which, it is refused."""
    if len(b.units) == 1 or b.relays == 0 or b.rule == "leader only":
        return None
    if b.rule == "told off" and b.opens_neutral is False:
        return None
    text = (
        f"{b.relays} inverters would each close a bond relay in island: {b.relays} bonds."
        if b.rule != "told off"
        else f"The relays of all {b.relays} inverters are told off, and the neutral is opened in an outage: no bond is left."
    )
    act = (
        "Let one unit bond and tell the others not to, as their maker describes; or keep the neutral through and the one bond in the board."
    )
    return Breach("neutral", text, act, field=f"things.{b.units[0]}.card")


class Metered(NamedTuple):
    """The inverters that have CTs of their own."""

    leader: str
    readers: Sequence[str]


@rule("PAR-METER")
def one_meter(m: Metered) -> Breach | None:
    """One set of CTs serves the whole group and is wired to its leader: two sets make two controllers that fight."""
    strange = [r for r in m.readers if r != m.leader]
    if len(m.readers) <= 1 and not strange:
        return None
    text = f"CTs are wired to {', '.join(m.readers)}; {m.leader} leads the group and reads for all."
    return Breach((strange or m.readers)[0], text, "Wire one set of CTs to the leader and none to the others.", field="sensing.meters")


class PanelBar(NamedTuple):
    """The bar of a combining panel against what feeds it."""

    panel: str
    total: Figure
    limit: Figure


@rule("PAR-BAR")
def panel_bar(p: PanelBar) -> Breach | None:
    """The bar of a combining panel carries all its inverters, as the book counts sources."""
    if p.total.value <= p.limit.value:
        return None
    text = f"The inverters bring {p.total.value:.1f} A to the bar of {p.panel}; it may carry {p.limit.value:.1f} A."
    return Breach(p.panel, text, "Choose a panel with a larger bar.", p.total, p.limit, f"things.{p.panel}.card")
