"""A sheet: one thing of the plan, as the hand shows it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, NamedTuple

from gumboot.core.figure import Figure
from gumboot.core.finding import Finding, Gap
from gumboot.web.bag.pictures import Look
from gumboot.web.view import Bench


class Fact(NamedTuple):
    """A line of a sheet: what it is, the figure that says it, what stands beside it in words, and the figures that those words name."""

    words: str
    figure: Figure | None = None
    text: str = ""
    beside: tuple[Figure, ...] = ()

    @property
    def figures(self) -> tuple[Figure, ...]:
        """Every figure that it shows."""
        return (*((self.figure,) if self.figure is not None else ()), *self.beside)


class Field(NamedTuple):
    """A field that may be decided in the hand, by its path and what it is called there; ``options`` where the page offers its own."""

    path: str
    words: str
    options: Sequence[str] | None = None
    empty: str = "not answered"


@dataclass(frozen=True, slots=True)
class Sheet:
    """One thing of the plan. ``names`` are what findings call it, ``says`` what of it a list shows beside its title, ``looks`` the pictures of it, the best first."""

    name: str
    title: str
    says: str = ""
    see: str = ""
    group: str = ""
    facts: tuple[Fact, ...] = ()
    fields: tuple[Field, ...] = ()
    looks: tuple[Look, ...] = ()
    names: tuple[str, ...] = ()
    is_open: bool = False
    findings: tuple[Finding, ...] = ()
    gaps: tuple[Gap, ...] = ()

    def about(self, finding: Finding) -> bool:
        """Whether a finding speaks of it: of one of its fields, or of the thing by name."""
        return (finding.field != "" and finding.field in [field.path for field in self.fields]) or finding.where in self.names

    def asks(self, gap: Gap) -> bool:
        """Whether an open question is answered on it."""
        return gap.path in [field.path for field in self.fields]

    def told(self, findings: Sequence[Finding], gaps: Sequence[Gap]) -> Sheet:
        """The sheet with what is found against it and what it still asks."""
        return replace(self, findings=tuple(findings), gaps=tuple(gaps), is_open=self.is_open or bool(gaps))

    @property
    def mark(self) -> str:
        """How it stands: held by a stop, open where it is asked, else clear."""
        if any(f.level == "stop" for f in self.findings):
            return "held"
        return "open" if self.is_open else "clear"

    @property
    def rank(self) -> int:
        """What is to mend comes first, then what is asked, then what is to mind."""
        if self.mark != "clear":
            return 0 if self.mark == "held" else 1
        return 2 if any(f.level == "caution" for f in self.findings) else 3


def fields(b: Bench, at: str, named: Sequence[tuple[str, str]]) -> tuple[Field, ...]:
    """Fields of one thing of the job by name and words; those that this job has."""
    return tuple(Field(path, words) for name, words in named if b.has(path := f"{at}.{name}".removeprefix(".")))


def shown(b: Bench, field: Field) -> dict[str, Any]:
    """A field for a script: how it is asked, what stands in it, and what it may be."""
    told = b.field(field.path)
    options = [str(option) for option in (told.options if field.options is None else field.options)]
    kind = "choice" if told.kind == "choice" or field.options is not None else told.kind
    if kind in ("flag", "yes or no"):
        kind, options = "choice", ["yes", "no"]
    found: dict[str, Any] = {
        "path": field.path,
        "words": field.words,
        "kind": kind,
        "unit": b.shown_unit(b.unit(field.path)) or told.unit,
        "text": b.text(field.path),
        "shown": b.as_shown(field.path, b.value(field.path)),
    }
    if options:
        found["options"] = options
    if told.may_be_empty:
        found["empty"] = field.empty
    return found
