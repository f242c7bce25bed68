"""Does each device break what can flow into a fault at its place; does the board that was surveyed match the card that was chosen?"""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule


class Breaks(Facts):
    """The fault current from all sources at a place, against what its devices break or its switch withstands."""

    where: str
    fault: Figure
    breaks: Figure
    field: str
    switch: bool = False


@rule("BOARD-INTERRUPT")
def devices_break(b: Breaks) -> Breach | None:
    """The devices of a board break, and a transfer switch withstands, what all sources push into a fault there."""
    if b.fault.value <= b.breaks.value:
        return None
    does = "it withstands" if b.switch else "its devices break"
    text = f"All sources together push {b.fault.value:.0f} A into a fault at {b.where}; {does} {b.breaks.value:.0f} A."
    act = "Choose one of a higher rating, or put a device ahead of it that limits the fault current, tested with it."
    return Breach(b.where, text, act, b.fault, b.breaks, b.field)


class Silent(Facts):
    """A rated value of a card, None where it is silent: ``path`` within it, ``what`` in words, ``waits`` what rests on it."""

    stated: Figure | None

    where: str
    title: str
    path: str
    what: str
    waits: str
    field: str


@rule("CARD-SILENT")
def card_states(s: Silent) -> Breach | None:
    """A card states each rated value that something rests on."""
    if s.stated is not None:
        return None
    text = f"The card of {s.title} does not state {s.what} ({s.path}): {s.waits} cannot be judged."
    act = "Take a newer revision of the card, complete it from the maker's data, or choose another."
    return Breach(s.where, text, act, field=s.field)


class Surveyed(Facts):
    """A number of the survey against the same on the card of the board that was chosen."""

    what: str
    board: str
    title: str
    said: Figure
    card: Figure
    field: str


@rule("BOARD-SURVEY")
def survey_matches_card(s: Surveyed) -> Breach | None:
    """The survey says no more of a board than its card: a lower number is the safe side, such as a smaller main fitted."""
    if s.said.value <= s.card.value:
        return None
    text = f"The survey says {s.said.value:g} A for the {s.what} of {s.board}; the card of {s.title} says {s.card.value:g} A."
    act = "Read the label again: correct the survey, or choose the card of the board that is there."
    return Breach(s.board, text, act, s.said, s.card, s.field)


class Port(Facts):
    """What a circuit carries, or the device that a slot takes, against the most that the card's port allows."""

    where: str
    title: str
    amps: Figure
    most: Figure
    field: str
    device: bool = False


@rule("PORT-CURRENT")
def port_carries(p: Port) -> Breach | None:
    """A port carries what its circuit asks, and a breaker's slot takes its device."""
    if p.amps.value <= p.most.value + 1e-9:
        return None
    what = f"A device of {p.amps.value:g} A sits at {p.title}" if p.device else f"{p.amps.value:.1f} A flow at {p.title}"
    return Breach(
        p.where,
        f"{what}; it allows {p.most.value:g} A.",
        "Choose equipment with a larger port, or share the load.",
        p.amps,
        p.most,
        p.field,
    )


class PortVolts(Facts):
    """The highest voltage of a circuit, against the most that the card's port, plug or contact allows."""

    where: str
    title: str
    highest: Figure
    most: Figure
    field: str


@rule("PORT-VOLTAGE")
def port_stands(p: PortVolts) -> Breach | None:
    """The plugs and contacts of a port stand the highest voltage of what lands there."""
    if p.highest.value <= p.most.value + 1e-9:
        return None
    text = f"{p.highest.value:.0f} V may stand at {p.title}; its contacts allow {p.most.value:g} V."
    return Breach(p.where, text, "Choose equipment whose contacts stand it, or lower the voltage.", p.highest, p.most, p.field)


class Ways(Facts):
    """Live poles of all that hangs on a board against the ways it has."""

    board: str
    poles: Figure
    ways: Figure
    field: str


@rule("BOARD-WAYS")
def room_in_the_board(w: Ways) -> Breach | None:
    """A board has a way for each live pole of its circuits."""
    if w.poles.value <= w.ways.value:
        return None
    text = f"{w.poles.value:.0f} poles hang on {w.board}; it has {w.ways.value:.0f} ways."
    return Breach(w.board, text, "Choose a larger board, or move a circuit to another.", w.poles, w.ways, w.field)


class SupplySide(Facts):
    """A conductor between the supply's side of the main and the inverter's device, against the smallest that the book allows there."""

    circuit: str
    installed: Figure
    least: Figure
    field: str


@rule("GRID-SUPPLY-SMALL")
def supply_side_conductor(s: SupplySide) -> Breach | None:
    """A supply-side connection is made with no less than the smallest conductor allowed there, whatever flows."""
    if s.installed.value >= s.least.value - 1e-9:
        return None
    text = f"{s.circuit} joins ahead of the main with {s.installed.label}; no less than {s.least.label} may."
    return Breach(s.circuit, text, f"Pull {s.least.label}.", s.installed, s.least, s.field)
