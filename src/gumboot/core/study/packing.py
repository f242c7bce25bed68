"""What goes into the van, in loads that are packed and ticked one by one: tools, what is bought, cable, then what each box takes."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator
from typing import NamedTuple

from gumboot.core.plan.derive import Plan
from gumboot.core.plan.leads import Lead
from gumboot.core.study.materials import Item, materials
from gumboot.core.study.materials.cuts import ends_at, glands_at
from gumboot.core.study.van import van_of
from gumboot.core.wording import length_in_both

# Groups of the material list that are packed as they are; lugs, glands and fixings go by box.
WHOLE = {
    "equipment": ("Equipment", ("Equipment",)),
    "cable": ("Cable and raceway", ("Cable", "Raceway")),
    "devices": ("Devices", ("Devices",)),
}
# Letters of a label by which it is told from others.
LEGIBLE = 48


class Load(NamedTuple):
    """One load: its name among the loads, what it is called, the box that it goes into, and its lines."""

    name: str
    title: str
    place: str
    lines: tuple[str, ...]


def _line(item: Item) -> str:
    amount = f"{item.quantity:g} {item.unit}" if item.unit else f"{item.quantity:g} ×"
    return f"{amount} {item.item}"


def _alike(items: list[Item]) -> tuple[str, ...]:
    """Lines of a group, what is alike counted together."""
    counts: dict[tuple[str, str], float] = defaultdict(float)
    for item in items:
        counts[item.item, item.unit] += item.quantity
    return tuple(_line(Item("", name, count, unit, "")) for (name, unit), count in counts.items())


def _tools(plan: Plan) -> Load:
    rows = dict.fromkeys(f"{row.item}" for row in van_of(plan, "").rows)
    return Load("tools", "Tools and meters", "", tuple(rows))


def _long(lead: Lead) -> str:
    return f", {length_in_both(1000 * lead.length.value)}" if lead.length is not None else ""


def _labels(plan: Plan) -> Load:
    """Labels by where they are stuck, with as much of each as tells it from the next."""
    texts = (f"{label.place}: {label.text[:LEGIBLE]}{'…' if len(label.text) > LEGIBLE else ''}" for label in plan.labels)
    strings = (f"2 × string {s.label_top}" for s in plan.job.strings if s.label_top)
    return Load("labels", "Labels, printed", "", (*dict.fromkeys(texts), *strings))


def _leads(plan: Plan) -> Load:
    data = _alike([item for item in materials(plan).items if item.group == "Data" and "lead" not in item.item.lower()])
    made = (f"{lead.title}: {lead.cable}{_long(lead)}" for lead in plan.leads.leads if lead.wires)
    return Load("leads", "Leads and what they end in", "", (*made, *data))


def _boxes(plan: Plan) -> Iterator[Load]:
    """What each box takes: lugs and ferrules, glands and fittings, its screws or anchors."""
    titles = {t.place: t.place_title for t in plan.terminations}
    lines: dict[str, Counter[str]] = {place: Counter() for place in titles}
    for place, name, count in (*ends_at(plan), *glands_at(plan)):
        lines.setdefault(place, Counter())[name] += count
    fixed = ((wall.fixings, box) for wall in plan.walls for box in wall.boxes if box.holes)
    for fixings, box in fixed:
        if fixings is not None:
            lines.setdefault(box.id, Counter())[f"{fixings.title}, {fixings.washer}"] += len(box.holes)
            titles.setdefault(box.id, box.title)
    alike = Counter(titles.values())
    for place, own in lines.items():
        title = titles.get(place, place)
        if own:
            yield Load(
                f"box.{place}", f"{place}, {title}" if alike[title] > 1 else title, place, tuple(f"{n} × {x}" for x, n in own.items())
            )


def loads_of(plan: Plan) -> tuple[Load, ...]:
    """Every load that has something in it."""
    listed = materials(plan).items
    whole = (Load(name, title, "", _alike([x for x in listed if x.group in groups])) for name, (title, groups) in WHOLE.items())
    return tuple(load for load in (_tools(plan), *whole, _labels(plan), _leads(plan), *_boxes(plan)) if load.lines)
