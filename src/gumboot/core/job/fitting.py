"""Putting a thing into a house and taking it out, in a job document that the caller owns."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import Any, Literal

from gumboot.core.errors import GumbootError
from gumboot.core.job.patch import BadPath, read_path

# What a thing of a usual name is when it is put in by that name alone.
USUAL: Mapping[str, dict[str, Any]] = {
    "inverter": {"seat": "inverter"},
    "switch-fuse": {"seat": "switch-fuse"},
    "busbar": {"seat": "busbar"},
    "roof": {"seat": "roof-box"},
    "main-board": {"seat": "board", "duty": "main"},
    "sub-board": {"seat": "board", "duty": "backed-up"},
    "combining-panel": {"seat": "board", "duty": "combining"},
    "transfer": {"seat": "transfer"},
    "generator": {"seat": "generator"},
    "pv-inverter": {"seat": "pv-inverter"},
}


# What another inverter brings beside itself.
Own = Literal["nothing", "bank", "board"]


class OneMore(GumbootError):
    """Another thing that is asked for by a page which shows fewer than there are: one tap of two, or two people at once."""


class StillNeeded(GumbootError):
    """Something that may not be taken out while others rest on it."""


def has(document: Mapping[str, Any], thing: str) -> bool:
    """Whether the house has a thing of that id."""
    return any(t.get("id") == thing for t in document.get("things", ()))


def _put_in(document: dict[str, Any], thing: str, card: str) -> None:
    """A thing by its usual name: what has no grid board is fed from the main board that comes, outputs go through a panel that comes."""
    things = document["things"]
    new = {**USUAL[thing], "id": thing, "card": card}
    mains = [t["id"] for t in things if t.get("duty") == "main"]
    if new["seat"] in ("inverter", "transfer") and mains:
        new["board"] = mains[0]
    for other in things:
        if new.get("duty") == "main" and other["seat"] in ("inverter", "transfer") and other.get("board") is None:
            other["board"] = thing
        if (new["seat"] == "transfer" or new.get("duty") == "combining") and other["seat"] == "inverter":
            new["feeds"], other["feeds"] = other.get("feeds", "sub-board"), thing
    things.append(new)


def _take_out(document: dict[str, Any], thing: str) -> None:
    """A thing goes, with its own switch and box. A grid port that it fed is fed by nothing; what fed it feeds what it fed."""
    gone: dict[str, Any] = next((t for t in document["things"] if t["id"] == thing), {})
    kept = [t for t in document["things"] if t["id"] != thing and t.get("inverter") != thing]
    if gone.get("seat") == "inverter":
        inverters = [t["id"] for t in document["things"] if t["seat"] == "inverter"]
        leader_stays(inverters, [t for t in inverters if t != thing])
        left = _without_bank(document, gone.get("bank", "bank"), kept)
        kept = [t for t in kept if t["seat"] != "busbar" or t.get("bank", "bank") in left]
        meters = document["sensing"]["meters"]
        # One that nothing reads any more is no set; the last stays, as a job has one.
        document["sensing"]["meters"] = [m for m in meters if m.get("inverter", "inverter") != thing] or meters[:1]
    for other in kept:
        if other.get("board") == thing:
            other["board"] = None
        if other.get("feeds") == thing and gone.get("feeds"):
            other["feeds"] = gone["feeds"]
        if other.get("fed_from") == thing:
            other["fed_from"] = gone.get("fed_from")
    document["things"] = kept
    for load in document.get("loads", ()):
        if load.get("board") == thing:
            # Nobody said that another board may carry it: it is left to the grid until somebody does.
            load["board"], load["side"] = "", "house"


def leader_stays(was: Sequence[str], now: Sequence[str]) -> None:
    """No other inverter of a house becomes its first: readings and settings of the first are kept under plain names, and would be taken
    for another's. ``was`` and ``now`` are the inverters before and after a change. Raises StillNeeded."""
    if was and now and was[0] != now[0] and (now[0] in was or was[0] in now):
        others = ", ".join(t for t in dict.fromkeys((*was, *now)) if t != was[0])
        raise StillNeeded(
            f"{was[0]} leads {others}: take those out first, or choose another card for it. "
            f"What was read and set at it would be taken for that of {now[0]}. Leave {was[0]} the first inverter."
        )


