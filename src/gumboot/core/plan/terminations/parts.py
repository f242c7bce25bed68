"""One conductor end in one terminal."""

from __future__ import annotations

from functools import lru_cache
from typing import Literal

from gumboot.core.card import Terminal
from gumboot.core.errors import WrongCard
from gumboot.core.figure import Figure
from gumboot.core.installation import End
from gumboot.core.rulebook.common.crimps import crimps, die_words
from gumboot.core.seats import Enclosed
from gumboot.core.sizes import area_mm2
from gumboot.core.values import Values

# Common practice where a card says nothing: ends of cells and of strings in daylight cannot be switched off.
LIVE = (
    "This end cannot be switched off: no meter will read zero here. Land the other end first and prove the conductor dead there. "
    "One pole at a time, the other insulated; insulated tools, gloves, eye protection, no jewellery."
)


TightenedBy = Literal["maker", "table", "spring", "unknown"]


class Termination(Values):
    """One conductor end in one terminal, of the ``nth`` of ``sets`` conductors in parallel.

    ``id`` is built from names only, so unrelated edits never change it.
    """

    id: str
    place: str
    place_title: str
    port: str
    port_title: str
    terminal: Terminal
    circuit: str
    circuit_title: str
    role: str
    size: str
    colour: str
    wire_class: str
    preparation: str
    torque: Figure | None
    torque_low: Figure | None
    torque_high: Figure | None
    live_method: str = ""
    dress: str = ""
    lug: tuple[Figure, ...] = ()
    way: str = ""
    nth: int = 1
    sets: int = 1

    @property
    def base(self) -> str:
        """Its identity without the number that it has among conductors in parallel."""
        return self.id.removesuffix(f".{self.nth}") if self.nth > 1 else self.id

    @property
    def title(self) -> str:
        """What a person calls it: port and terminal, and which of several in parallel."""
        of_several = f", {self.nth} of {self.sets}" if self.sets > 1 else ""
        return f"{self.port_title} {self.terminal.title}{of_several}"

    def one_of(self, nth: int, sets: int) -> Termination:
        """The end of the ``nth`` of several conductors in parallel; of the second and on the identity has the number behind."""
        return self.but(id=f"{self.id}.{nth}" if nth > 1 else self.id, nth=nth, sets=sets)

    @property
    def where(self) -> str:
        """How findings name its terminal."""
        return f"{self.place} {self.port} {self.terminal.id}"

    @property
    def tightened_by(self) -> TightenedBy:
        """Whose torque it is: the maker's, or a table's in place of it; a spring has none, and of a screw it may be unknown."""
        if self.torque is not None:
            return "maker" if self.torque.is_input else "table"
        return "spring" if self.terminal.end == "spring" else "unknown"


@lru_cache(maxsize=4096)
def termination_id(end: End, circuit: str) -> str:
    """Stable identity from place, port, terminal and circuit."""
    terminal = (
        end.terminal.replace("+", "pos").replace("-", "neg")
        if len(end.terminal) == 1
        else end.terminal.replace(" +", "-pos").replace(" -", "-neg")
    )
    return f"{end.place}.{end.port}.{terminal}.{circuit}".lower().replace(" ", "-")


def preparation(terminal: Terminal, size: str) -> str:
    """How a conductor end is made ready for a terminal."""
    strip = f"strip {terminal.strip_mm:g} mm"
    if terminal.end == "lug":
        count = crimps(area_mm2(size))
        pressed = f"{die_words(size)}, {count} crimp{'s' if count > 1 else ''}"
        thump = " · thump it home until it clicks" if terminal.snaps else ""
        return f"{strip} · crimp lug {terminal.lug_hole}, {size} barrel, {pressed} · shrink sleeve over the barrel{thump}"
    if terminal.end == "ferrule":
        return f"{strip} · ferrule for {size}, {terminal.strip_mm:g} mm long · open the clamp fully first"
    if terminal.plug:
        return f"{strip} · contact for {size}, pressed with its own tool · push until it clicks, then pull"
    if terminal.end == "spring":
        return f"{strip} · no ferrule, push to the stop"
    return f"{strip} · bare, open the clamp fully first"


def live_method(card: Enclosed, role: str, *, on_roof: bool) -> str:
    """How an end is landed that nobody can switch off; nothing for one that is proved dead."""
    if role == "earth" or card.kind == "generator":
        return ""
    cells = card.kind == "battery" and card.breaker_a is None and card.arrangement != "stack"
    daylight = on_roof and role in ("positive", "negative")
    return (card.live_method or LIVE) if cells or daylight else ""


# Common practice where a card says nothing.
BOW = "Its lead hangs in a bow below the plug, so that water drops off before it."
LOOP = "A service loop inside, tied to the anchor; clear of the control board and of the edge of the cover."
ALONG = "A service loop along the side, tied; nothing crosses the rails or lies under the cover's edge."


def dressed(card: Enclosed, terminal: Terminal) -> str:
    """How a core lies after it is landed, so that nothing pulls at its terminal."""
    if terminal.plug:
        return BOW
    if card.kind == "generator":
        return ""
    return card.dress or (ALONG if card.kind in ("board", "switch-fuse") else LOOP)


def port_title(card: Enclosed, port: str) -> str:
    """What people call a port."""
    for p in card.ports:
        if p.id == port:
            return p.title
    raise WrongCard(f"{card.title} has no port {port}. Choose a card that has one, or change what lands there.")
