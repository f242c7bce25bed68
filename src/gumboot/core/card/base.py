"""What every card has, and what every card of an enclosure has."""

from __future__ import annotations

from functools import cached_property
from typing import Annotated, Literal, NamedTuple, Self

from pydantic import Field

from gumboot.core.card.fitting_up import Cover, Entries, Ferrite, Joint, Note, Pointer
from gumboot.core.card.parts import Body, Frozen, Port, Terminal
from gumboot.core.errors import WrongCard
from gumboot.core.figure import Figure, card_value
from gumboot.core.quantity import Quantity, locate, quantity


class ReadSoFar(NamedTuple):
    """What was read off a card, so that it is read once: figures by field, terminals by port and id, torques with their bands.

    ``prepared`` says how a conductor's end is made ready and tightened and how its port is called, for each end that was asked about and
    that its terminal takes.
    """

    figures: dict[str, Figure]
    terminals: dict[tuple[str, str], Terminal]
    torques: dict[tuple[str, str, str], tuple[Figure, ...]]
    prepared: dict[tuple[str, ...], tuple[str, tuple[Figure, ...], str]]


class CardBase(Frozen):
    """What every card says of itself."""

    format: Literal["gumboot.card/2"] = "gumboot.card/2"
    id: str = Field(pattern=r"^[a-z0-9-]+$")
    revision: int = Field(ge=1)
    title: str
    maker: str
    house_notes: list[str] = []
    notes: list[Note] = Field([], max_length=40, description="House notes that belong to one part of the work")
    manual: list[Pointer] = Field([], max_length=40, description="Where the maker's manual tells of a part of the work")

    @cached_property
    def read_so_far(self) -> ReadSoFar:
        """What was read off this card so far."""
        return ReadSoFar({}, {}, {}, {})

    def __copy__(self) -> Self:
        """A copy may be given other values: what was read off this card was not read off that one."""
        made = super().__copy__()
        made.__dict__.pop("read_so_far", None)
        return made

    def figure(self, field: str) -> Figure | None:
        """A number of this card as a figure, made once; ``field`` steps by attribute, or by id within a list. None where it is silent."""
        known = self.read_so_far.figures
        found = known.get(field)
        if found is None:
            owner, last, value = locate(self, field)
            if value is None:
                return None
            told = quantity(type(owner), last)
            name = told.named(owner if owner is not self and "{id}" in told.name else self)
            found = known[field] = card_value(self.id, field, told.symbol, name, float(value), unit=told.unit)
        return found


def find_terminal(title: str, ports: list[Port], port: str, terminal: str) -> Terminal:
    """The terminal by port and terminal id. Raises WrongCard when the card lacks it."""
    for p in ports:
        if p.id == port:
            for t in p.terminals:
                if t.id == terminal:
                    return t
    raise WrongCard(f"{title} has no terminal {port} {terminal}. Choose a card that has one, or change what lands there.")


class EnclosureCard(CardBase):
    """A card of something with a body and terminals."""

    body: Body
    ports: list[Port]
    outdoors: Literal["no", "out of sun", "yes"] | None = Field(None, description="Whether its enclosure may stand outdoors")
    altitude_max_m: Annotated[float | None, Quantity("h_max", "Highest place that {title} may stand at", "m")] = Field(None, gt=0, le=6000)
    air_min_c: Annotated[float | None, Quantity("T_air_lo", "Coldest air that {title} works in", "°C")] = None
    air_max_c: Annotated[float | None, Quantity("T_air_hi", "Hottest air that {title} works in", "°C")] = None
    in_box: list[str] = Field([], max_length=20, description="What comes in its box beside it, such as bracket, screws and plugs")
    goes_in_first: list[str] = Field(
        [], max_length=12, description="What is in the box before it hangs: glands, conduit, radio stick, ferrites, shields"
    )
    hang_first: bool = Field(False, description="It hangs in its place before any conductor is landed in it")
    dress: str = Field("", max_length=200, description="How cores lie in it after they are landed: loop, ties, what they keep clear of")
    live_method: str = Field("", description="How the maker has ends landed that cannot be switched off")
    joints: list[Joint] = Field([], max_length=20, description="Joints made in the factory that are looked at before power")
    ferrites: list[Ferrite] = Field([], max_length=20)
    entries: Entries | None = None
    cover: Cover | None = None

    def terminal(self, port: str, terminal: str) -> Terminal:
        """The terminal by port and terminal id. Raises WrongCard when the card lacks it."""
        known = self.read_so_far.terminals
        found = known.get((port, terminal))
        if found is None:
            found = known[port, terminal] = find_terminal(self.title, self.ports, port, terminal)
        return found
