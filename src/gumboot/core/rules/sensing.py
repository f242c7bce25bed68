"""Does each CT sit where its channel wants it, the right way round, before everything, and is it large enough?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule

BEFORE_ALL = "grid side of every load"


class Sits(Facts):
    """Where a CT sits, and where its channel wants it."""

    channel: str
    field: str
    leg: str
    wanted_leg: str
    arrow: str
    wanted_arrow: str
    side: str


@rule("CT-LEG")
def on_its_leg(s: Sits) -> Breach | None:
    """A CT sits on the leg that its channel measures."""
    if s.leg == s.wanted_leg:
        return None
    text = f"{s.channel} sits on {s.leg}; its channel measures {s.wanted_leg}."
    return Breach(s.channel, text, f"Move it to {s.wanted_leg}.", field=f"{s.field}.leg")


@rule("CT-ARROW")
def right_way_round(s: Sits) -> Breach | None:
    """A CT's arrow points as the maker wants it."""
    if s.arrow == s.wanted_arrow:
        return None
    text = f"The arrow of {s.channel} points {s.arrow}; this maker wants it {s.wanted_arrow}."
    return Breach(s.channel, text, "Turn the core round.", field=f"{s.field}.arrow")


@rule("CT-SIDE")
def before_everything(s: Sits) -> Breach | None:
    """A CT sits on the grid side of every load and source."""
    if s.side == BEFORE_ALL:
        return None
    text = f"{s.channel} sits on the {s.side}: what lies on its grid side is not seen."
    act = "Put it on the service conductors, before every load and source."
    return Breach(s.channel, text, act, field=f"{s.field}.side")


class Rated(Facts):
    """Rating of the CTs against the supply's main device."""

    rated: Figure
    main: Figure


@rule("CT-RATED")
def large_enough(r: Rated) -> Breach | None:
    """The CTs are rated for the supply."""
    if r.rated.value >= r.main.value:
        return None
    text = f"The CTs are rated {r.rated.value:g} A; the supply is {r.main.value:g} A."
    return Breach("CTs", text, "Choose larger CTs.", r.rated, r.main, ".card")


class Sets(Facts):
    """Two sets of CTs, each read by an inverter that the other knows nothing of, and the conductors that both see."""

    one: str
    other: str
    both: Sequence[str]


@rule("CT-SHARED")
def one_to_follow(s: Sets) -> Breach | None:
    """Of two controllers that know nothing of each other only one follows what a conductor carries."""
    if not s.both:
        return None
    seen = f"{s.one} and {s.other} both read {' and '.join(s.both)}"
    text = f"{seen}, and neither knows of the other: each answers the same power, so they hunt, or one bank charges the other."
    act = "Let one follow the grid and the other work by fixed times or as a backup alone, as both makers describe."
    return Breach(s.other, text, act, field="sensing.meters")


class Around(Facts):
    """The outside of the supply's conductor against the opening of the core that goes round it."""

    conductor: Figure
    opening: Figure
    size: str


@rule("CT-OPENING")
def goes_round(a: Around) -> Breach | None:
    """A split core closes round the conductor that it measures."""
    if a.conductor.value <= a.opening.value:
        return None
    text = f"{a.size} is {a.conductor.value:.1f} mm thick; the core opens {a.opening.value:g} mm: it cannot close, and reads too little."
    return Breach("CTs", text, "Choose a core with a larger opening.", a.conductor, a.opening, ".card")


class Blind(Facts):
    """An inverter beside the grid, and whether a set of CTs tells it what passes there."""

    inverter: str
    told: bool


@rule("CT-NONE")
def knows_of_the_grid(b: Blind) -> Breach | None:
    """Each inverter that leads a part of the house beside the grid reads a set of CTs."""
    if b.told:
        return None
    text = f"{b.inverter} takes the grid in and has inputs for CTs, and no set is wired to it: it cannot follow the loads or hold an export limit."
    return Breach(b.inverter, text, "Fit a set for it, or set it to fixed times or as a backup alone.", field="sensing.meters")


SEATED = (on_its_leg, right_way_round, before_everything)
