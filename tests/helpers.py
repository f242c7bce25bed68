"""Small helpers: edit a demo job by path, change a card, ask for finding codes."""

from __future__ import annotations

from typing import Any

from gumboot.catalogue import demo_house, shelf
from gumboot.core.card import Shelf, parse_card
from gumboot.core.finding import Finding
from gumboot.core.job import Job, write_path
from gumboot.core.job.fitting import fit
from gumboot.core.plan.derive import Plan, derive

GOOD, BAD = "d1-saltmarsh", "d1-saltmarsh-mistakes"


def changed(document: dict[str, Any], path: str, value: Any) -> dict[str, Any]:
    """A copy of a document with one value replaced; the card of a thing may also put the thing in or take it out."""
    if path.startswith("things.") and path.endswith(".card"):
        document = {**document, "things": [dict(t) for t in document["things"]]}
        fit(document, path.split(".")[1], value)
        return document
    return write_path(document, path, value)


def edited(edits: dict[str, Any], name: str = GOOD) -> Job:
    """A demo house with some fields changed."""
    document = demo_house(name).model_dump(mode="json")
    for path, value in edits.items():
        document = changed(document, path, value)
    return Job.model_validate(document)


def with_card(card_id: str, edits: dict[str, Any]) -> Shelf:
    """The catalogue with some fields of one card changed."""
    document = shelf()[card_id].model_dump(mode="json")
    for path, value in edits.items():
        document = write_path(document, path, value)
    return {**shelf(), card_id: parse_card(document)}


def plan_of(edits: dict[str, Any] | None = None, cards: Shelf | None = None, name: str = GOOD) -> Plan:
    """The plan of an edited demo house."""
    return derive(edited(edits or {}, name), cards or shelf())


def findings(edits: dict[str, Any] | None = None, cards: Shelf | None = None, name: str = GOOD) -> list[Finding]:
    """Findings of an edited demo house."""
    return list(plan_of(edits, cards, name).findings)


def codes(edits: dict[str, Any] | None = None, cards: Shelf | None = None, name: str = GOOD) -> set[str]:
    """Finding codes of an edited demo house."""
    return {f.code for f in findings(edits, cards, name)}


def bank_each(name: str = "g01-cooperage") -> dict[str, Any]:
    """A house of two inverters with its bank cut in two, each half with bars of its own and beside one inverter."""
    document = demo_house(name).model_dump(mode="json")
    bank = document["banks"][0]
    half = len(bank["units"]) // 2
    first, second = bank["units"][:half], [{**unit, "dip_address": n} for n, unit in enumerate(bank["units"][half:], 1)]
    first[-1]["terminator"] = second[-1]["terminator"] = True
    document["banks"] = [{**bank, "units": first}, {**bank, "id": "bank-2", "units": second}]
    box = next(thing for thing in document["things"] if thing["seat"] == "busbar")
    document["things"].append({**box, "id": "busbar-2", "bank": "bank-2"})
    next(thing for thing in reversed(document["things"]) if thing["seat"] == "inverter")["bank"] = "bank-2"
    return document
