"""Is each inverter of a group told its place: its address, its terminator, whether it bonds, and who reads the meter?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule


class Led(Facts):
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


class Bonding(Facts):
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


class Metered(Facts):
    """The inverters of a group that have CTs of their own, and the one that leads it."""

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
