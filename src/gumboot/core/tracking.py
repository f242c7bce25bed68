"""Which values of a document a step of the derivation read, and which values two documents differ in.

A tracked document is the document once more, of classes that note each field read in the log that is open at that time, wherever
the part is held by then. Lists are stepped into by the id of their items where all have one of their own, by number where not.
"""

from __future__ import annotations

import threading
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from functools import lru_cache
from typing import Any, TypeVar, cast, get_args

from pydantic import BaseModel

Read = tuple[str, str]
Document = TypeVar("Document", bound=BaseModel)


class _Open(threading.local):
    """The log that is open in this thread; None while nobody takes note."""

    reads: set[Read] | None = None


_OPEN = _Open()


@contextmanager
def noting() -> Iterator[set[Read]]:
    """Take note of every field that is read until the end, as owner path and field; so does the log that was open before."""
    before, reads = _OPEN.reads, set[Read]()
    _OPEN.reads = reads
    try:
        yield reads
    finally:
        _OPEN.reads = before
        note(reads)


def note(reads: Iterable[Read]) -> None:
    """Add reads to the log that is open: those of a piece within a step, or of one that is kept."""
    if _OPEN.reads is not None:
        _OPEN.reads.update(reads)


def touches(changed: set[Read], reads: frozenset[Read], holds: tuple[str, ...]) -> bool:
    """Whether a change touches what was read, or a part of the document that a result holds, by its path."""
    if not reads.isdisjoint(changed):
        return True
    return bool(holds) and any(owner.startswith(holds) for owner, _ in changed)


_CLASSES: dict[type[BaseModel], type[BaseModel]] = {}


def _class_of(model: type[BaseModel]) -> type[BaseModel]:
    """The noting class of a model: the model itself to every check, made once without building its validator again."""
    made = _CLASSES.get(model)
    if made is None:
        fields, plain = frozenset(model.model_fields), model.__getattribute__

        def read(self: BaseModel, name: str) -> Any:
            if name in fields:
                reads = _OPEN.reads
                if reads is not None:
                    reads.add((path_of(self), name))
            return plain(self, name)

        body = {
            "__getattribute__": read,
            "__class__": property(lambda _: model),  # so that it equals an untracked one
            "__slots__": ("tracked_path",),
            "__module__": model.__module__,
        }
        made = type.__new__(type(model), model.__name__, (model,), body)
        path_of = made.__dict__["tracked_path"].__get__
        _CLASSES[model] = made
    return made


def _keys(items: list[Any]) -> list[str]:
    """The step to each item of a list: its id, or its number where ids are wanting or shared."""
    ids = [item.__dict__.get("id") for item in items]
    if None in ids or len(set(ids)) < len(ids):
        return [str(n) for n in range(len(items))]
    return [str(name) for name in ids]


def _holds_models(value: Any) -> bool:
    return isinstance(value, list) and bool(value) and isinstance(value[0], BaseModel)


def _made(document: BaseModel, path: str, values: dict[str, Any]) -> Any:
    """A noting copy of one part of a document, with these values."""
    made, put = object.__new__(_class_of(type(document))), object.__setattr__
    put(made, "__dict__", values)
    for slot in ("__pydantic_fields_set__", "__pydantic_extra__", "__pydantic_private__"):
        put(made, slot, getattr(document, slot))
    put(made, "tracked_path", path)
    return made


def tracked(document: Document, path: str = "") -> Document:
    """The document with every part noting its reads."""
    under = path and path + "."
    values = dict(document.__dict__)
    for field, value in document.__dict__.items():
        if isinstance(value, BaseModel):
            values[field] = tracked(value, under + field)
        elif _holds_models(value):
            values[field] = [tracked(item, f"{under}{field}.{key}") for item, key in zip(value, _keys(value), strict=True)]
    return cast(Document, _made(document, path, values))


@lru_cache(maxsize=256)
def _held(model: type[BaseModel]) -> frozenset[str]:
    """Fields that may hold other parts, alone or in a list."""

    def holds(annotation: Any) -> bool:
        return (isinstance(annotation, type) and issubclass(annotation, BaseModel)) or any(holds(part) for part in get_args(annotation))

    return frozenset(field for field, info in model.model_fields.items() if holds(info.annotation))


def followed(before: Document, noted: Document, after: Document, changed: set[Read], path: str = "") -> Document:
    """``after`` with every part noting its reads, where ``noted`` is that of ``before``; what did not change is the same object.

    Owner path and field of every value in which the two differ are added to ``changed``; a list differs where its items are others.
    """
    olds, news, kept, held = before.__dict__, after.__dict__, noted.__dict__, _held(type(after))
    if not held and olds == news:
        return noted
    under, values, same = path and path + ".", dict(news), True
    for field, new in news.items():
        old = olds[field]
        if field not in held or not (isinstance(new, BaseModel) or _holds_models(new)):
            if old != new:
                changed.add((path, field))
                same = False
            elif field in held:
                values[field] = kept[field]
            continue
        if not isinstance(new, BaseModel):
            values[field] = _followed_list((old, kept[field]), new, changed, (path, field))
        elif type(old) is type(new):
            values[field] = followed(old, kept[field], new, changed, under + field)
        else:
            values[field] = tracked(new, under + field)
            changed.add((path, field))
        same = same and values[field] is kept[field]
    return noted if same else cast(Document, _made(after, path, values))


def _followed_list(before: tuple[Any, Any], new: list[BaseModel], changed: set[Read], at: Read) -> list[BaseModel]:
    """A list of parts after an edit; ``before`` is the list that it was, plain and noting: that very list where nothing changed."""
    path, field = at
    olds, kept = before if _holds_models(before[0]) else ([], [])
    if len(olds) == len(new) and [(type(old), old.__dict__) for old in olds] == [(type(item), item.__dict__) for item in new]:
        return cast("list[BaseModel]", kept)
    under, keys = (path and path + ".") + field, _keys(new)
    known = dict(zip(_keys(olds), zip(olds, kept, strict=False), strict=True))
    same = list(known) == keys
    if not same or any(type(known[key][0]) is not type(item) for key, item in zip(keys, new, strict=True)):
        changed.add(at)
    found = []
    for key, item in zip(keys, new, strict=True):
        old, noted = known.get(key, (None, None))
        if old is not None and type(old) is type(item):
            found.append(followed(old, noted, item, changed, f"{under}.{key}"))
            same = same and found[-1] is noted
        else:
            found.append(tracked(item, f"{under}.{key}"))
            same = False
    return kept if same else found
