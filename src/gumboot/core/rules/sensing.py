"""Does each CT sit where its channel wants it, the right way round, before everything, and is it large enough?"""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule

BEFORE_ALL = "grid side of every load"


class Sits(Facts):
    """Where a CT sits, and where its channel wants it."""

    channel: str
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
    return Breach(s.channel, text, f"Move it to {s.wanted_leg}.", field=f".cts.{s.channel}.leg")


@rule("CT-ARROW")
def right_way_round(s: Sits) -> Breach | None:
    """A CT's arrow points as the maker wants it."""
    if s.arrow == s.wanted_arrow:
        return None
    text = f"The arrow of {s.channel} points {s.arrow}; this maker wants it {s.wanted_arrow}."
    return Breach(s.channel, text, "Turn the core round.", field=f".cts.{s.channel}.arrow")


@rule("CT-SIDE")
def before_everything(s: Sits) -> Breach | None:
    """A CT sits on the grid side of every load and source."""
    if s.side == BEFORE_ALL:
        return None
    text = f"{s.channel} sits on the {s.side}: what lies on its grid side is not seen."
    act = "Put it on the service conductors, before every load and source."
    return Breach(s.channel, text, act, field=f".cts.{s.channel}.side")


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


SEATED = (on_its_leg, right_way_round, before_everything)
