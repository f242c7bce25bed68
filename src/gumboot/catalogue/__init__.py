"""Invented demo cards and demo houses as JSON, and the functions that read them."""

from __future__ import annotations

import json
from functools import lru_cache
from pathlib import Path

from gumboot.core.card import Shelf, parse_card
from gumboot.core.job import Job

HERE = Path(__file__).parent


@lru_cache(maxsize=1)
def shelf() -> Shelf:
    """All catalogue cards by id, validated."""
    cards = [parse_card(json.loads(path.read_text(encoding="utf-8"))) for path in sorted((HERE / "cards").glob("*.json"))]
    return {card.id: card for card in cards}


def demo_houses() -> list[Path]:
    """Files of the demo houses."""
    return sorted((HERE / "houses").glob("*.gumboot.json"))


def demo_house(name: str) -> Job:
    """One demo house by its id."""
    return Job.model_validate_json((HERE / "houses" / f"{name}.gumboot.json").read_text(encoding="utf-8"))
