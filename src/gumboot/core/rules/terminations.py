"""Does this conductor belong into this terminal: its size, class, metal, preparation, room to bend, torque, and company?"""

from __future__ import annotations

from gumboot.core.card.parts import Terminal
from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule
from gumboot.core.sizes import area_mm2

HAIR = 1e-9
# Widest stud-to-hole play that still seats a lug on the whole of its palm, and play of a strip length (common practice).
LUG_PLAY_MM, STRIP_PLAY_MM = 1.0, 1.0


class Landing(Facts):
    """One conductor end about to land in one terminal; ``field`` cures its size."""

    where: str
    terminal: Terminal
    size: str
    wire_class: str
    material: str
    circuit: str
    field: str


@rule("TERM-RANGE")
def size_in_range(x: Landing) -> Breach | None:
    """The conductor's size lies within the terminal's range."""
    least, most = x.terminal.size_min, x.terminal.size_max
    if area_mm2(least) - HAIR <= area_mm2(x.size) <= area_mm2(most) + HAIR:
        return None
    text = f"{x.size} does not fit {x.where}: it takes {least} to {most}."
    return Breach(x.where, text, "Use a size in range, or a listed pin adapter.", field=x.field)


@rule("TERM-CLASS")
def class_accepted(x: Landing) -> Breach | None:
    """The terminal takes the conductor's class of strands."""
    if x.wire_class in x.terminal.wire_classes:
        return None
    text = f"{x.where} takes {' or '.join(x.terminal.wire_classes)} wire; {x.wire_class} is planned."
    act = f"Pull {x.terminal.wire_classes[0]} wire."
    return Breach(x.where, text, act, field=x.field.replace("installed_size", "wire_class"))


@rule("COND-MATERIAL")
def metal_accepted(x: Landing) -> Breach | None:
    """The terminal is marked for the conductor's metal."""
    if x.material in x.terminal.materials:
        return None
    text = f"{x.where} is not marked for {x.material}."
    return Breach(x.where, text, "Use copper, or a listed adapter.", field=f"runs.{x.circuit}.material")


class Prepared(Facts):
    """A measure of a conductor end as prepared, against its card."""

    where: str
    found: Figure
    wanted: Figure
    stud: str = ""
    field: str = ""


@rule("TERM-STRIP")
def stripped_to_length(p: Prepared) -> Breach | None:
    """The strip length is what the card asks."""
    if abs(p.found.value - p.wanted.value) <= STRIP_PLAY_MM + HAIR:
        return None
    text = f"{p.found.value:g} mm are stripped for {p.where}; its card asks {p.wanted.value:g} mm."
    act = "Strip it to length: too short is a clamp on insulation, too long is bare metal outside."
    return Breach(p.where, text, act, p.found, p.wanted, p.field)


@rule("TERM-LUG")
def lug_fits(p: Prepared) -> Breach | None:
    """The lug's hole fits the stud, and its palm seats on it."""
    if p.wanted.value <= p.found.value <= p.wanted.value + LUG_PLAY_MM + HAIR:
        return None
    text = f"The lug's hole is {p.found.value:g} mm; {p.where} has an {p.stud} stud."
    return Breach(p.where, text, f"Use a lug for {p.stud}.", p.found, p.wanted, p.field)


class Bend(Facts):
    """Room to bend at a terminal against what the conductor's size needs."""

    where: str
    size: str
    room: Figure
    need: Figure
    circuit: str


@rule("BEND-SPACE")
def room_to_bend(b: Bend) -> Breach | None:
    """There is room to bend the conductor in front of its terminal."""
    if b.room.value >= b.need.value - HAIR:
        return None
    text = f"{b.size} needs {b.need.value:.0f} mm to bend; {b.where} has {b.room.value:g} mm."
    act = "Bring the conductor in from another side, or use a smaller one in parallel."
    return Breach(b.where, text, act, b.room, b.need, f"runs.{b.circuit}.installed_size")


class Torqued(Facts):
    """Where the torque of a terminal comes from: its card, or the fallback for its screw; None where the fallback is silent too."""

    where: str
    size: str
    from_card: bool
    has_screw: bool
    fallback_nm: float | None


@rule("TERM-FALLBACK")
def torque_of_the_maker(t: Torqued) -> Breach | None:
    """The maker gives the torque; a fallback is said aloud, and nothing at all is a stop."""
    if t.from_card or not t.has_screw:
        return None
    found = t.fallback_nm
    by_table = f" Annex I gives {found:.1f} N m for {t.size} and this screw." if found else " Annex I has no value for it either."
    act = (
        "Ask the maker; use the fallback only if there is no answer, and record that it was used."
        if found
        else "Ask the maker before landing it."
    )
    return Breach(t.where, f"The maker gives no torque for {t.where}.{by_table}", act, level="caution" if found else "stop")


class Crowded(Facts):
    """Conductors under one clamp against what it takes."""

    where: str
    conductors: int
    most: int


@rule("TERM-DOUBLE")
def one_clamp(c: Crowded) -> Breach | None:
    """No more conductors under a clamp than it takes."""
    if c.conductors <= c.most:
        return None
    text = f"{c.where} has {c.conductors} conductors under one clamp; it takes {c.most}."
    return Breach(c.where, text, "Use another terminal or a listed splice.")


LANDED = (metal_accepted, size_in_range, class_accepted)
# What can be asked of a conductor whose size is not known yet.
SIZELESS = (metal_accepted, class_accepted)
