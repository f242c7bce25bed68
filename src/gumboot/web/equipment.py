"""The places for equipment as Survey lists them: what stands there, what may be put in, and what each thing is joined to."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from gumboot.core.job import Job
from gumboot.core.job.things import AnyThing, InverterThing


@dataclass(frozen=True, slots=True)
class Join:
    """What a thing is joined to: the field, its words, and what it may name; without names the field's own answers."""

    path: str
    words: str
    options: tuple[str, ...]
    empty: str = "nothing"


@dataclass(frozen=True, slots=True)
class Place:
    """A place for a card. ``optional`` where it may stand empty; ``thing`` is the id of what stands or would stand there,
    ``empty`` what it says while nothing is chosen."""

    path: str
    role: str
    title: str
    optional: bool
    thing: str = ""
    empty: str = "none"
    joins: tuple[Join, ...] = ()


ROLES = {"switch-fuse": "switch_fuse", "busbar": "busbar_box", "roof-box": "roof_box", "pv-inverter": "pv_inverter"}
DUTIES = {"main": "main_board", "backed-up": "sub_board", "combining": "combining_panel"}
TITLES = {
    "inverter": "Inverter",
    "switch_fuse": "Battery switch-fuse",
    "busbar_box": "DC busbar box",
    "roof_box": "Box at the roof",
    "main_board": "Main board",
    "sub_board": "Backed-up board",
    "combining_panel": "Combining panel",
    "transfer": "Transfer or gateway",
    "generator": "Generator",
    "pv_inverter": "PV inverter",
}
USUAL = {
    "main_board": "main-board",
    "combining_panel": "combining-panel",
    "busbar_box": "busbar",
    "switch_fuse": "switch-fuse",
    "roof_box": "roof",
    "transfer": "transfer",
    "generator": "generator",
    "pv_inverter": "pv-inverter",
}
MUST = ("inverter", "sub_board")


def _role(thing: AnyThing) -> str:
    return DUTIES[thing.duty] if thing.seat == "board" else ROLES.get(thing.seat, thing.seat)


def _joins(job: Job, thing: AnyThing) -> Iterator[Join]:
    """The fields that say where a thing is joined, where there is more than one answer."""
    at = f"things.{thing.id}"
    boards = tuple(t.id for t in job.things if t.seat == "board" and t.id != thing.id)
    fed = boards + tuple(t.id for t in job.things if t.seat == "transfer" and t.id != thing.id)
    inverters = tuple(t.id for t in job.things if t.seat == "inverter")
    banks = tuple(bank.id for bank in job.banks)
    several = len(inverters) > 1
    if isinstance(thing, InverterThing):
        if len(banks) > 1:
            yield Join(f"{at}.bank", "its bank", banks)
        if len(fed) > 1:
            yield Join(f"{at}.board", "fed from", fed)
            yield Join(f"{at}.feeds", "feeds", fed)
    elif thing.seat in ("switch-fuse", "roof-box") and several:
        yield Join(f"{at}.inverter", "belongs to", inverters)
    elif thing.seat == "busbar" and len(banks) > 1:
        yield Join(f"{at}.bank", "belongs to", banks)
    elif thing.seat == "generator" and several:
        yield Join(f"{at}.feeds", "feeds", inverters)
    elif thing.seat == "board" and thing.duty != "combining":
        alike = tuple(t.id for t in job.things if t.seat == "board" and t.duty == thing.duty and t.id != thing.id)
        if alike:
            yield Join(f"{at}.fed_from", "behind", alike, "no other board")
        if thing.duty == "main" and thing.id != next(t.id for t in job.things if t.seat == "board" and t.duty == "main"):
            yield Join(f"{at}.opposite_ends", "fed from opposite ends", (), "not answered")
        if thing.duty == "main" and thing.fed_from:
            yield Join(f"{at}.bonded", "neutral bonded to earth here", (), "not answered")
    elif thing.seat in ("board", "transfer", "pv-inverter"):
        yield Join(f"{at}.feeds", "feeds", fed if thing.seat == "board" else boards)
        panels = tuple(t.id for t in job.things if t.seat == "board" and t.duty == "combining")
        if thing.seat == "transfer":
            yield Join(f"{at}.board", "fed from", tuple(b for b in boards if b not in panels))
            if panels:
                yield Join(f"{at}.fed_from", "also on a breaker of", panels, "no panel")


