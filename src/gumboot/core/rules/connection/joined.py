"""May this system be joined to the grid and its boards: bars, devices, switches, export?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.figure import Figure
from gumboot.core.rules.connection.grid import HAIR
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule


class Through(Facts):
    """What the grid feed carries against what the inverter passes."""

    design: Figure
    most: Figure
    where: str = "grid"


@rule("GRID-PASS-THROUGH")
def pass_through(t: Through) -> Breach | None:
    """The inverter passes what the grid feed carries."""
    if t.design.value <= t.most.value:
        return None
    text = f"The grid feed would carry {t.design.value:.1f} A; the inverter passes {t.most.value:g} A."
    act = "Back up fewer loads or charge more slowly from the grid."
    return Breach(t.where, text, act, t.design, t.most, "settings.grid_charge_a")


class Bar(Facts):
    """Main device and sources on a busbar against what it may carry."""

    where: str
    total: Figure
    limit: Figure
    feeds: str = "Main device and inverter"
    bar: str = "the busbar"
    act: str = "Move the breaker to the far end, reduce the main device, or connect on the supply side."
    field: str = ""


@rule("BUS-120")
def busbar(b: Bar) -> Breach | None:
    """Main device and sources stay within what the book allows of the busbar."""
    if b.total.value <= b.limit.value + HAIR:
        return None
    text = f"{b.feeds} add to {b.total.value:.1f} A; {b.bar} allows {b.limit.value:.1f} A."
    return Breach(b.where, text, b.act, b.total, b.limit, b.field)


@rule("GRID-MAIN-SWITCH")
def main_switch(b: Bar) -> Breach | None:
    """Main device and sources stay within busbar and main switch."""
    if b.total.value <= b.limit.value + HAIR:
        return None
    text = f"{b.feeds} add to {b.total.value:.1f} A; {b.bar} carries {b.limit.value:.1f} A."
    return Breach(b.where, text, b.act, b.total, b.limit, b.field)


class Ahead(Facts):
    """A bar or a switch behind the device ahead of it."""

    where: str
    rated: Figure
    device: Figure
    field: str


@rule("BUS-DEVICE")
def behind_its_device(a: Ahead) -> Breach | None:
    """A bar or transfer switch is rated for the device ahead of it."""
    if a.device.value <= a.rated.value + HAIR:
        return None
    text = f"{a.where.capitalize()}: rated {a.rated.value:g} A, behind a device of {a.device.value:g} A."
    act = "Choose a larger bar or switch, or a smaller device ahead of it."
    return Breach(a.where, text, act, a.device, a.rated, a.field)


class Fed(Facts):
    """A backed-up board and the inverters that feed it."""

    board: str
    inverters: Sequence[str]


@rule("BOARD-UNFED")
def board_is_fed(f: Fed) -> Breach | None:
    """A backed-up board is fed by an inverter."""
    if f.inverters:
        return None
    text = f"No inverter feeds {f.board}: it is dark in an outage, and its loads are not carried."
    act = "Say which board, panel or transfer equipment feeds it, or take it out of the job."
    return Breach(f.board, text, act, field=f"things.{f.board}.fed_from")


class FedBy(Facts):
    """A backed-up board, or the inverter side of transfer equipment, and what feeds it; inverters count as one, for a rule of their own."""

    place: str
    by: Sequence[str]
    field: str


@rule("FED-TWICE")
def is_fed_once(f: FedBy) -> Breach | None:
    """What is fed in an outage is fed by one way: two ways join two sources, or the grid of one to the island of the other."""
    if len(f.by) <= 1:
        return None
    text = f"{f.place} is fed by {' and by '.join(f.by)}: two ways meet there, and one of them may carry the grid."
    return Breach(f.place, text, "Let one thing feed it, and give what else is fed a board of its own.", field=f.field)


class Against(Facts):
    """One figure against the most that it may be."""

    found: Figure
    most: Figure
    where: str = "grid"


@rule("BUS-FEEDER")
def feeder_takes_it_back(a: Against) -> Breach | None:
    """The feeder of a main board behind another takes back what its sources give; its main device bounds what it may carry."""
    if a.found.value <= a.most.value + HAIR:
        return None
    text = f"Sources send {a.found.value:.1f} A back along the feeder of {a.where}; its main device is {a.most.value:g} A."
    act = "Join them to the board ahead, or choose a board with a larger main where its feeder carries that."
    return Breach(a.where, text, act, a.found, a.most, f"things.{a.where}.card")


@rule("GRID-SUPPLY-SIDE")
def supply_side(a: Against) -> Breach | None:
    """On the supply side the sources stay within the service's rating."""
    if a.found.value <= a.most.value:
        return None
    text = f"The sources give {a.found.value:.1f} A; a supply-side connection may not exceed the service's {a.most.value:g} A."
    return Breach("main board", text, "Choose a smaller inverter or a larger service.", a.found, a.most, "site.connection")


