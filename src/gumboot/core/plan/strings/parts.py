"""What the strings of an input come to."""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.card.inverter import Tracker
from gumboot.core.figure import Figure
from gumboot.core.installation import Input
from gumboot.core.job.model import Face, String
from gumboot.core.values import Values


class TrackerPlan(Values):
    """One tracker with its string: voltages, limits, currents and the allowed count."""

    name: str
    tracker: Tracker
    place: str
    strings: tuple[String, ...]
    face: Face
    modules: int
    cold_v: Figure
    hot_v: Figure
    limit_v: Figure
    window_low_v: Figure
    start_v: Figure
    operating_a: Figure
    maximum_a: Figure
    count_most: Figure
    count_least: Figure
    today_v: Figure | None
    optimised: bool = False

    @property
    def key(self) -> str:
        """The input's name as keys and ids have it."""
        return self.name.replace(" ", "-")

    @property
    def circuit(self) -> str:
        """The circuit that comes down to the input."""
        return f"pv-{self.key.lower()}"


class StringsPlan(Values):
    """All trackers that carry a string."""

    trackers: tuple[TrackerPlan, ...]
    power: Figure

    def by_id(self, name: str) -> TrackerPlan | None:
        """The plan of one input by its name in the house, or None when it carries nothing."""
        return next((t for t in self.trackers if t.name == name), None)

    def of(self, string: str) -> TrackerPlan | None:
        """The plan of the input that a string hangs on, or None for one that hangs on none."""
        return next((t for t in self.trackers if any(s.id == string for s in t.strings)), None)


class Hanging(Values):
    """An input with the strings that hang on it and the face they lie on."""

    at: Input
    strings: tuple[String, ...]
    face: Face

    @property
    def place(self) -> str:
        """The input as findings and figures name it."""
        return self.at.name

    @property
    def key(self) -> str:
        """Beginning of the keys of its figures."""
        return f"strings.{self.place.replace(' ', '-')}"

    def faces(self, known: Sequence[Face]) -> tuple[Face, ...]:
        """The faces that its strings lie on."""
        own = {s.face for s in self.strings}
        return tuple(face for face in known if face.id in own)

    @property
    def longest(self) -> String:
        """Its longest string; of several the first."""
        return max(self.strings, key=lambda s: s.modules)

    @property
    def shortest(self) -> String:
        """Its shortest string; of several the first."""
        return min(self.strings, key=lambda s: s.modules)
