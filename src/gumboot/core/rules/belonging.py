"""Do the chosen cards belong together: inverter and grid, gateway, generator, boards and their places?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.card.boxes import BoardCard
from gumboot.core.card.inverter import InverterCard
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule

# The port that each place of a board cannot do without.
PORT_OF_PLACE = {
    "combining_panel": "INVERTERS",
    "roof_box": "EARTH",
    "busbar_box": "BATTERIES",
    "sub_board": "MAIN",
    "main_board": "BREAKER",
    "board_ahead": "BREAKER",
}


class Beside(Facts):
    """An inverter with what is chosen beside it."""

    inverter: InverterCard
    supply: str
    has_transfer: bool
    generator: str = ""
    place: str = "inverter"

    @property
    def ports(self) -> set[str]:
        """Its ports by id."""
        return {p.id for p in self.inverter.ports}


@rule("INV-GRID")
def has_its_grid(b: Beside) -> Breach | None:
    """An inverter that cannot stand alone has a grid."""
    if b.supply != "none" or b.inverter.role in ("off-grid", "hybrid"):
        return None
    text = f"{b.inverter.title} needs a grid; the network brings none."
    return Breach(b.place, text, "Choose an inverter that forms its own grid.", field=f"things.{b.place}.card")


@rule("INV-TRANSFER")
def has_its_gateway(b: Beside) -> Breach | None:
    """An inverter with one AC port has its transfer box or gateway chosen with it."""
    if "AC" not in b.ports or b.has_transfer:
        return None
    text = f"{b.inverter.title} has one AC port: it needs its transfer box or gateway."
    return Breach(b.place, text, "Choose its transfer box or gateway.", field="things.transfer.card")


@rule("GEN-PORT")
def has_generator_input(b: Beside) -> Breach | None:
    """A generator joins an inverter that has an input for it."""
    if not b.generator or "GEN" in b.ports:
        return None
    text = f"{b.inverter.title} has no generator input."
    return Breach("generator", text, "Choose an inverter with one, or take the generator off.", field=f"things.{b.generator}.card")


class Placed(Facts):
    """A board at one of the places that boards have."""

    board: BoardCard
    role: str
    field: str = "things"
    where: str = ""


@rule("BOARD-PORTS")
def has_the_terminals(p: Placed) -> Breach | None:
    """A board has the terminals that its place asks for."""
    if PORT_OF_PLACE[p.role] in {port.id for port in p.board.ports}:
        return None
    text = f"{p.board.title} has not the terminals for this place."
    return Breach(p.where or p.role.replace("_", " "), text, "Choose a board made for this place.", field=p.field)


BESIDE = (has_its_grid, has_its_gateway, has_generator_input)


class Hanging(Facts):
    """A bank and the inverters that hang on it."""

    bank: str
    inverters: Sequence[str]


@rule("BANK-IDLE")
def serves_an_inverter(h: Hanging) -> Breach | None:
    """Every bank serves an inverter: one that none hangs on is not worked out, and a bank that is forgotten still holds its energy."""
    if h.inverters:
        return None
    act = "Hang an inverter on it, or take it out of the job."
    return Breach(h.bank, f"No inverter hangs on {h.bank}: it is not worked out.", act, field="things")