def _standing(job: Job) -> Iterator[Place]:
    """What stands in the house, inverters first."""
    order = (
        *("inverter", "switch_fuse", "busbar_box", "roof_box", "combining_panel", "sub_board"),
        *("main_board", "transfer", "generator"),
    )
    things = sorted(job.things, key=lambda t: order.index(_role(t)) if _role(t) in order else len(order))
    alike: dict[str, int] = {}
    for thing in things:
        alike[_role(thing)] = alike.get(_role(thing), 0) + 1
    for thing in things:
        role = _role(thing)
        title = thing.title or (TITLES[role] if alike[role] == 1 else f"{TITLES[role]} {thing.id}")
        yield Place(f"things.{thing.id}.card", role, title, role not in MUST or alike[role] > 1, thing.id, joins=tuple(_joins(job, thing)))


def _empty(job: Job) -> Iterator[Place]:
    """Usual places that stand empty."""
    have = {_role(t) for t in job.things}
    for role, thing in USUAL.items():
        idle = (role == "main_board" and job.site.supply == "none") or (
            role == "combining_panel" and sum(t.seat == "inverter" for t in job.things) < 2
        )
        if role not in have and not idle:
            yield Place(f"things.{thing}.card", role, TITLES[role], True, thing)


@dataclass(frozen=True, slots=True)
class More:
    """A thing of which another may be put in: the words of the button, its model, and how many of the kind stand there."""

    words: str
    like: str
    seen: int


def more(job: Job) -> list[More]:
    """What else may be put in beside what stands there: boards, and transfer switches of a combining panel."""
    found = []
    for role, words in (("sub_board", "a board behind {}"), ("main_board", "a main board behind {}"), ("transfer", "another {}")):
        things = [t for t in job.things if _role(t) == role]
        fed = any(t.seat == "board" and t.duty == "combining" for t in job.things)
        if things and (role != "transfer" or fed):
            name = things[0].title or things[0].id
            found.append(More(f"Add {words.format(name)}", things[0].id, len(things)))
    return found


def places(job: Job) -> list[Place]:
    """Every place for equipment of a job."""
    rows = list(_standing(job))
    first = [row for row in rows if row.role == "inverter"]
    hung = {t.bank for t in job.things if isinstance(t, InverterThing)}
    banks = [
        Place(f"banks.{bank.id}.card", "battery", "Battery" if len(job.banks) == 1 else f"Batteries of {bank.id}", bank.id not in hung)
        for bank in job.banks
    ]
    words = "Current transformer"
    meters = [
        Place(f"sensing.meters.{m.id}.card", "ct", words if len(job.sensing.meters) == 1 else f"{words} of {m.inverter}", True)
        for m in job.sensing.meters
        if job.site.supply != "none"
    ]
    several = len(job.faces) > 1
    of_faces = [
        Place(f"faces.{f.id}.module", "module", f"Modules of {f.title.lower()}", True, empty="as the PV module above")
        for f in job.faces
        if several or f.module
    ]
    lines = [
        Place(f"modbus.devices.{d.id}.card", "line_device", d.title, True, empty="no card: terminals as typed on Links")
        for d in job.modbus.devices
    ]
    stock = [Place("equipment.module", "module", "PV module", True), Place("equipment.optimiser", "optimiser", "Optimisers", True)]
    if any(wall.surface == "masonry" for wall in job.walls):
        stock.append(Place("equipment.anchor", "anchor", "Masonry anchor", True))
    if any(wall.surface not in (None, "masonry") for wall in job.walls):
        stock.append(Place("equipment.screw", "screw", "Lag screw", True, empty="as typed on Wall"))
    return [*first, *banks, stock[0], *of_faces, *meters, *(r for r in rows if r not in first), *lines, *_empty(job), *stock[1:]]
