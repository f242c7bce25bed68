"""How a field of the job is asked for: as its model declares it, so that no page says it again."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from types import UnionType
from typing import Any, Literal, Union, get_args, get_origin

from pydantic import BaseModel

from gumboot.core.job.bank import PinPair
from gumboot.core.job.model import Job
from gumboot.core.job.patch import BadPath
from gumboot.core.quantity import Choice, Quantity, locate, quantity

Kind = Literal["number", "whole", "flag", "yes or no", "choice", "text", "numbers", "names", "pins"]


@dataclass(frozen=True, slots=True)
class Field:
    """What a field takes: a number in ``unit``, a choice of ``options``, yes or no (a flag always has an answer), a text, or a list.

    ``choices`` are the values behind the options. ``may_be_empty`` where no answer is one.
    """

    kind: Kind
    name: str
    unit: str = ""
    choices: tuple[Any, ...] = ()
    may_be_empty: bool = False

    @property
    def options(self) -> tuple[str, ...]:
        """The choices as they are shown."""
        return tuple(str(choice) for choice in self.choices)


# What tells one thing of a job from another is given with it and stays: records and runs know it by that.
NAMES = ("id", "format", "seat", "channel", "cards")


def _held(annotation: Any) -> tuple[Any, ...]:
    """What a field holds: itself, or what a list of it holds."""
    return get_args(annotation) if get_origin(annotation) is list else (annotation,)


def _kind(annotation: Any) -> tuple[Kind, tuple[Any, ...]]:
    origin = get_origin(annotation)
    if origin is Literal:
        return "choice", get_args(annotation)
    if origin is list:
        (item,) = get_args(annotation)
        return ("pins" if item is PinPair else "names" if item is str else "numbers"), ()
    return {bool: "flag", int: "whole", float: "number"}.get(annotation, "text"), ()  # type: ignore[return-value]


@lru_cache(maxsize=1024)
def field_of(model: type[BaseModel], name: str) -> Field:
    """A field as its model declares it. Raises KeyError for one that the model has not, or that holds parts of the job."""
    info = model.model_fields[name]
    annotation, empty = info.annotation, False
    if get_origin(annotation) in (Union, UnionType):
        kinds = [kind for kind in get_args(annotation) if kind is not type(None)]
        empty = len(kinds) < len(get_args(annotation))
        annotation = kinds[0] if len(kinds) == 1 else float
    if any(isinstance(held, type) and issubclass(held, BaseModel | dict) and held is not PinPair for held in _held(annotation)):
        raise KeyError(name)
    kind, choices = _kind(annotation)
    told = next((note for note in info.metadata if isinstance(note, Quantity | Choice)), None)
    unit = told.unit if isinstance(told, Quantity) else ""
    words = told.name if told else info.description or name.replace("_", " ")
    return Field("yes or no" if kind == "flag" and empty else kind, words, unit, choices, empty)


def field_at(job: Job, path: str) -> Field:
    """The field of a job at a path. Raises BadPath, also for what names a part of the job."""
    try:
        owner, name, _ = locate(job, path)
        if name in NAMES:
            raise BadPath(path)
        found = field_of(type(owner), name)
    except KeyError:
        raise BadPath(path) from None
    # What it is called names the thing that it belongs to.
    return replace(found, name=quantity(type(owner), name).named(owner)) if "{" in found.name else found
