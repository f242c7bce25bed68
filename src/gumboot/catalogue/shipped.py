"""What each shipped revision of a card held: a card whose content changes gets a new revision, or a test fails."""

from __future__ import annotations

import csv
import hashlib
import json
from pathlib import Path

from gumboot.catalogue import HERE
from gumboot.core.card import Shelf
from gumboot.core.card.model import AnyCard

LIST = HERE / "shipped.csv"
Shipped = dict[tuple[str, int], str]


def digest(card: AnyCard) -> str:
    """SHA-256 of what a card says; a field that stands at its default does not count, so that a new optional one changes nothing."""
    said = card.model_dump(mode="json", exclude={"format"}, exclude_defaults=True)
    return hashlib.sha256(json.dumps(said, sort_keys=True, ensure_ascii=False).encode()).hexdigest()


def listed(path: Path = LIST) -> Shipped:
    """The revisions that were shipped, each with its digest."""
    with path.open(newline="", encoding="utf-8") as handle:
        return {(row["id"], int(row["revision"])): row["sha256"] for row in csv.DictReader(handle)}


def faults(cards: Shelf, shipped: Shipped) -> list[str]:
    """Cards that differ from what their revision held when it was shipped, and those that no list names yet."""
    found = []
    for card in cards.values():
        known = shipped.get((card.id, card.revision))
        if known is None:
            found.append(f"{card.id} revision {card.revision} is not listed: run scripts/ship_cards.py")
        elif known != digest(card):
            found.append(f"{card.id} revision {card.revision} was shipped with other content: give it revision {card.revision + 1}")
    return found