def _without_bank(document: dict[str, Any], bank: str, kept: list[dict[str, Any]]) -> set[str]:
    """Take a bank out that no inverter hangs on any more, unless it is the last. Returns the ids of those that are left."""
    if len(document["banks"]) > 1 and not any(t["seat"] == "inverter" and t.get("bank", "bank") == bank for t in kept):
        document["banks"] = [b for b in document["banks"] if b["id"] != bank]
    return {b["id"] for b in document["banks"]}


def fit(document: dict[str, Any], thing: str, card: str | None) -> None:
    """Give a thing its card; one that is not there is put in by its usual name, and one without a card is taken out.

    Runs and placements of a thing that is taken out stay: they are there again when the thing is. Raises BadPath.
    """
    if card is None:
        _take_out(document, thing)
    elif has(document, thing):
        read_path(document, f"things.{thing}")["card"] = card
    elif thing in USUAL:
        _put_in(document, thing, card)
    else:
        raise BadPath(f"things.{thing}.card")


def take_out_bank(document: dict[str, Any], bank: str) -> None:
    """A bank that no inverter hangs on goes, with its bars. Raises StillNeeded, BadPath."""
    read_path(document, f"banks.{bank}")
    hanging = [t["id"] for t in document["things"] if t["seat"] == "inverter" and t.get("bank", "bank") == bank]
    if hanging or len(document["banks"]) == 1:
        why = f"{', '.join(hanging)} hang on it: hang them on another first" if hanging else "a house has one bank at least"
        raise StillNeeded(f"{bank} stays: {why}.")
    document["banks"] = [b for b in document["banks"] if b["id"] != bank]
    document["things"] = [t for t in document["things"] if t["seat"] != "busbar" or t.get("bank", "bank") != bank]


def _taken(document: Mapping[str, Any], known: Collection[str]) -> set[str]:
    """Names that nothing new is given: of what is there, and ``known`` ones, which records speak of."""
    return {t["id"] for t in document["things"]} | {u["id"] for bank in document["banks"] for u in bank["units"]} | set(known)


def another(document: dict[str, Any], like: str, *, seen: int | None = None, own: Own = "nothing", known: Collection[str] = ()) -> str:
    """Put in another inverter like one that stands there, with a switch-fuse and a roof box of its own where that one has them.

    Its address follows the highest, its phase is left to be said. With a bank of its ``own`` it gets one like that one's, with bars;
    with a board of its own it gets a board as well, and transfer equipment where that one has it: it then feeds apart.
    What was taken out and what comes later are two: none is called as anything that is ``known`` of records.
    Returns its id. Raises BadPath for an inverter that is not there, OneMore where there are not as many as were ``seen``.
    """
    things = document["things"]
    if seen is not None and seen != sum(t["seat"] == "inverter" for t in things):
        raise OneMore("Another inverter was put in or taken out meanwhile: look at the list as it stands now, then add.")
    model = next((t for t in things if t["id"] == like and t["seat"] == "inverter"), None)
    if model is None:
        raise BadPath(f"things.{like}")
    inverters = [t for t in things if t["seat"] == "inverter"]
    new = _next("inverter", _taken(document, known))
    grouped = own != "board"
    if len(inverters) == 1 and not model.get("address") and grouped:
        model["address"], model["terminator"] = 1, True
    highest = max(t.get("address", 0) for t in inverters)
    address = highest + 1 if grouped else 0
    things.append({**model, "id": new, "title": "", "phase": None, "address": address, "terminator": False})
    for box in [t for t in things if t.get("inverter") == like and t["seat"] in ("switch-fuse", "roof-box")]:
        things.append({**box, "id": _next(box["id"], _taken(document, known)), "title": "", "inverter": new})
    made = next(t for t in things if t["id"] == new)
    if own != "nothing":
        made["bank"] = _another_bank(document, model.get("bank", "bank"), known)
    if own == "board":
        made["feeds"] = _another_way(document, model.get("feeds", "sub-board"), known)
        _another_meter(document, like, new)
    return new


