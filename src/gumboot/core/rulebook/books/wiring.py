"""What the books say of a conductor: its factors, its device, its size, its earth, and what its length costs."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal, NamedTuple, Protocol

from gumboot.core.figure import Figure
from gumboot.core.rulebook.books.draft import Draft, Put
from gumboot.core.values import Values

Material = Literal["copper", "aluminium"]
DeviceKind = Literal["breaker", "gG fuse"]


class Core(Values):
    """What a conductor is made of. ``conductor_c`` is its temperature where it is not the insulation's limit."""

    kind: str = ""
    material: Material = "copper"
    insulation: str | None = None
    cable: str = "building wire"
    fine_strand: bool = False
    steel: bool = False
    conductor_c: float | None = None
    earth_laid: str = "with its lines"


class Laying(Core):
    """How a circuit's conductors are laid. ``together`` counts current-carrying conductors by NEC, circuits by IEC."""

    ambient: Figure
    together: Figure
    terminal_c: int = 75
    method: str = "B1"
    single_layer: bool = False
    soil: Figure | None = None
    roof_height: Figure | None = None
    loaded: int = 2
    sets: int = 1
    sets_figure: Figure | None = None
    device_kind: DeviceKind = "breaker"
    fully_rated: bool = False


class EarthFor(NamedTuple):
    """What an earth conductor follows from: its device (or, where there is none, the design current), code's size and size pulled."""

    basis: Figure
    code: str
    installed: Figure


class Load(NamedTuple):
    """What a circuit must carry: its design current, what stands before factors, and the device, where one is needed."""

    design: Figure
    continuous: Figure
    device: Figure | None = None


class WiringClauses(Protocol):
    """How one code family sizes a conductor. Sources are keys of the register; sizes are trade sizes."""

    base_source: str
    drop_source: str
    protection_source: str
    cold_source: str
    usual_insulation: str
    # The types of insulation that the book knows.
    insulations: tuple[str, ...]
    # Whether the neutral has a pole of its own in a device, and whether a breaker is named by its curve.
    switches_neutral: bool
    names_curve: bool
    # Field of a run that holds what is counted for grouping, and the clause of the count.
    counted: str
    grouping_source: str

    def sizes(self) -> tuple[str, ...]:
        """Trade sizes of copper, smallest first."""

    def lying(self, poles: Sequence[int], kind: str, length_mm: float | None) -> int:
        """What is counted for grouping in a raceway of a kind and length, by the poles of each circuit in it, each of a set by itself."""

    def continuous(self, design: Figure, fully_rated: bool) -> Draft | None:
        """What conductor and device are chosen for before factors; None where it is the design current itself."""

    def factors(self, laying: Laying, put: Put) -> tuple[Figure, Figure]:
        """Ambient and grouping factor. Raises OutOfRange outside the tables."""

    def device_min(self, continuous: Figure, laying: Laying) -> Draft:
        """Smallest standard device for a load. Raises OutOfRange when exhausted."""

    def device_for(self, steady: Figure, rest: Figure, fully_rated: bool, kind: str, put: Put) -> Figure:
        """Next standard device for a steady load and the rest. Raises OutOfRange when exhausted."""

    def smallest(self, laying: Laying, load: Load, factors: tuple[Figure, Figure]) -> tuple[str, str]:
        """Smallest size by code and the words that say why. Raises OutOfRange when exhausted."""

    def ampacity(self, laying: Laying, size: str, load: Load, factors: tuple[Figure, Figure], put: Put) -> tuple[Figure, Figure]:
        """Table value and ampacity as laid of a size."""

    def largest_device(self, laying: Laying, size: str, usable: Figure) -> Draft:
        """Largest device that protects the size as laid."""

    def earth(self, core: Core, of: EarthFor, put: Put) -> Figure:
        """Earth conductor required: its label is the size."""

    def resistance(self, core: Core, size: str, put: Put) -> Figure:
        """Resistance of the warm conductor, ohm/km."""

    def cold_share(self, insulation: str | None, material: str) -> float:
        """Resistance at 20 °C as a share of that of the warm conductor."""

    def reactance(self, core: Core, size: str) -> Draft:
        """Reactance of the conductor, ohm/km."""

    def parallel_allowed(self, size: str) -> bool:
        """Whether sets of this size may lie in parallel."""

    def cord_allowed(self, kind: str) -> bool:
        """Whether a portable cord may serve a circuit of this kind."""

    def flexible_allowed(self, kind: str, size: str) -> bool:
        """Whether welding-type cable of this size may serve a circuit of this kind."""