@rule("GRID-CONTROLLED")
def controlled(a: Against) -> Breach | None:
    """A power control holds no more than the busbar's rating."""
    if a.found.value <= a.most.value:
        return None
    text = f"The power control is set to {a.found.value:g} A; the busbar is rated {a.most.value:g} A."
    act = "Lower the setting to the busbar's rating, and lock it."
    return Breach("main board", text, act, a.found, a.most, "site.control_setting_a")


@rule("DEVICE-OVER-MAKER")
def maker_allows_device(a: Against) -> Breach | None:
    """The grid breaker is no larger than the inverter's grid port allows."""
    if a.found.value <= a.most.value:
        return None
    text = f"The grid breaker is {a.found.value:.0f} A; the inverter's grid port allows {a.most.value:.0f} A."
    return Breach(a.where, text, f"Fit {a.most.value:.0f} A or less.", a.found, a.most, f"runs.{a.where}.device_a")


@rule("GEN-INPUT")
def generator_input(a: Against) -> Breach | None:
    """The generator's device is no larger than the input bears."""
    if a.found.value <= a.most.value:
        return None
    text = f"The generator's device is {a.found.value:g} A; the input bears {a.most.value:g} A."
    return Breach("generator", text, "Fit a smaller device in the generator feed.", a.found, a.most, ".card")


@rule("GEN-SMALL")
def generator_power(a: Against) -> Breach | None:
    """The generator carries the backed-up loads and the charger together."""
    if a.found.value <= a.most.value:
        return None
    text = f"Loads and charger ask {a.found.value:.0f} W; the generator gives {a.most.value:.0f} W."
    act = "Charge more slowly, back up less while it runs, or choose a larger generator."
    return Breach("generator", text, act, a.found, a.most, "settings.grid_charge_a")


# Without load a governor stands a little above its frequency (common practice).
MOST_APART_HZ = 3.0


class Generated(Facts):
    """A generator's voltage and lines against those of the input that it feeds; no lines where its card lists no outlet."""

    title: str
    where: str
    inverter: str
    volts: Figure
    wanted: Figure
    lines: int
    wants: int


@rule("GEN-VOLTAGE")
def generator_voltage(g: Generated) -> Breach | None:
    """The generator's voltage lies within a tenth of what the inverter is made for."""
    if abs(g.volts.value - g.wanted.value) <= 0.1 * g.wanted.value + HAIR:
        return None
    text = f"{g.title} gives {g.volts.value:g} V; {g.inverter} takes {g.wanted.value:g} V."
    return Breach(g.where, text, "Choose a generator of this voltage, or a transformer its maker allows.", g.volts, g.wanted, ".card")


class Hertz(Facts):
    """A generator's frequency against that of the house; ``gives`` is None where its card is silent."""

    title: str
    where: str
    gives: Figure | None
    wanted: Figure


@rule("GEN-FREQUENCY")
def generator_frequency(h: Hertz) -> Breach | None:
    """The generator runs at the frequency of the house."""
    if h.gives is not None and abs(h.gives.value - h.wanted.value) <= MOST_APART_HZ + HAIR:
        return None
    says = f"gives {h.gives.value:g} Hz" if h.gives else "does not state its frequency"
    text = f"{h.title} {says}; the house runs at {h.wanted.value:g} Hz."
    act = "Choose a generator of this frequency, or complete its card from the plate."
    return Breach(h.where, text, act, h.gives, h.wanted, ".card")


@rule("GEN-LINES")
def generator_lines(g: Generated) -> Breach | None:
    """The generator has as many lines as the input asks for."""
    if not g.lines or not g.wants or g.lines == g.wants:
        return None
    text = (
        f"{g.title} has {g.lines} live {'conductor' if g.lines == 1 else 'conductors'}; the generator input of {g.inverter} has {g.wants}."
    )
    return Breach(g.where, text, "Choose a generator of the same kind of supply as the input.", field=".card")


@rule("TRANSFER-CAPACITY")
def transfer_capacity(a: Against) -> Breach | None:
    """The transfer equipment carries what passes through it."""
    if a.found.value <= a.most.value:
        return None
    text = f"{a.found.value:.1f} A pass through the transfer equipment; it is rated {a.most.value:g} A."
    return Breach(a.where, text, "Choose larger transfer equipment or back up less.", a.found, a.most, ".card")


@rule("GRID-NOTIFY")
def notification(a: Against) -> Breach | None:
    """A source of the connect-and-tell class stays within it; above it the operator is asked first."""
    if a.found.value <= a.most.value + HAIR:
        return None
    text = f"The sources give {a.found.value:.1f} A per phase, above the {a.most.value:g} A that is only notified."
    return Breach("grid", text, "Ask the network operator before connecting.", a.found, a.most)
