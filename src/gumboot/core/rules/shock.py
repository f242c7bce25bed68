"""Does a fault to earth trip in time, with the grid and in island mode, and is there an earth to trip to?"""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule

HAIR = 1e-9
# A device of a later type sees all that an earlier one sees.
TYPE_RANK = {"AC": 0, "A": 1, "F": 2, "B": 3}


class Loop(Facts):
    """An earth-fault loop against the most at which its device trips; ``most`` is None where the device is a fuse."""

    circuit: str
    loop: Figure
    most: Figure | None
    guarded: bool
    field: str


@rule("LOOP-SLOW")
def trips_in_time(x: Loop) -> Breach | None:
    """The device trips in time at the loop's impedance, or a residual device guards the circuit."""
    if x.guarded or (x.most is not None and x.loop.value <= x.most.value):
        return None
    if x.most is None:
        text = f"{x.circuit} is guarded by a fuse: its disconnection current stands in its maker's curve, not here."
        return Breach(x.circuit, text, "Read the curve at the loop impedance shown, or fit a residual device.", x.loop, field=x.field)
    text = f"The loop of {x.circuit} has {x.loop.value:.2f} ohm; its device trips in time up to {x.most.value:.2f} ohm."
    act = "Fit a residual device, a lower curve, or a larger earth conductor."
    return Breach(x.circuit, text, act, x.loop, x.most, x.field)


class Heat(Facts):
    """An earth conductor against the area that bears the heat of a fault."""

    circuit: str
    earth: Figure
    heat: Figure
    fault_a: float
    field: str


@rule("EARTH-HEAT")
def bears_the_heat(h: Heat) -> Breach | None:
    """The earth conductor bears the heat of a fault at the near end of its circuit."""
    if h.earth.value >= h.heat.value - HAIR:
        return None
    text = f"A fault of {h.fault_a:.0f} A heats the {h.earth.label} earth conductor beyond its limit: {h.heat.value:.1f} mm2 are needed."
    return Breach(h.circuit, text, "Pull a larger earth conductor.", h.earth, h.heat, h.field)


class Earthing(Facts):
    """Earthing arrangement of the supply."""

    system: str


@rule("SHOCK-IT")
def not_it(e: Earthing) -> Breach | None:
    """An IT supply is not judged here, and does not pass."""
    if e.system != "IT":
        return None
    text = "The supply is IT: first-fault current, insulation monitoring and the second fault are not judged here."
    act = "A licensed person plans its protection by IEC 60364-4-41 411.6 and the local code."
    return Breach("supply", text, act, field="site.earthing")


class Island(Facts):
    """A fault in island mode: what the inverter gives, what the device needs, and how fast the inverter shuts down."""

    device: Figure
    trip: Figure | None
    fault: Figure | None
    shutdown: Figure | None
    longest: Figure
    guarded: bool
    circuit: str = "backup"


@rule("ISLAND-SLOW")
def island_trips(i: Island) -> Breach | None:
    """In island mode the device trips, the inverter shuts down in time, or a residual device guards the backed-up side."""
    by_device = i.fault is not None and i.trip is not None and i.fault.value >= i.trip.value
    by_inverter = i.shutdown is not None and i.shutdown.value <= i.longest.value
    if by_device or by_inverter or i.guarded:
        return None
    said = f"the inverter gives {i.fault.value:.0f} A" if i.fault else "the card does not say what the inverter gives"
    text = (
        f"In island mode {said} into a fault; the {i.device.value:.0f} A device needs {i.trip.value:.0f} A to trip."
        if i.trip
        else f"In island mode {said} into a fault, and a fuse trips only by its maker's curve."
    )
    act = "Fit a residual device on the backed-up side, or show the maker's shutdown time."
    field = f"runs.{i.circuit}.residual_ma"
    return Breach(i.circuit, text, act, i.shutdown or i.fault, i.longest if i.shutdown else i.trip, field)


class Residual(Facts):
    """The residual device of a circuit, where one is fitted, against why one is wanted and of which type."""

    circuit: str
    required_because: str
    rating: Figure | None
    type_fitted: str
    type_wanted: str
    run: str


@rule("RCD-MISSING")
def residual_fitted(r: Residual) -> Breach | None:
    """Where a TT supply or the maker asks for a residual device, one is fitted."""
    if not r.required_because or r.rating is not None:
        return None
    text = f"{r.circuit} has no residual device; {r.required_because}."
    return Breach(r.circuit, text, "Fit one of the type and rating shown.", field=f"runs.{r.run}.residual_ma")


