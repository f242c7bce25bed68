"""Does this conductor carry its current as it is laid, behind this device, with this earth, and is what it loses wanted?"""

from __future__ import annotations

from gumboot.core import sizes
from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule

HAIR = 1e-9


class Pulled(Facts):
    """A conductor as pulled against what the code asks and what the maker asks; ``maker`` is a size, empty where the card is silent."""

    circuit: str
    installed: Figure
    code: Figure
    maker: str = ""
    field: str = ""


@rule("COND-SMALL")
def large_enough(p: Pulled) -> Breach | None:
    """The conductor pulled is at least what the code asks."""
    if p.installed.value >= p.code.value - HAIR:
        return None
    text = f"{p.installed.label} is pulled; the code asks {p.code.label}."
    return Breach(p.circuit, text, f"Pull {p.code.label} or larger.", p.installed, p.code, p.field)


@rule("COND-MAKER")
def as_the_maker_asks(p: Pulled) -> Breach | None:
    """The conductor pulled is at least what the equipment's maker asks."""
    if not p.maker or p.installed.value >= sizes.area_mm2(p.maker) - HAIR:
        return None
    text = f"{p.installed.label} is pulled; the maker asks at least {p.maker}."
    return Breach(p.circuit, text, f"Pull {p.maker} or larger.", p.installed, field=p.field)


@rule("COND-MAKER-BELOW")
def maker_above_code(p: Pulled) -> Breach | None:
    """A maker's minimum below the code's answer is said aloud: the larger wins."""
    if not p.maker or sizes.area_mm2(p.maker) >= p.code.value - HAIR:
        return None
    text = f"The maker's minimum is {p.maker}; the code asks {p.code.label}."
    return Breach(p.circuit, text, f"The larger wins: {p.code.label}.", p.code)


class Behind(Facts):
    """A conductor behind its device; ``most`` is the largest that protects it, ``code`` the size that the device would ask."""

    circuit: str
    device: Figure
    most: Figure
    size: str
    code: str
    field: str = ""


@rule("COND-UNPROTECTED")
def protected(b: Behind) -> Breach | None:
    """The device protects the conductor as it is laid."""
    if b.device.value <= b.most.value:
        return None
    text = f"A {b.device.value:.0f} A device does not protect {b.size}; the largest is {b.most.value:.0f} A."
    return Breach(b.circuit, text, f"Pull {b.code} or fit a smaller device.", b.device, b.most, b.field)


class Device(Facts):
    """A device against the load that it carries; ``share`` of its rating for hours is what the book lets it carry."""

    circuit: str
    device: Figure
    needed: Figure
    least: Figure | None
    is_continuous: bool
    field: str = ""


@rule("DEVICE-SMALL")
def device_carries(d: Device) -> Breach | None:
    """The device carries its load, for hours where the book asks so."""
    if d.device.value >= d.needed.value - HAIR:
        return None
    text = (
        f"A {d.device.value:.0f} A device carries 80 % of its rating for hours; this circuit needs {d.needed.value:.1f} A at 125 %."
        if d.is_continuous
        else f"A {d.device.value:.0f} A device is smaller than the {d.needed.value:.1f} A it would carry."
    )
    act = (
        f"Fit {d.least.value:.0f} A, and the conductor for it."
        if d.least
        else "Choose the device for the load first, then the conductor for both."
    )
    return Breach(d.circuit, text, act, d.device, d.needed, d.field)


class Refused(Facts):
    """What a table refused, in its own words, or nothing."""

    circuit: str
    refusal: str
    field: str = ""


@rule("COND-TOO-HOT")
def cool_enough(r: Refused) -> Breach | None:
    """The insulation may be used at this temperature."""
    if not r.refusal:
        return None
    return Breach(r.circuit, r.refusal, "Re-route the conductor through a cooler place.", field=r.field)


@rule("COND-NONE")
def some_conductor(r: Refused) -> Breach | None:
    """Some conductor of the book's tables suffices. Outside its tables a rule does not guess: the circuit is held with the reason."""
    if not r.refusal:
        return None
    act = "Lower the current, cool the route, choose a size in the table, or use parallel sets."
    return Breach(r.circuit, r.refusal, act, field=r.field)


