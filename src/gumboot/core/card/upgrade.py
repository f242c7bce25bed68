"""Cards of earlier formats, made into today's. A card that was ever shipped or written stays readable."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

FORMAT = "gumboot.card/2"
Document = dict[str, Any]


def _of_1(old: Document) -> Document:
    """The kind of house that a card was first drawn for is gone: nothing was ever decided by it."""
    return {key: value for key, value in old.items() if key != "system_kind"} | {"format": "gumboot.card/2"}


STEPS: Mapping[str, Callable[[Document], Document]] = {"gumboot.card/1": _of_1}


def upgraded(document: Document) -> Document:
    """A card document in today's format; one of a format unknown here is given back as it is, to be refused by name."""
    while (step := STEPS.get(str(document.get("format", FORMAT)))) is not None:
        document = step(document)
    return document