def _another_meter(document: dict[str, Any], like: str, reader: str) -> None:
    """A set of CTs like that of another inverter, for one that leads a part of the house of its own."""
    meters = document["sensing"]["meters"]
    model = next((m for m in meters if m.get("inverter", "inverter") == like), None)
    if model is not None:
        meters.append({**model, "id": _next(model.get("id", "meter"), {m.get("id") for m in meters}), "inverter": reader})


def _another_way(document: dict[str, Any], like: str, known: Collection[str]) -> str:
    """A backed-up board of its own for an inverter, behind transfer equipment of its own where its model has it. Returns what it feeds."""
    things = {t["id"]: t for t in document["things"]}
    through, board = things[like], things[like]
    while board.get("feeds"):
        board = things[board["feeds"]]
    fed = _copy(document, board, known, fed_from=None)
    return _copy(document, through, known, feeds=fed, fed_from=None) if through["seat"] == "transfer" else fed


def _copy(document: dict[str, Any], model: Mapping[str, Any], known: Collection[str], **more: Any) -> str:
    """Another thing like one that stands there, to be bought. Returns its id."""
    name = _next(model["id"], _taken(document, known))
    document["things"].append({**model, "id": name, "title": "", "stays": False, **more})
    return name


def another_box(document: dict[str, Any], like: str, *, seen: int | None = None, known: Collection[str] = ()) -> str:
    """Put in another board or transfer switch like one that stands there: a board behind it; a switch on the same combining panel, with
    a board of its own. Returns its id. Raises BadPath, OneMore as ``another``, StillNeeded for a switch that no panel feeds."""
    model: dict[str, Any] = next((t for t in document["things"] if t["id"] == like), {})
    if model.get("seat") not in ("board", "transfer") or model.get("duty") == "combining":
        raise BadPath(f"things.{like}")
    if seen is not None and seen != sum(_alike(t, model) for t in document["things"]):
        raise OneMore("Another one was put in or taken out meanwhile: look at the list as it stands now, then add.")
    if model["seat"] == "board":
        return _copy(document, model, known, fed_from=like, feeds=None)
    panel = model.get("fed_from") or next(
        (t["id"] for t in document["things"] if t.get("duty") == "combining" and t.get("feeds") == like), None
    )
    if panel is None:
        raise StillNeeded(f"{like} is fed by no combining panel, so nothing feeds a second one. Put a combining panel in first.")
    board = next(t for t in document["things"] if t["id"] == model["feeds"])
    return _copy(document, model, known, feeds=_copy(document, board, known, fed_from=None), fed_from=panel)


def _alike(thing: Mapping[str, Any], model: Mapping[str, Any]) -> bool:
    return (thing["seat"], thing.get("duty")) == (model["seat"], model.get("duty"))


def _another_bank(document: dict[str, Any], like: str, known: Collection[str]) -> str:
    """A bank of as many batteries as another, addressed from the first on, with a busbar box where that one has it. Returns its id."""
    model = read_path(document, f"banks.{like}")
    name, units, taken = _next(like, {bank["id"] for bank in document["banks"]}), [], _taken(document, known)
    for nth, unit in enumerate(model["units"], 1):
        own = _next(unit["id"], taken)
        taken = taken | {own}
        units.append({**unit, "id": own, "dip_address": nth if unit.get("dip_address") else 0})
    document["banks"].append({**model, "id": name, "units": units})
    for box in [t for t in document["things"] if t["seat"] == "busbar" and t.get("bank", "bank") == like]:
        document["things"].append({**box, "id": _next(box["id"], taken | {t["id"] for t in document["things"]}), "title": "", "bank": name})
    return name


def _next(stem: str, taken: set[str]) -> str:
    """The first free name of a stem with a number behind."""
    base = stem.rstrip("0123456789").rstrip("-")
    return next(name for name in (f"{base}-{n}" for n in range(2, 1000)) if name not in taken)
