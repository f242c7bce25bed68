"""How large a document may be: beyond this no house and no product goes, and nothing that is worked out grows without bound."""

from __future__ import annotations

import json
from math import isfinite
from typing import Any

MOST_LOADS, MOST_ITEMS, MOST_CARD_ITEMS, MOST_LETTERS, MOST_DEPTH = 200, 64, 400, 4000, 24


def check_size(document: Any, most_items: int = MOST_ITEMS, path: str = "") -> None:
    """Raise ValueError that names the first list, text or nesting of a document that is larger than is taken."""
    if path.count(".") > MOST_DEPTH:
        raise ValueError(f"{path[:80]} lies deeper than {MOST_DEPTH} levels. Nothing was saved")
    if isinstance(document, str) and len(document) > MOST_LETTERS:
        raise ValueError(f"{path or 'the text'} has {len(document)} letters; at most {MOST_LETTERS} are kept. Shorten it")
    if isinstance(document, dict):
        if len(document) > MOST_CARD_ITEMS:
            raise ValueError(f"{path or 'the document'} has {len(document)} entries; at most {MOST_CARD_ITEMS} are kept. Take some out")
        for key, value in document.items():
            check_size(value, most_items, f"{path}.{key}"[-200:] if path else str(key)[:60])
    elif isinstance(document, (list, tuple)):
        most = MOST_LOADS if path == "loads" else most_items
        if len(document) > most:
            raise ValueError(f"{path or 'the list'} has {len(document)} entries; at most {most} are kept. Take some out, or make two of it")
        for at, value in enumerate(document):
            if isinstance(value, (dict, list, tuple, str)):
                check_size(value, most_items, f"{path}.{at + 1}")


def _no_number(word: str) -> float:
    raise ValueError(f"{word} is no number. Give a value, or leave the field out")


def _finite(word: str) -> float:
    value = float(word)
    return value if isfinite(value) else _no_number(word)


def read_json(raw: str | bytes, huge: bool = False) -> Any:
    """A JSON text that is not nested beyond reason and holds finite numbers only. Raises ValueError in words.

    ``huge`` lets a number that is too large for the machine pass as infinite, for whoever refuses it by its field's name.
    """
    text = raw.decode("utf-8") if isinstance(raw, bytes) else raw
    deepest = depth = 0
    quoted = escaped = False
    for character in text:
        if quoted:
            quoted, escaped = (escaped or character != '"'), (character == "\\" and not escaped)
        elif character == '"':
            quoted = True
        elif character in "[{":
            depth += 1
            deepest = max(deepest, depth)
        elif character in "]}":
            depth -= 1
        if deepest > MOST_DEPTH:
            raise ValueError(f"it is nested deeper than {MOST_DEPTH} levels")
    return json.loads(text, parse_constant=_no_number, parse_float=None if huge else _finite)
