"""What a quick sum asks for, and what it answers."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from gumboot.core.figure import Figure
from gumboot.core.finding import Finding
from gumboot.core.job.model import BookId

Kind = Literal["quantity", "quantities", "count", "size", "sizes", "choice", "text"]


class Ask(BaseModel):
    """Base of every question: the rule book under which it is asked; all quantities in SI units or those of their field."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
    book: BookId = Field("nec-2023", title="Rule book", json_schema_extra={"kind": "choice"})


def _about(title: str, **extra: Any) -> dict[str, Any]:
    """What the form needs to know: kind, unit, and the code family that a title names in brackets."""
    family = "nec" if title.endswith("(NEC)") else "iec" if title.endswith("(IEC)") else ""
    return {**extra, **({"family": family} if family else {})}


def quantity(unit: str, title: str, default: Any = ..., **limits: Any) -> Any:
    """A field that takes a number in ``unit``, or text with another unit of its kind."""
    return Field(default, title=title, json_schema_extra=_about(title, kind="quantity", unit=unit), **limits)


def quantities(unit: str, title: str, default: Any = ..., **limits: Any) -> Any:
    """A field that takes a list of numbers in ``unit``."""
    return Field(default, title=title, json_schema_extra=_about(title, kind="quantities", unit=unit), **limits)


def count(title: str, default: Any = ..., **limits: Any) -> Any:
    """A field that takes a whole number."""
    return Field(default, title=title, json_schema_extra=_about(title, kind="count"), **limits)


def choice(title: str, default: Any = ...) -> Any:
    """A field with a fixed set of answers."""
    return Field(default, title=title, json_schema_extra=_about(title, kind="choice"))


def words(kind: Kind, title: str, default: Any = ..., **limits: Any) -> Any:
    """A field that takes a conductor size, a list of sizes, or words."""
    return Field(default, title=title, json_schema_extra=_about(title, kind=kind), **limits)


@dataclass(frozen=True)
class Answer:
    """The figure that answers, every figure it rests on in the order worked out, findings, and lines that no number can say."""

    figure: Figure
    figures: tuple[Figure, ...]
    findings: tuple[Finding, ...]
    lines: tuple[str, ...] = ()
