"""Is a conductor's insulation one that the book knows, in a place where it may lie?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule


class Insulated(Facts):
    """Insulation of a run against the types that its book knows, and against the places where a type may lie.

    ``astray`` says in words where non-metallic cable lies that it may not; empty where it may, and for any other type.
    """

    circuit: str
    insulation: str
    known: Sequence[str]
    astray: str = ""
    field: str = ""


@rule("COND-INSULATION")
def insulation_known(x: Insulated) -> Breach | None:
    """The insulation is a type of the rule book: of another nothing is known, and it is reckoned at the lowest temperature."""
    if x.insulation in x.known:
        return None
    text = f"{x.circuit} is laid in {x.insulation}, which is no type of this rule book."
    return Breach(x.circuit, text, f"Choose one of: {', '.join(x.known)}.", field=x.field)


@rule("COND-NM")
def cable_in_its_place(x: Insulated) -> Breach | None:
    """Non-metallic cable lies indoors, dry, and on the AC side."""
    if not x.astray:
        return None
    return Breach(x.circuit, f"{x.circuit} is laid in {x.insulation} {x.astray}.", "Pull THWN-2 or XHHW-2 in a raceway.", field=x.field)


class PvWire(Facts):
    """Insulation of a PV run: whether the book takes it, and what it advises."""

    circuit: str
    taken: bool
    advice: str
    field: str = ""


@rule("PV-WIRE")
def pv_wire(w: PvWire) -> Breach | None:
    """PV runs lie in insulation made for heat, wet and high DC voltage."""
    if w.taken:
        return None
    text = f"{w.circuit} is laid in PVC: PV runs are hot, wet and at high DC voltage."
    return Breach(w.circuit, text, w.advice, field=w.field)