class Kind(Facts):
    """What the book allows of this cable at this place: parallel sets, portable cord, welding-type cable."""

    circuit: str
    installed: Figure
    sets: int
    cable: str
    parallel_allowed: bool
    cord_allowed: bool
    flexible_allowed: bool
    run: str


@rule("COND-PARALLEL")
def parallel_sets(k: Kind) -> Breach | None:
    """Parallel sets only of sizes for which the book allows them."""
    if k.sets == 1 or k.parallel_allowed:
        return None
    text = f"{k.sets} conductors of {k.installed.label} lie in parallel; only 1/0 AWG and larger may."
    act = "Pull one larger conductor, or sets of 1/0 AWG or more, all alike."
    return Breach(k.circuit, text, act, k.installed, field=f"runs.{k.run}.sets")


@rule("COND-CORD")
def no_cord(k: Kind) -> Breach | None:
    """A portable cord is no fixed wiring."""
    if k.cable != "cord" or k.cord_allowed:
        return None
    text = f"{k.circuit} is laid as a portable cord; a cord is no fixed wiring."
    act = "Use building wire; a cord may join a portable generator only."
    return Breach(k.circuit, text, act, k.installed, field=f"runs.{k.run}.cable")


@rule("COND-FLEX")
def flexible_cable(k: Kind) -> Breach | None:
    """Welding-type cable only where the book allows it, from the size it allows."""
    if k.cable != "flexible cable" or k.flexible_allowed:
        return None
    text = f"{k.installed.label} welding-type cable is laid; such cable may join a battery to its box from 2/0 AWG, and nothing else."
    act = "Use building wire with fine strands in terminals marked for it, or 2/0 AWG and larger at the battery."
    return Breach(k.circuit, text, act, k.installed, field=f"runs.{k.run}.cable")


class Earth(Facts):
    """An earth conductor as pulled against what is required."""

    circuit: str
    installed: Figure
    required: Figure
    field: str = ""


@rule("EARTH-SMALL")
def earth_large_enough(e: Earth) -> Breach | None:
    """The earth conductor is at least what is required."""
    if e.installed.value >= e.required.value - HAIR:
        return None
    text = f"The earth conductor is {e.installed.label}; {e.required.label} is required."
    return Breach(e.circuit, text, f"Pull {e.required.label}.", e.installed, e.required, e.field)


class Lost(Facts):
    """Drop of a run, or of all segments together, against a wish or a limit."""

    where: str
    pct: Figure
    most: Figure
    field: str = ""


@rule("DROP-OVER")
def drop_wanted(x: Lost) -> Breach | None:
    """No more is lost along a run than the crew wishes."""
    if abs(x.pct.value) <= x.most.value:
        return None
    text = f"{x.pct.value:.2f} % is lost along {x.where}; the wish is at most {x.most.value:g} %."
    return Breach(x.where, text, "Shorten the route or pull a larger conductor.", x.pct, x.most, x.field)


@rule("DROP-TOTAL")
def drop_in_all(x: Lost) -> Breach | None:
    """No more is lost from the origin than the book advises."""
    if x.pct.value <= x.most.value:
        return None
    text = f"{x.pct.value:.2f} % is lost from the main board to the backed-up board; {x.most.value:g} % is the most."
    return Breach(x.where, text, "Pull a larger conductor in the longest segment.", x.pct, x.most, x.field)


@rule("RISE-OVER")
def rise_held(x: Lost) -> Breach | None:
    """At full export the voltage rises no more than the book allows."""
    if abs(x.pct.value) <= x.most.value:
        return None
    text = f"The voltage rises by {abs(x.pct.value):.2f} % at full export; {x.most.value:g} % is the most."
    return Breach(x.where, text, "Shorten the run, pull a larger conductor, or lower the export.", x.pct, x.most, x.field)


KINDS = (parallel_sets, no_cord, flexible_cable)
