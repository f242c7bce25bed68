"""Do the inverters of a group meet at one panel and hang on their bank by equal mains, each bar bearing all of them?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule


class Joined(Facts):
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


class Studs(Facts):
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


class Leads(Facts):
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


class PanelBar(Facts):
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


class Supplied(Facts):
    """The main boards that an island joins, each with the board at the supply that it is fed from; ``things`` are what joins them."""

    things: Sequence[str]
    supplies: Sequence[str]


@rule("PAR-SUPPLY")
def one_supply(s: Supplied) -> Breach | None:
    """What feeds something in common joins one supply: two would be tied together through it."""
    others = [n for n, supply in enumerate(s.supplies) if supply != s.supplies[0]]
    if not others:
        return None
    n = others[0]
    text = f"{s.things[0]} joins the supply of {s.supplies[0]}, {s.things[n]} that of {s.supplies[n]}: through what they feed, one supply feeds the other."
    act = "Join them to main boards of one supply, or let them feed loads of their own."
    return Breach(s.things[n], text, act, field=f"things.{s.things[n]}.board")
