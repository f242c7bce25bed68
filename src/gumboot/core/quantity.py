"""What a field of a job or a card is, said once beside the field: symbol, name, unit, how it is asked for and what waits for it.

Figures, gaps, forms, headers of tables and the published schema take their words from here.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from types import UnionType
from typing import Any, Literal, Union, get_args, get_origin

from pydantic import BaseModel, GetJsonSchemaHandler
from pydantic.json_schema import JsonSchemaValue
from pydantic_core import CoreSchema

from gumboot.core.errors import BadFigure


@dataclass(frozen=True, slots=True)
class Quantity:
    """A number that a person decides or a maker states.

    ``name`` may hold ``{id}`` or ``{title}`` of the thing the field belongs to. ``question`` is how a missing one is asked for,
    ``holds_up`` what waits for it, ``hint`` how to find it; ``station`` is where it is asked.
    """

    symbol: str
    name: str
    unit: str = ""
    question: str = ""
    holds_up: str = ""
    hint: str = ""
    station: str = "survey"

    @property
    def asked(self) -> str:
        """The question of a form or of a gap."""
        return self.question or f"{self.name}?"

    @property
    def described(self) -> str:
        """Name, unit and hint in a line."""
        text = f"{self.name}, {self.unit}" if self.unit else self.name
        return f"{text}. {self.hint}" if self.hint else text

    def named(self, owner: BaseModel) -> str:
        """The name, with the thing it belongs to put in."""
        name = self.name
        if "{" not in name:
            return name
        thing = getattr(owner, "id", "")
        # A title that is not in the name is not asked for: asking a model for what it lacks is slow.
        return _put_in(name, thing, getattr(owner, "title", "") or thing if "{title}" in name else "")

    def __get_pydantic_json_schema__(self, core_schema: CoreSchema, handler: GetJsonSchemaHandler) -> JsonSchemaValue:
        schema = handler(core_schema)
        words = self.described.replace("{title}", "the thing").replace("{id}", "the thing")
        return {**schema, "description": words, "x-unit": self.unit, "x-symbol": self.symbol}


@dataclass(frozen=True, slots=True)
class Choice:
    """An answer in words, or yes and no: what it is called, and what waits for it."""

    name: str
    holds_up: str = ""

    def __get_pydantic_json_schema__(self, core_schema: CoreSchema, handler: GetJsonSchemaHandler) -> JsonSchemaValue:
        return {**handler(core_schema), "description": self.name}


@lru_cache(maxsize=4096)
def _put_in(name: str, thing: str, title: str) -> str:
    return name.format(id=thing, title=title)


def declared(model: type[BaseModel], field: str) -> Quantity | Choice:
    """What is declared beside a field. Raises BadFigure where nothing is."""
    for note in model.model_fields[field].metadata:
        if isinstance(note, Quantity | Choice):
            return note
    raise BadFigure(f"{model.__name__}.{field} is not declared; declare it beside the field")


def options(model: type[BaseModel], field: str) -> tuple[str, ...]:
    """The answers that a field takes in words; yes and no for one that is true or false; none for a number or a free text."""
    annotation = model.model_fields[field].annotation
    kinds = get_args(annotation) if get_origin(annotation) in (Union, UnionType) else (annotation,)
    for kind in kinds:
        if get_origin(kind) is Literal:
            return tuple(str(x) for x in get_args(kind))
        if kind is bool:
            return "yes", "no"
    return ()


@lru_cache(maxsize=256)
def quantities(model: type[BaseModel]) -> dict[str, Quantity]:
    """Every declared quantity of a model by field."""
    found = {}
    for field, info in model.model_fields.items():
        for note in info.metadata:
            if isinstance(note, Quantity):
                found[field] = note
    return found


@lru_cache(maxsize=4096)
def quantity(model: type[BaseModel], field: str) -> Quantity:
    """The declared quantity of a field. Raises BadFigure for a field without one: then nothing may be worked out from it."""
    try:
        return quantities(model)[field]
    except KeyError:
        raise BadFigure(f"{model.__name__}.{field} is not declared as a quantity; declare it beside the field") from None


# Items of lists are addressed by their id; a CT by its channel, an anchor's values by the kind of masonry.
LISTS = (list, tuple)


def _found(items: Sequence[Any], part: str) -> Any:
    # Straight from the instance: asking a model for what it lacks costs far more than looking.
    for name in ("id", "channel", "base"):
        for item in items:
            if item.__dict__.get(name) == part:
                return item
    return None


def locate(root: BaseModel, path: str) -> tuple[BaseModel, str, Any]:
    """Owner, field and value at a path; a list is stepped into by the id of its item, or what stands for it. Raises KeyError."""
    node: Any = root
    owner: BaseModel = root
    field = ""
    for part in path.split("."):
        if isinstance(node, LISTS):
            node = _found(node, part)
            if node is None:
                raise KeyError(path)
        else:
            owner, field = node, part
            try:
                node = getattr(node, part)
            except AttributeError:
                raise KeyError(path) from None
    return owner, field, node
