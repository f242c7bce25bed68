"""Documents of earlier formats, made into today's. Nothing that was ever written becomes unreadable."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

FORMAT = "gumboot.job/3"
Document = dict[str, Any]

# A place of format 1, one of each, and the thing of format 2 that stands there: seat, id and what is said of it beside its card.
PLACES_OF_1: Mapping[str, tuple[str, str, Document]] = {
    "inverter": ("inverter", "inverter", {}),
    "switch_fuse": ("switch-fuse", "switch-fuse", {}),
    "busbar_box": ("busbar", "busbar", {}),
    "roof_box": ("roof-box", "roof", {}),
    "main_board": ("board", "main-board", {"duty": "main"}),
    "sub_board": ("board", "sub-board", {"duty": "backed-up"}),
    "transfer": ("transfer", "transfer", {}),
    "generator": ("generator", "generator", {}),
    "pv_inverter": ("pv-inverter", "pv-inverter", {}),
}


def _things(chosen: Document) -> list[Document]:
    things = [
        {"seat": seat, "id": thing, "card": chosen[role], **more} for role, (seat, thing, more) in PLACES_OF_1.items() if chosen.get(role)
    ]
    if chosen.get("main_board"):
        for thing in things:
            if thing["seat"] in ("inverter", "transfer"):
                thing["board"] = "main-board"
    if chosen.get("transfer"):
        next(t for t in things if t["seat"] == "inverter")["feeds"] = "transfer"
    return things


def _of_1(old: Document) -> Document:
    """From one of each to lists: each thing gets the id under which records, runs and placements have known it."""
    new = {k: v for k, v in old.items() if k not in ("bank", "wall", "links")}
    chosen, sensing = dict(old.get("equipment") or {}), dict(old.get("sensing") or {})
    new["things"] = _things(chosen)
    new["equipment"] = {k: chosen.get(k) for k in ("module", "optimiser", "anchor")}
    new["banks"] = [{"id": "bank", "card": chosen.get("battery"), **(old.get("bank") or {}), **(old.get("links") or {})}]
    new["walls"] = [{"id": "wall", **(old.get("wall") or {})}]
    meter = {"id": "meter", "card": chosen.get("ct"), "cts": sensing.pop("cts", [])}
    new["sensing"] = {"meters": [meter], **sensing}
    return {**new, "format": "gumboot.job/2"}


def _of_2(old: Document) -> Document:
    """An electrode has a kind; format 2 knew only whether it is a rod, pipe or plate alone, and took it for one."""
    if not isinstance(old.get("site"), dict):
        return {**old, "format": "gumboot.job/3"}
    site = dict(old["site"])
    if site.pop("rod_only", True) is False:
        # Every other kind that it may have been: the table in full.
        site["electrode"] = "water pipe or steel"
    return {**old, "site": site, "format": "gumboot.job/3"}


STEPS: Mapping[str, Callable[[Document], Document]] = {"gumboot.job/1": _of_1, "gumboot.job/2": _of_2}


def upgraded(document: Document) -> Document:
    """The document in today's format; one that says no format, or one that is not known, is left for the model to judge."""
    while (step := STEPS.get(str(document.get("format", FORMAT)))) is not None:
        document = step(document)
    return document
