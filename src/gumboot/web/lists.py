"""Lists of a job to which a person adds and from which a person removes: what is asked for each new item."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from pydantic import BaseModel

from gumboot.core.errors import GumbootError
from gumboot.core.job import Job, read_path
from gumboot.core.job.bank import BatteryUnit
from gumboot.core.job.fields import field_of
from gumboot.core.job.modbus import BusDevice
from gumboot.core.job.model import Face, Obstacle, String, ToolItem
from gumboot.core.job.names import slug
from gumboot.core.job.sensing import CtPlace, Meter
from gumboot.core.job.settings import TariffWindow
from gumboot.core.job.wall import Board, Opening, Placement, Wall
from gumboot.web import page_words
from gumboot.web.quantities import parse
from gumboot.web.typed import unit_of
from gumboot.web.view import Bench


@dataclass(frozen=True)
class Asked:
    """One field of a new item: its name in the model, words, and what stands there before anything is typed.

    ``kind``, ``unit`` and ``options`` are the model's own; a kind given here is a choice that depends on the job, such as its trackers.
    """

    name: str
    words: str
    default: str = ""
    wide: bool = False
    kind: str = ""
    unit: str = ""
    options: tuple[str, ...] = ()


@dataclass(frozen=True)
class Adder:
    """A list, or a single optional part, with what is asked for a new item. ``stem`` names items whose id is not asked."""

    path: str
    title: str
    fields: tuple[Asked, ...]
    stem: str = ""
    single: bool = False
    begins: Callable[[Job, str, Collection[str]], dict[str, Any]] | None = None


class BadItem(GumbootError):
    """A field of a new item that cannot be read."""

    def __init__(self, field: str, message: str) -> None:
        super().__init__(message)
        self.field = field


def _next_battery(job: Job, path: str, known: Collection[str]) -> dict[str, Any]:
    last = next(bank for bank in job.banks if bank.id == path.split(".")[1]).units[-1]
    taken = {u.id for bank in job.banks for u in bank.units} | {t.id for t in job.things} | set(known)
    name = next(f"bat-{n}" for n in range(1, 200) if f"bat-{n}" not in taken)
    return {
        "id": name,
        "dip_address": min(63, last.dip_address + 1) if last.dip_address else 0,
        "terminator": False,
        "protocol": last.protocol,
    }


def _hours(first: str, last: str) -> tuple[Asked, Asked]:
    return Asked("from_hour", "from hour", default=first), Asked("to_hour", "to hour", default=last)


_BOX = (
    Asked("x_mm", "from datum"),
    Asked("y_mm", "from floor"),
    Asked("width_mm", "wide"),
    Asked("height_mm", "high"),
)


def _adder(path: str, model: type[BaseModel], title: str, fields: tuple[Asked, ...], **more: Any) -> Adder:
    """A list with what is asked for a new item: kind, unit and choices of each field as its model declares them."""
    told = []
    for asked in fields:
        field = field_of(model, asked.name)
        options = ("no", "yes") if field.kind == "flag" else field.options
        told.append(asked if asked.kind else replace(asked, kind=field.kind, unit=unit_of(field), options=options))
    return Adder(path, title, tuple(told), **more)


ADDERS: Mapping[str, Adder] = {
    a.path: a
    for a in (
        _adder(
            "faces",
            Face,
            "roof face",
            (
                Asked("title", "name", wide=True),
                Asked("tilt_deg", "tilt", default="25"),
                Asked("azimuth_deg", "faces (180 is south)", default="180"),
                Asked("width_mm", "width at the eaves"),
                Asked("height_mm", "length up the slope"),
            ),
            stem="face",
            begins=lambda *_: {"columns": 1, "rows": 1},
        ),
        _adder(
            "faces.*.obstacles",
            Obstacle,
            "obstacle",
            (
                Asked("title", "what"),
                Asked("x_mm", "from the left edge"),
                Asked("y_mm", "from the eaves"),
                Asked("width_mm", "wide"),
                Asked("height_mm", "along the slope"),
            ),
            stem="obstacle",
        ),
        _adder(
            "strings",
            String,
            "string",
            (
                Asked("id", "name"),
                Asked("inverter", "inverter", kind="holder"),
                Asked("tracker", "tracker", kind="tracker"),
                Asked("face", "face", kind="face"),
                Asked("modules", "modules"),
            ),
        ),
        _adder("banks.*.units", BatteryUnit, "battery", (), begins=_next_battery),
        _adder(
            "walls",
            Wall,
            "wall",
            (
                Asked("title", "which wall", wide=True),
                Asked("surface", "surface"),
                Asked("room", "kind of place"),
                Asked("width_mm", "wide"),
                Asked("height_mm", "high"),
            ),
            stem="wall",
        ),
        _adder(
            "walls.*.openings",
            Opening,
            "opening or appliance",
            (
                Asked("title", "what", wide=True),
                Asked("kind", "kind"),
                *_BOX,
            ),
            stem="opening",
        ),
        _adder("walls.*.placements", Placement, "box", (Asked("id", "box", kind="place"), *_BOX[:2])),
        _adder(
            "walls.*.board",
            Board,
            "backing board",
            (
                Asked("material", "material"),
                *_BOX,
                Asked("thickness_mm", "thick", default="12 mm"),
            ),
            single=True,
        ),
        _adder(
            "modbus.devices",
            BusDevice,
            "device",
            (
                Asked("title", "what", wide=True),
                Asked("inverter", "asked by", kind="asker"),
                Asked("address", "address"),
                Asked("speed", "speed", default="9600 bit/s"),
                Asked("terminator", "terminator"),
            ),
            stem="device",
        ),
        _adder("sensing.meters", Meter, "set of CTs", (Asked("inverter", "read by", kind="reader"),), stem="meter"),
        _adder(
            "sensing.meters.*.cts",
            CtPlace,
            "current transformer",
            (
                Asked("channel", "channel", kind="channel"),
                Asked("leg", "on", kind="leg"),
                Asked("arrow", "arrow"),
            ),
        ),
        _adder(
            "settings.tariff",
            TariffWindow,
            "tariff window",
            (
                Asked("title", "name"),
                Asked("kind", "kind"),
                *_hours("0", "24"),
                Asked("price", "price of a kWh", default="0"),
                Asked("grid_charge", "charge from the grid"),
            ),
            stem="window",
        ),
        _adder(
            "tools",
            ToolItem,
            "tool",
            (
                Asked("title", "tool", wide=True),
                Asked("kind", "kind", default="torque tool"),
                Asked("calibrated_to", "calibrated to, such as 2027-05-31"),
            ),
            stem="tool",
        ),
    )
}


def adder_of(path: str) -> Adder | None:
    """The adder of a list's path; the list of an item within a list stands for all its siblings."""
    if path in ADDERS:
        return ADDERS[path]
    parts = path.split(".")
    return ADDERS.get(".".join((*parts[:-2], "*", parts[-1]))) if len(parts) > 2 else None


