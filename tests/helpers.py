"""Small helpers: edit a demo job by path, change a card, ask for finding codes."""

from __future__ import annotations

from typing import Any

from gumboot.catalogue import demo_house, shelf
from gumboot.core.card import Shelf, parse_card
from gumboot.core.expression import FUNCTIONS, Expression
from gumboot.core.figure import Figure
from gumboot.core.finding import Finding
from gumboot.core.installation import House
from gumboot.core.job import Job, write_path
from gumboot.core.job.fitting import fit
from gumboot.core.job.model import Face
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.seating import seats_of
from gumboot.core.working import BINDS

GOOD, BAD = "d1-saltmarsh", "d1-saltmarsh-mistakes"


def in_words(e: Expression) -> bool:
    """Whether some part of it is told in words: a table, a next size, a solved network."""
    known = e.op in BINDS or e.op in FUNCTIONS or e.op in ("figure", "number")
    return not known or (e.op != "figure" and any(in_words(a) for a in e.args))


def told_in_words(figure: Figure) -> bool:
    """Whether a figure's working holds a table or another step that prints itself in words."""
    return figure.work is not None and in_words(figure.work)


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


def beside(name: str, other: str, mark: str = "-x", *, cts: bool = False) -> tuple[dict[str, Any], dict[str, Any]]:
    """The document of a house with the system of another beside it on the same main board, and that other under the first one's site.

    Every id of the other ends in ``mark`` in both, but for the main board, which is the first one's. With ``cts`` it keeps its own set.
    """
    first, second = demo_house(name).model_dump(mode="json"), demo_house(other).model_dump(mode="json")
    main = {seat["id"]: next((t["id"] for t in first["things"] if t.get("duty") == "main"), None) for seat in second["things"]}
    ids = {t["id"]: main[t["id"]] if t.get("duty") == "main" else t["id"] + mark for t in second["things"]}
    ids |= {part["id"]: part["id"] + mark for key in ("banks", "faces", "walls") for part in second[key]}
    ids |= {unit["id"]: unit["id"] + mark for bank in second["banks"] for unit in bank["units"]}

    def told(value: Any, field: str = "") -> Any:
        if isinstance(value, dict):
            return {key: told(part, key) for key, part in value.items()}
        if isinstance(value, list):
            return [told(part, field) for part in value]
        named = field in ("id", "inverter", "bank", "board", "feeds", "fed_from", "face", "box")
        return ids.get(value, value) if named and isinstance(value, str) else value

    for load in second["loads"]:
        load["board"] = next(t["id"] for t in second["things"] if t.get("duty") == "backed-up")
    other_main = [t["id"] for t in second["things"] if t.get("duty") == "main"]
    shared = ("things", "banks", "faces", "walls", "strings", "runs", "loads")
    moved = {key: told(second[key]) for key in shared}
    for key in ("strings", "loads"):
        for part in moved[key]:
            part["id"] += mark
    for string in moved["strings"]:
        string["inverter"] = string["inverter"] or next(t["id"] for t in moved["things"] if t["seat"] == "inverter")
    moved["loads"] = [load for load in moved["loads"] if load["side"] == "backed"]
    alone = {**first, **moved, "id": "alone", "title": "Alone"}
    alone["things"] = moved["things"]
    mine = [t for t in moved["things"] if t.get("duty") != "main" or not other_main]
    both = {**first, **{key: [*first[key], *(mine if key == "things" else moved[key])] for key in shared}}
    for run in moved["runs"]:
        whose = next((old for old in ids if run["id"] == old or run["id"].endswith(f"-{old}")), None)
        run["id"] = run["id"].removesuffix(whose) + str(ids[whose]) if whose else run["id"]
    alone["runs"] = moved["runs"]
    houses = [Job.model_validate(document) for document in ({**both, "runs": []}, alone)]
    here, there = (circuits_by_joins(House(job, seats_of(job, shelf()))) for job in houses)
    named = {cid: here[joins] for joins, cid in there.items()}
    if cts:
        own = [told(meter) | {"id": meter["id"] + mark} for meter in second["sensing"]["meters"]]
        both["sensing"] = {**first["sensing"], "meters": [*first["sensing"]["meters"], *own]}
    both["runs"] = [*first["runs"], *({**run, "id": named[run["id"]]} for run in moved["runs"] if run["id"] in named)]
    return both, alone


def circuits_by_joins(house: House) -> dict[Any, str]:
    """The id of each circuit by what it joins."""
    return {(c.kind, *((core.role, *((end.place, end.port) for end in core.ends)) for core in c.cores)): c.id for c in house.circuits}


def roof(**more: Any) -> Face:
    """A roof face that is measured only where it is said."""
    return Face(**{"id": "f", "title": "F", "tilt_deg": 30, "azimuth_deg": 180, "columns": 1, "rows": 1, **more})
