"""Does a lead join what it should: the right sockets, every signal, one twisted pair, no farther than the bus reaches?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule


class Sockets(Facts):
    """The sockets of one card that a link may be meant for, by their titles."""

    where: str
    title: str
    bus: str
    sockets: Sequence[str]
    field: str = ".card"


@rule("LINK-SOCKET")
def one_socket(s: Sockets) -> Breach | None:
    """One socket is meant: plugs look alike, and a lead in the wrong one carries other pins."""
    if len(s.sockets) == 1:
        return None
    if not s.sockets:
        text = f"{s.title} has no {s.bus} socket for this link."
        return Breach(s.where, text, "Choose equipment that has one, or complete its card.", field=s.field)
    text = f"{s.title} has {len(s.sockets)} {s.bus} sockets ({', '.join(s.sockets)}), and its card does not say which is meant."
    return Breach(s.where, text, "Say on the card what each socket is for.", field=s.field)


class Signals(Facts):
    """Signals that a link needs and one of its sockets lacks, each with the title where it stands, empty for neither."""

    where: str
    missing: Sequence[tuple[str, str]]
    field: str = ".card"


@rule("LINK-SIGNAL")
def every_signal_has_a_partner(s: Signals) -> Breach | None:
    """Every signal that a link needs stands at both ends: an enable core left out leaves a battery asleep."""
    if not s.missing:
        return None
    told = [f"{signal} stands at {title} only" if title else f"{signal} stands at neither socket" for signal, title in s.missing]
    act = "Look the sockets up in both manuals: it is another socket, or a card lacks a pin, or says that it may stay open."
    return Breach(s.where, f"{'; '.join(told)}.", act, field=s.field)


class Reach(Facts):
    """Length of a bus against how far it reaches at its speed."""

    where: str
    length: Figure
    most: Figure
    speed: str
    field: str = ".lead_m"


@rule("LINK-LENGTH")
def within_reach(r: Reach) -> Breach | None:
    """A bus is no longer than its speed allows."""
    if r.length.value <= r.most.value:
        return None
    text = f"{r.length.value:g} m of {r.speed} bus; it reaches {r.most.value:g} m."
    return Breach(r.where, text, "Bring both ends nearer, or use a slower speed that both speak.", r.length, r.most, r.field)


class Twisted(Facts):
    """The pins of a signal pair at one socket, and whether a ready-made lead twists them together."""

    where: str
    title: str
    pins: Sequence[int]
    is_pair: bool


@rule("LINK-PAIR")
def in_one_pair(t: Twisted) -> Breach | None:
    """The two cores of a signal are one twisted pair; where a plug puts them in two, a ready-made lead will not do."""
    if t.is_pair:
        return None
    text = f"The signal pair of {t.title} sits on pins {t.pins[0]} and {t.pins[1]}, which a ready-made lead puts in two twisted pairs."
    return Breach(t.where, text, "Make the lead: both cores from one twisted pair, by the colours shown.", field=".lead_as_made")


class Lead(Facts):
    """Pin pairs of a lead as it was made, none while it is not, and as the sockets need them; ``alone`` are signals at one end only.

    ``open`` are needed pairs that may be left out, ``idle`` the pins of both sockets that carry nothing: a core there does no harm.
    """

    where: str
    made: frozenset[tuple[int, int]] = frozenset()
    needed: frozenset[tuple[int, int]] = frozenset()
    open: frozenset[tuple[int, int]] = frozenset()
    idle: tuple[frozenset[int], frozenset[int]] = (frozenset(), frozenset())
    alone: Sequence[str] = ()
    joins_any: bool = True
    field: str = ".lead_as_made"


@rule("LINK-LEAD")
def lead_joins_like(x: Lead) -> Breach | None:
    """A lead joins pins of like signal."""
    if x.alone or not x.joins_any:
        text = f"{', '.join(x.alone) or 'No signal'} stands at one end only."
        return Breach(x.where, text, "Look the sockets up on both cards: leave it open only where a card says so.", field=x.field)
    wrong = [pair for pair in x.made - x.needed if pair[0] not in x.idle[0] and pair[1] not in x.idle[1]]
    if not x.made or not (wrong or x.needed - x.open - x.made):
        return None
    text = "The lead as made joins other pins than the two sockets need."
    return Breach(x.where, text, "Re-make it by the pin-out shown.", field=x.field)