def _value(asked: Asked, text: str, system: str) -> Any:
    text = text.strip()
    if asked.kind == "flag":
        return text == "yes"
    if asked.kind == "holder":
        return text or None  # asked where several inverters have inputs
    if text == "":
        if asked.kind == "text":
            raise BadItem(asked.name, f"{asked.words}: give it.")
        raise BadItem(asked.name, f"{asked.words}: give a value.")
    if asked.kind in ("text", "choice", "tracker", "face", "place", "channel", "leg", "reader", "asker"):
        return text
    try:
        number = parse(text, asked.unit, system)
    except GumbootError as refused:
        raise BadItem(asked.name, f"{asked.words}: {refused}") from None
    if asked.kind == "whole" and not number.is_integer():
        raise BadItem(asked.name, f"{asked.words}: this must be a whole number.")
    return int(number) if asked.kind == "whole" else number


def _read_by_one(job: Job, reader: str) -> None:
    """An inverter reads one set of CTs: a second tap, or a second person, adds none. Raises BadItem."""
    if reader not in {t.id for t in job.things if t.seat == "inverter"}:
        raise BadItem("inverter", f"read by: the job has no inverter '{reader}' any more. Look at the list as it stands now.")
    if any(meter.inverter == reader for meter in job.sensing.meters):
        raise BadItem("inverter", f"read by: {reader} has a set of CTs already. Look at the list as it stands now.")


def new_item(job: Job, path: str, typed: Mapping[str, str], known: Collection[str] = ()) -> dict[str, Any]:
    """A new item of a list from what was typed. Raises BadItem that names the field; BadPath for a list that is not there.

    ``known`` are names that records speak of: a battery that was taken out and one that comes later are two.
    """
    adder = adder_of(path)
    if adder is None:
        raise BadItem("", "Nothing is added to that list here.")
    present = read_path(job.model_dump(mode="json"), path)
    item: dict[str, Any] = dict(adder.begins(job, path, known)) if adder.begins else {}
    for asked in adder.fields:
        item[asked.name] = _value(asked, typed.get(asked.name, asked.default), job.preferences.units)
    if adder.stem:
        taken = {x.get("id") for x in present}
        item["id"] = slug(str(item.get("title") or adder.stem), {t for t in taken if t})[:40]
    if path == "sensing.meters":
        _read_by_one(job, item["inverter"])
    if path == "strings":
        item |= {"label_top": item["id"], "label_bottom": item["id"]}
    return item


@dataclass(frozen=True, slots=True)
class Answer:
    """One field of a new item as a form shows it; ``options`` are what there is to choose from, None where it is typed."""

    name: str
    words: str
    default: str
    unit: str
    wide: bool
    numeric: bool
    options: tuple[str, ...] | None


def _options(view: Bench, path: str, kind: str) -> Sequence[str] | None:
    """What this job has to choose from for a kind of field; None for one that is typed."""
    house, job = view.plan.house, view.job
    match kind:
        case "tracker":
            return tuple(dict.fromkeys(at.tracker.id for at in house.inputs))
        case "holder":
            return tuple(dict.fromkeys(at.place for at in house.inputs))
        case "face":
            return tuple(face.id for face in job.faces)
        case "place":
            return page_words.free_places(view)
        case "leg":
            return page_words.lines_of(view, page_words.meter_at(view, path))
        case "channel":
            return page_words.free_channels(view, page_words.meter_at(view, path))
        case "reader":
            return view.plan.sensing.blind
        case "asker":
            return tuple(seat.id for seat in view.plan.seats.inverters)
    return None


def asked_for(view: Bench, path: str) -> list[Answer]:
    """What a form asks for a new item of a list; a choice between one is none."""
    adder = adder_of(path)
    found = []
    for asked in adder.fields if adder else ():
        options = asked.options or _options(view, path, asked.kind)
        if asked.kind == "holder" and options is not None and len(options) < 2:
            continue
        numeric = asked.kind != "text"
        told = None if options is None else tuple(options)
        found.append(Answer(asked.name, asked.words, asked.default, asked.unit, asked.wide, numeric, told))
    return found