@rule("RCD-TYPE")
def residual_type_sees(r: Residual) -> Breach | None:
    """A residual device that is fitted sees the inverter's fault current."""
    if r.rating is None or TYPE_RANK[r.type_fitted] >= TYPE_RANK[r.type_wanted]:
        return None
    text = f"The residual device of {r.circuit} is type {r.type_fitted}; this inverter asks type {r.type_wanted}."
    act = f"Fit type {r.type_wanted}: smooth direct current blinds a lesser type."
    return Breach(r.circuit, text, act, field=f"runs.{r.run}.residual_type")


class Rated(Facts):
    """Rating of a residual device against a limit: the most that guards against fire, or the least that its maker asks."""

    circuit: str
    rating: Figure
    limit: Figure
    run: str


@rule("RCD-FIRE")
def guards_against_fire(r: Rated) -> Breach | None:
    """A residual device guards people or against fire."""
    if r.rating.value <= r.limit.value:
        return None
    text = f"{r.rating.value:g} mA guards neither people nor against fire."
    act = "Keep the maker's rating, and add the protection that the place asks for."
    return Breach(r.circuit, text, act, r.rating, r.limit, f"runs.{r.run}.residual_ma")


class Stays(Facts):
    """A residual device between the maker's least rating and what the electrode lets it be; None where nothing is asked."""

    circuit: str
    rating: Figure
    run: str
    least: Figure | None = None
    electrode: Figure | None = None
    electrode_most: Figure | None = None


@rule("RCD-RATING")
def rating_fits(s: Stays) -> Breach | None:
    """The rating is at least the maker's, and low enough for the electrode behind it."""
    field = f"runs.{s.run}.residual_ma"
    if s.least is not None and s.rating.value < s.least.value:
        text = f"A {s.rating.value:g} mA device trips on this inverter's own leakage; its maker asks at least {s.least.value:g} mA."
        return Breach(s.circuit, text, f"Fit {s.least.value:g} mA or more.", s.rating, s.least, field)
    if s.electrode is not None and s.electrode_most is not None and s.electrode.value > s.electrode_most.value:
        text = (
            f"The electrode has {s.electrode.value:g} ohm; behind {s.rating.value:g} mA at most {s.electrode_most.value:.0f} ohm may stand."
        )
        act = "Improve the electrode or fit a more sensitive device."
        return Breach(s.circuit, text, act, s.electrode, s.electrode_most, field)
    return None


class IslandEarth(Facts):
    """Whether an electrode of the installation's own stands, and why one is needed; None where nobody has answered."""

    stands: bool | None
    needed_because: str


@rule("ISLAND-EARTH")
def island_earth(e: IslandEarth) -> Breach | None:
    """An island that loses the supply's earth has an electrode of its own; an open question is a gap, not a breach."""
    if not e.needed_because or e.stands is not False:
        return None
    text = f"The island has no earth electrode of its own, and {e.needed_because}."
    return Breach("island", text, "Drive an electrode, bond it, and measure it.", field="site.island_electrode")


class Electrode(Facts):
    """An electrode conductor as fitted against what is required beside a service conductor."""

    fitted: Figure
    required: Figure
    service: str


@rule("ELECTRODE-SMALL")
def electrode_large_enough(e: Electrode) -> Breach | None:
    """The electrode conductor is at least what the table asks."""
    if e.fitted.value >= e.required.value - HAIR:
        return None
    text = f"The electrode conductor is {e.fitted.label}; {e.required.label} is required beside {e.service}."
    return Breach("electrode", text, f"Pull {e.required.label}.", e.fitted, e.required, "site.electrode_size")


class Bonding(Facts):
    """A main bonding conductor as fitted against what is required beside the supply's conductors."""

    fitted: Figure
    required: Figure
    supply: str


@rule("BONDING-SMALL")
def bonding_large_enough(b: Bonding) -> Breach | None:
    """The main bonding conductor is at least what the supply asks."""
    if b.fitted.value >= b.required.value - HAIR:
        return None
    text = f"The main bonding conductor is {b.fitted.label}; {b.required.value:g} mm2 are required beside {b.supply}."
    return Breach("bonding", text, f"Pull {b.required.value:g} mm2.", b.fitted, b.required, "site.bonding_size")


class ElectrodeMetal(Facts):
    """Of what an electrode conductor is made, and what it leads to."""

    material: str
    electrode: str
    in_the_earth: bool


@rule("ELECTRODE-ALUMINIUM")
def metal_near_earth(e: ElectrodeMetal) -> Breach | None:
    """No aluminium ends in or near the earth, where it is eaten."""
    if e.material != "aluminium" or not e.in_the_earth:
        return None
    text = f"An aluminium electrode conductor leads to a {e.electrode}: outside it may not end within 450 mm (18 in) of the earth."
    return Breach("electrode", text, "Pull copper, or end it indoors on a water pipe or steel.", field="site.electrode_material")
