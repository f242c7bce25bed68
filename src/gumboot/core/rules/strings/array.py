"""Does the array fit its roof, its optimisers and its inverter, and is it named and shut down as it must be?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule
from gumboot.core.rules.strings.voltages import HAIR


class OnFace(Facts):
    """Modules wanted on a roof face against the places it has."""

    title: str
    wanted: int
    places: Figure
    field: str = ""


@rule("PV-FACE-FULL")
def face_holds(f: OnFace) -> Breach | None:
    """A face has a place for each module."""
    if f.wanted <= f.places.value:
        return None
    text = f"{f.title} has {f.places.value:.0f} places; {f.wanted} modules are planned on it."
    return Breach(f.title, text, "Move modules to another face or make room.", limit=f.places, field=f.field)


class Optimised(Facts):
    """A string whose modules each have an optimiser."""

    place: str
    modules: Figure
    fewest: Figure
    most: Figure
    power: Figure
    power_most: Figure
    field: str = ""


@rule("PV-OPTIMISER-COUNT")
def optimiser_count(o: Optimised) -> Breach | None:
    """As many modules as the optimisers can hold at their voltage."""
    if o.fewest.value <= o.modules.value <= o.most.value:
        return None
    text = f"{o.place} has {o.modules.value:.0f} optimised modules; {o.fewest.value:.0f} to {o.most.value:.0f} are allowed."
    limit = o.most if o.modules.value > o.most.value else o.fewest
    return Breach(o.place, text, "Lengthen or split the string.", o.modules, limit, o.field)


@rule("PV-OPTIMISER-POWER")
def optimiser_power(o: Optimised) -> Breach | None:
    """No more power than an optimised string may have."""
    if o.power.value <= o.power_most.value:
        return None
    text = f"{o.place} has {o.power.value:.0f} W; an optimised string may have {o.power_most.value:.0f} W."
    return Breach(o.place, text, "Take modules off or split the string.", o.power, o.power_most, o.field)


class Array(Facts):
    """All modules against what the inverters accept."""

    power: Figure
    most: Figure
    where: str = "array"


@rule("PV-POWER")
def array_power(a: Array) -> Breach | None:
    """No more module power than the inverters accept."""
    if a.power.value <= a.most.value:
        return None
    text = f"{a.power.value:.0f} W of modules; the inverter accepts {a.most.value:.0f} W."
    return Breach(a.where, text, "Take modules off or choose a larger inverter.", a.power, a.most)


class Ratio(Facts):
    """Module power against the output of its inverters."""

    ratio: Figure
    most: Figure
    where: str = "array"


@rule("PV-DC-AC")
def usual_ratio(r: Ratio) -> Breach | None:
    """Module power is not far above what the inverters give: what exceeds it goes into the battery, or is lost."""
    if r.ratio.value <= r.most.value + HAIR:
        return None
    text = f"Module power is {r.ratio.value:.2f} times the inverters' output; usual is up to {r.most.value:g}."
    act = "See on Strings what a year loses; battery charging takes a part of it."
    return Breach(r.where, text, act, r.ratio, r.most)


class Monitored(Facts):
    """An inverter with strings on it: whether its card says that residual current and insulation are watched inside."""

    where: str
    title: str
    monitors: bool
    field: str


@rule("PV-MONITOR")
def watched_inside(m: Monitored) -> Breach | None:
    """An inverter with strings on it watches residual current and the array's insulation."""
    if m.monitors:
        return None
    text = f"{m.title} does not say that it watches residual current and insulation: a first earth fault on the roof stays unseen."
    act = "Complete its card from the maker's declaration to IEC 62109-2, fit a monitor of its own, or choose another inverter."
    return Breach(m.where, text, act, field=m.field)


class Lands(Facts):
    """A string and the inputs there are."""

    string: str
    tracker: str
    known: frozenset[str]


@rule("PV-NO-TRACKER")
def tracker_exists(s: Lands) -> Breach | None:
    """A string lands on an input that the inverter has."""
    if s.tracker in s.known:
        return None
    text = f"{s.string} is on {s.tracker}, which this inverter does not have."
    return Breach(s.string, text, "Choose a tracker of this inverter.", field=f"strings.{s.string}.tracker")


class Labels(Facts):
    """Labels of an input's strings, at the roof and at the inverter."""

    place: str
    pairs: Sequence[tuple[str, str]]
    field: str


@rule("PV-LABEL")
def labelled_alike(s: Labels) -> Breach | None:
    """A string has one label at both ends."""
    if all(top and top == bottom for top, bottom in s.pairs):
        return None
    text = f"A string on {s.place} is not labelled alike at both ends."
    return Breach(s.place, text, "Write the same label at the roof and at the inverter.", field=s.field)


class OneLabel(Facts):
    """A label as people read it, and the strings that carry it."""

    label: str
    strings: Sequence[str]


@rule("PV-LABEL-TWICE")
def labelled_once(s: OneLabel) -> Breach | None:
    """A label stands on one string of the house."""
    if len(s.strings) < 2:
        return None
    text = f"{' and '.join(s.strings)} are both labelled {s.label}: a plug can go to the wrong input and nobody sees it."
    return Breach(s.strings[-1], text, "Give each string a label of its own.", field=f"strings.{s.strings[-1]}.label_top")


class Shutdown(Facts):
    """Rapid shutdown of an array on a building; None where nobody has answered."""

    fitted: bool | None


@rule("PV-SHUTDOWN")
def rapid_shutdown(s: Shutdown) -> Breach | None:
    """The array of a building can be made dead by a fire crew; an open question is a gap, not a breach."""
    if s.fitted is not False:
        return None
    return Breach(
        "array",
        "The array on this building has no rapid shutdown.",
        "Fit listed shutdown equipment at the modules and its initiator outside; take the factory bridge out.",
        field="site.rapid_shutdown",
    )
