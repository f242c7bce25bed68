"""Do these conductors fit their raceway, and may they lie together?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule

HAIR = 1e-9


class Filled(Facts):
    """Fill of a raceway against the share allowed; ``refusal`` is what a table said where it could not be judged."""

    where: str
    raceway: str
    fill: Figure | None = None
    most: Figure | None = None
    refusal: str = ""
    clause: str = ""
    field: str = ""


@rule("RACEWAY-FULL")
def room_inside(f: Filled) -> Breach | None:
    """The conductors fill no more of a raceway than the book allows; what cannot be judged does not pass."""
    if f.fill is None or f.most is None:
        text = f"The fill of {f.where} cannot be judged: {f.refusal}"
        return Breach(f.where, text, "Write the size as the table does, or choose conductors that it holds.", field=f.field)
    if f.fill.value <= f.most.value + HAIR:
        return None
    text = f"The {f.raceway} of {f.where} is filled to {f.fill.value:.0f} %; {f.most.value:.0f} % is the most."
    act = "Take the next size or share the conductors between two raceways."
    return Breach(f.where, text, act, f.fill, f.most, f.field, source=f.clause)


class Named(Facts):
    """The names that a run gives of what lies in its raceway, and those of them that are no run of this house."""

    run: str
    unknown: Sequence[str]


@rule("RACEWAY-NAME")
def names_are_known(n: Named) -> Breach | None:
    """What lies in a raceway is named as this house names it; under another spelling it would be left out of everything."""
    if not n.unknown:
        return None
    text = f"{n.run} is said to lie with {' and '.join(n.unknown)}, which this house does not have."
    return Breach(n.run, text, "Write the names as they stand in the list of runs, or take them out.", field=f"runs.{n.run}.shares_with")


class Together(Facts):
    """Two circuits in one raceway: what they are and whether each carries direct current."""

    names: tuple[str, str]
    titles: tuple[str, str]
    kinds: tuple[str, str]
    direct: tuple[bool, bool]
    field: str = ""


@rule("RACEWAY-MIX")
def may_share(t: Together) -> Breach | None:
    """PV lies apart from all else, and direct current apart from alternating."""
    kinds = set(t.kinds)
    if kinds == {"pv"} or ("pv" not in kinds and t.direct[0] == t.direct[1]):
        return None
    text = f"{t.titles[0]} and {t.titles[1].lower()} lie in one raceway."
    return Breach(" and ".join(t.names), text, "Give each its own raceway, or a barrier.", field=t.field)
