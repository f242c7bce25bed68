"""Is there exactly one neutral-earth bond in every mode: with the grid, in island, with the generator?"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule

BONDS_AT_BOARDS = {"main board": 1, "both boards": 2, "none": 0}
InverterBond = Literal["relay", "fixed in gateway", "none"]


class Bonds(Facts):
    """Where the neutral is bonded. ``opens_neutral`` is None where no card says whether the neutral is opened in island mode."""

    inverter: str
    boards: str
    by_inverter: InverterBond
    off_grid: bool
    opens_neutral: bool | None
    generator_bonded: bool = False

    @property
    def at_boards(self) -> int:
        """Bonds that stand in boards."""
        return BONDS_AT_BOARDS[self.boards]

    @property
    def fixed(self) -> int:
        """Bonds that stand in the gateway in every mode."""
        return int(self.by_inverter == "fixed in gateway")


@rule("BOND-GRID")
def bond_with_grid(b: Bonds) -> Breach | None:
    """With the grid present there is exactly one bond."""
    found = b.at_boards + b.fixed
    if b.off_grid or found == 1:
        return None
    act = "Keep exactly one: at the main board, or fixed in the gateway and then at no board."
    return Breach("neutral", f"{found} neutral-earth bonds while the grid is present.", act, field="site.neutral_bond")


_BY_INVERTER = {
    "relay": "and the inverter bonds by a relay.",
    "fixed in gateway": "and the gateway holds a fixed bond.",
    "none": "and the inverter makes none.",
}


@rule("BOND-ISLAND")
def bond_in_island(b: Bonds) -> Breach | None:
    """In island mode there is exactly one bond; where nobody says whether the neutral is opened, it cannot be counted."""
    # A neutral that is not opened keeps the main board's bond on the backed-up side through an outage.
    lost = b.boards != "none" and b.opens_neutral is True and not b.off_grid
    found = b.at_boards - lost + (b.by_inverter != "none")
    known = b.off_grid or b.opens_neutral is not None
    if known and found == 1:
        return None
    if not known:
        text = f"The card of {b.inverter} does not say whether it opens the neutral in an outage: the bonds cannot be counted."
    else:
        path = "" if b.off_grid else f"the neutral {'is opened' if b.opens_neutral else 'stays joined'} to the grid's, "
        text = f"{found} neutral-earth bonds on the backed-up side in an outage: {path}{_BY_INVERTER[b.by_inverter]}"
    act = "Exactly one: the main board's where the neutral stays joined; else the inverter's relay or a fixed bond, never both."
    return Breach("neutral", text, act, field="site.neutral_bond")


@rule("BOND-GENERATOR")
def bond_with_generator(b: Bonds) -> Breach | None:
    """While the generator feeds there is exactly one bond."""
    found = b.generator_bonded + b.fixed + b.at_boards
    if found == 1:
        return None
    own = "its own" if b.generator_bonded else "none of its own"
    text = f"{found} neutral-earth bonds while the generator feeds: {own}, and what stands in the boards."
    act = "Take the generator's own bond out, or keep the only one there."
    return Breach("generator", text, act, field="site.neutral_bond")


class Behind(Facts):
    """A main board that another feeds, and whether its neutral is bonded to earth there; None where nobody has looked."""

    board: str
    bonded: bool | None


@rule("BOND-BEHIND")
def bond_ahead_alone(b: Behind) -> Breach | None:
    """A main board behind another has no bond of its own: the one of its supply stands ahead of it. An open question is a gap."""
    if not b.bonded:
        return None
    text = f"The neutral is bonded to earth in {b.board} as well, behind the bond of its supply: neutral current flows in the earth of its feeder."
    act = "Take the bond in that board out, with its neutral bar apart from its earth bar."
    return Breach("neutral", text, act, field=f"things.{b.board}.bonded")


class Generators(Facts):
    """The generators that feed one backed-up side."""

    names: Sequence[str]


@rule("GEN-ONE")
def one_generator(g: Generators) -> Breach | None:
    """One generator at a time feeds a backed-up side: two are never in step."""
    if len(g.names) <= 1:
        return None
    text = f"{len(g.names)} generators feed one backed-up side ({', '.join(g.names)}): two are never in step."
    act = "Keep one on an input; a second takes turns with it by an interlocked changeover, or feeds a house of its own."
    return Breach(g.names[1], text, act, field="things")
