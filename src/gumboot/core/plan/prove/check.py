"""One measurement or look, and its band."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from gumboot.core.figure import Figure
from gumboot.core.rules.readings import Measures, Reading
from gumboot.core.values import Values

Of = Literal["", "battery", "array"]
# A working day: who comes back proves dead again before touching (common practice).
DAY_H = 12.0
NONE: Mapping[str, str] = {}


class Lasts(Values):
    """How long what was seen stays true, and what ends that.

    ``hours`` is its age at most; ``moves`` says that a switch which is moved ends it; ``landed`` are the circuits of which an end that is
    landed anew does, the earth of one by itself. ``rests`` is what of the plan it was seen under, in words: another word there ends it; so
    does other firmware, where ``firmware`` says so. ``below`` is what a voltage of cells must not pass: cells that have become so cold since
    that it would end it. ``cards`` are the cards that stand at its places, by the place: another one there ends it.
    """

    hours: float | None = None
    moves: bool = False
    landed: tuple[str, ...] = ()
    rests: str = ""
    firmware: bool = False
    below: Figure | None = None
    cards: Mapping[str, str] = NONE

    @property
    def words(self) -> str:
        """The same in words; empty where nothing ends it."""
        said = [f"{self.hours:g} h" if self.hours is not None else "", "until a switch is moved" if self.moves else ""]
        said += [f"until {run} is landed anew" for run in self.landed]
        said += [f"while it is {self.rests}" if self.rests else "", "until its firmware changes" if self.firmware else ""]
        said += [f"until colder cells would take it above {self.below.value:.4g} {self.below.unit}" if self.below is not None else ""]
        said += ["until its equipment is exchanged" if self.cards else ""]
        return ", ".join(words for words in said if words)


class Check(Values):
    """One measurement or look. ``low`` and ``high`` bound a value in ``unit``; a check without unit is answered yes or no.

    ``code`` is the rule that speaks when the answer stands outside: a stop where ``life`` is at stake. ``shows`` names two displays
    that are both read: the value is then their difference, which nobody works out by head. ``after`` is the step of first power
    that it waits for. ``cell`` and ``per_k`` say for which cell temperature the band stands and how it moves with it.
    ``places`` are the boxes that stand open for it, ``lasts`` says until when it is true.
    ``of`` is what it proves: the batteries or the array, each of which some step of first power waits for. ``spread_of`` names the
    checks from whose readings it follows: nobody types it.
    """

    id: str
    station: str
    title: str
    unit: str
    why: str
    low: Figure | None = None
    high: Figure | None = None
    expected: Figure | None = None
    life: bool = False
    caution: str = ""
    code: str = "READ-LOOK"
    measures: Measures = "never negative"
    shows: tuple[str, ...] = ()
    after: str = ""
    prepare: str = ""
    cell: Figure | None = None
    per_k: float = 0.0
    of: Of = ""
    spread_of: tuple[str, ...] = ()
    places: tuple[str, ...] = ()
    lasts: Lasts = Lasts()

    @property
    def is_before_landing(self) -> bool:
        """Whether it makes a source safe before a conductor is landed there; else it proves what was landed."""
        return self.station == "wire"

    def moved_by(self, cell_c: float | None) -> float:
        """How much larger the band is at another cell temperature than at the one it was worked out for."""
        if cell_c is None or self.cell is None:
            return 1.0
        return (1 + self.per_k * (cell_c - 25)) / (1 + self.per_k * (self.cell.value - 25))

    def now(self, value: float, cell_c: float | None) -> float:
        """What a value read at one cell temperature would be at the one that the band was worked out for."""
        return value / self.moved_by(cell_c)

    def refuses(self, value: float) -> str:
        """Why a value cannot be a reading at all; empty when it can."""
        if self.measures == "never negative" and value < 0:
            null = ": null the test leads and measure again" if self.unit.endswith("ohm") else ""
            return f"{value:g} {self.unit} is below nothing{null}."
        return ""

    def read(self, value: float | None, over: bool = False, cell_c: float | None = None) -> Reading:
        """A reading of it, to be asked about. ``over`` is one beyond the instrument's range, which may be all that is known of it."""
        moved = self.moved_by(cell_c)
        return Reading(
            check=self.id,
            title=self.title,
            life=self.life,
            unit=self.unit,
            measures=self.measures,
            low=None if self.low is None else self.low.value * moved,
            high=None if self.high is None else self.high.value * moved,
            value=value,
            over=over,
            displays=len(self.shows),
            is_pair=self.code == "READ-BUS",
        )
