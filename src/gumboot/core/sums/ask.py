"""What a quick sum asks for, and what it answers."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator

from gumboot.core.errors import GumbootError
from gumboot.core.figure import Figure
from gumboot.core.finding import Finding
from gumboot.core.job.model import BookId
from gumboot.core.workbook import Workbook

SMALLEST, LARGEST = 1e-12, 1e15
Kind = Literal["quantity", "quantities", "count", "size", "sizes", "choice", "text"]


class BadInput(GumbootError):
    """A question that cannot be worked out as it was asked, with the field it speaks of and what to do about it."""

    def __init__(self, field: str, title: str, message: str) -> None:
        super().__init__(f"{title}: {message}" if title else message)
        self.field, self.message = field, message


class Ask(BaseModel):
    """Base of every question: the rule book under which it is asked; all quantities in SI units or those of their field."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
    book: BookId = Field("nec-2023", title="Rule book", json_schema_extra={"kind": "choice"})

    @field_validator("*")
    @classmethod
    def _measurable(cls, value: Any) -> Any:
        """A number that no instrument shows ends in an infinite one; it is a slip of the finger, refused by its field."""
        if isinstance(value, float) and value and not SMALLEST <= abs(value) <= LARGEST:
            raise ValueError(f"{value:g} is beyond anything that is measured. Write a number between {SMALLEST:g} and {LARGEST:g}.")
        return value

    def unfit(self, family: str) -> tuple[str, str] | None:
        """The field that is missing or of no use under a code family, and what to do; None when the question stands."""
        return None

    def given(self, field: str) -> bool:
        """Whether a field was filled in, with something else than what stands when it is left alone."""
        return field in self.model_fields_set and getattr(self, field) != type(self).model_fields[field].default


def check_question(question: Ask, family: str) -> None:
    """Refuse what is missing and what would be passed over in silence. Raises BadInput."""
    for name, info in type(question).model_fields.items():
        extra = info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}
        title, kind, value = info.title or name, extra.get("kind"), getattr(question, name)
        if extra.get("family") and extra["family"] != family and question.given(name):
            raise BadInput(name, title, "this is not used under this rule book. Leave it out, or choose the other book.")
        if kind in ("size", "sizes") and value:
            for size in (value,) if isinstance(value, str) else value:
                if (family == "nec") == size.endswith("mm2"):
                    fit = "AWG or kcmil" if family == "nec" else "mm2"
                    raise BadInput(
                        name,
                        title,
                        f"{size} is a size of the other family. This rule book asks for {fit}, such as {'6 AWG' if family == 'nec' else '16 mm2'}.",
                    )
        if kind == "quantity" and extra.get("unit") == "%" and "efficiency" in name and 0 < value <= 1:
            raise BadInput(name, title, f"{value:g} % would lose nearly everything. If you mean {100 * value:g} %, write {100 * value:g}.")
    if wrong := question.unfit(family):
        name, message = wrong
        raise BadInput(name, type(question).model_fields[name].title or name, message)


def _about(title: str, **extra: Any) -> dict[str, Any]:
    """What the form needs to know: kind, unit, and the code family that a title names in brackets."""
    family = "nec" if title.endswith("(NEC)") else "iec" if title.endswith("(IEC)") else ""
    return {**extra, **({"family": family} if family else {})}


def quantity(unit: str, title: str, default: Any = ..., of: str = "", symbol: str = "", **limits: Any) -> Any:
    """A field that takes a number in ``unit``, or text with another unit of its kind.

    ``of`` is the voltage that a coefficient is a share of; ``symbol`` is what its figure is called in workings.
    """
    more = {**({"of": of} if of else {}), **({"symbol": symbol} if symbol else {})}
    return Field(default, title=title, json_schema_extra=_about(title, kind="quantity", unit=unit, **more), **limits)


def quantities(unit: str, title: str, default: Any = ..., **limits: Any) -> Any:
    """A field that takes a list of numbers in ``unit``."""
    return Field(default, title=title, json_schema_extra=_about(title, kind="quantities", unit=unit), **limits)


def count(title: str, default: Any = ..., symbol: str = "", **limits: Any) -> Any:
    """A field that takes a whole number."""
    more = {"symbol": symbol} if symbol else {}
    return Field(default, title=title, json_schema_extra=_about(title, kind="count", **more), **limits)


def told(w: Workbook, question: Ask, field: str) -> Figure:
    """What was asked with, as a figure under the words of its field."""
    info = type(question).model_fields[field]
    extra = info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}
    symbol, unit = str(extra.get("symbol", field)), str(extra.get("unit", ""))
    return w.given(field, symbol, info.title or field, getattr(question, field), unit)


def choice(title: str, default: Any = ...) -> Any:
    """A field with a fixed set of answers."""
    return Field(default, title=title, json_schema_extra=_about(title, kind="choice"))


def words(kind: Kind, title: str, default: Any = ..., **limits: Any) -> Any:
    """A field that takes a conductor size, a list of sizes, or words."""
    return Field(default, title=title, json_schema_extra=_about(title, kind=kind), **limits)


@dataclass(frozen=True)
class Answer:
    """The figure that answers, every figure it rests on in the order worked out, findings, and lines that no number can say.

    ``judged`` is whether a rule was asked about it at all.
    """

    figure: Figure
    figures: tuple[Figure, ...]
    findings: tuple[Finding, ...]
    lines: tuple[str, ...] = ()
    judged: bool = True
