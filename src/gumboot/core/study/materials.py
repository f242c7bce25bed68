"""What must be bought and cut for this plan: every core with its length, every lug, ferrule, gland, device, label and box."""

from __future__ import annotations

import itertools
import math
from collections import Counter, defaultdict
from collections.abc import Iterator
from dataclasses import dataclass

from gumboot.core.card.model import AnyCard
from gumboot.core.figure import Figure
from gumboot.core.installation import Circuit
from gumboot.core.plan.circuits.parts import Sized
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.wall import WallPlan
from gumboot.core.rulebook.books import book
from gumboot.core.rulebook.common.identification import identification
from gumboot.core.workbook import Workbook

# Free ends inside two boxes, common practice: enough to reach the farthest terminal and leave a service loop.
TAIL_M = 0.3
SEAT_WORDS = {"main": "main board", "backed-up": "backed-up board", "combining": "combining panel", "busbar": "DC busbar box"}


@dataclass(frozen=True)
class Cut:
    """One core to cut: where it goes, what it is, how often and how long each, m."""

    circuit: str
    title: str
    role: str
    colour: str
    size: str
    wire_class: str
    material: str
    insulation: str
    count: int
    length: Figure


@dataclass(frozen=True)
class Item:
    """One line of the material list."""

    group: str
    item: str
    quantity: float
    unit: str
    where: str


@dataclass(frozen=True)
class Materials:
    """Cut list and material list, with what keeps a line from being there."""

    cuts: tuple[Cut, ...]
    items: tuple[Item, ...]
    waits: tuple[str, ...]
    figures: dict[str, Figure]


def _insulation(plan: Plan, sized: Sized) -> str:
    run = sized.run
    if run.cable != "building wire":
        return run.cable
    return run.insulation or book(plan.job.rule_book).wiring.usual_insulation


def _colour(plan: Plan, circuit: Circuit, role: str) -> str:
    rules = book(plan.job.rule_book)
    landed = next((t.colour for t in plan.terminations if t.circuit == circuit.id and t.role == role), "")
    return landed or identification(rules.identification, role).colour


def _cuts(plan: Plan, w: Workbook) -> list[Cut]:
    found = []
    slack = w.given("preferences.slack_pct", "s", "Slack added to each length", plan.job.preferences.slack_pct, "%")
    for circuit in plan.circuits.all:
        sized = plan.circuits.sized.get(circuit.id)
        if sized is None:
            continue
        length = w.work(
            f"cut.{circuit.id}",
            "L_cut",
            f"Cut each core of {circuit.title.lower()} to",
            sized.length * (1 + slack / 100) + 2 * TAIL_M,
            "m",
            "cp.slack",
            limits=f"{TAIL_M:g} m of free end in each box. A core that passes a switch is cut there.",
        )
        rows: Counter[tuple[str, str]] = Counter()
        for core in circuit.cores:
            rows[core.role, sized.earth_size if core.role == "earth" else sized.size] += sized.run.sets
        for (role, size), count in rows.items():
            found.append(
                Cut(
                    circuit.id,
                    circuit.title,
                    role,
                    _colour(plan, circuit, role),
                    size,
                    sized.run.wire_class,
                    sized.run.material,
                    _insulation(plan, sized),
                    count,
                    length,
                )
            )
    return found


def _cable(cuts: list[Cut]) -> list[Item]:
    totals: dict[tuple[str, ...], float] = defaultdict(float)
    where: dict[tuple[str, ...], list[str]] = defaultdict(list)
    for cut in cuts:
        key = (cut.size, cut.colour, cut.insulation, cut.wire_class, cut.material)
        totals[key] += cut.count * cut.length.value
        if cut.circuit not in where[key]:
            where[key].append(cut.circuit)
    return [
        Item("Cable", f"{size} {material}, {insulation}, {wire}, {colour}", math.ceil(10 * total - 1e-9) / 10, "m", ", ".join(where[key]))
        for key, total in totals.items()
        for size, colour, insulation, wire, material in [key]
    ]


def _ends(plan: Plan) -> list[Item]:
    lugs: Counter[str] = Counter()
    places: dict[str, set[str]] = defaultdict(set)
    for t in plan.terminations:
        if t.terminal.end == "lug":
            name = f"Lug {t.terminal.lug_hole or 'by stud'}, {t.size} barrel"
        elif t.terminal.end == "ferrule":
            name = f"Ferrule, {t.size}"
        else:
            continue
        lugs[name] += 1
        places[name].add(t.place)
    return [Item("Lugs and ferrules", name, count, "", ", ".join(sorted(places[name]))) for name, count in sorted(lugs.items())]


def _entries(plan: Plan) -> list[Item]:
    glands: Counter[str] = Counter()
    conduits: dict[str, float] = defaultdict(float)
    routes: dict[str, list[str]] = defaultdict(list)
    shared = {other for sized in plan.circuits.sized.values() if sized.run.raceway for other in sized.run.shares_with}
    for circuit in plan.circuits.all:
        sized = plan.circuits.sized.get(circuit.id)
        if sized is None:
            continue
        boxes = {end.place for core in circuit.cores for end in core.ends}
        if sized.run.raceway and sized.run.raceway_size:
            name = f"{sized.run.raceway}, {sized.run.raceway_size}"
            conduits[name] += sized.length.value
            routes[name].append(circuit.id)
            for box in boxes:
                glands[f"Fitting for {name}|{box}"] += 1
        elif circuit.id not in shared and circuit.kind != "interlink":
            for box in boxes:
                glands[f"Gland for {circuit.title.lower()}, {len(circuit.cores)} cores {sized.size}|{box}"] += 1
    rows = [Item("Raceway", name, math.ceil(10 * length - 1e-9) / 10, "m", ", ".join(routes[name])) for name, length in conduits.items()]
    merged: dict[str, list[str]] = defaultdict(list)
    for key, count in glands.items():
        name, box = key.split("|")
        merged[name] += [box] * count
    return rows + [Item("Glands and fittings", name, len(boxes), "", ", ".join(sorted(set(boxes)))) for name, boxes in merged.items()]


def _devices(plan: Plan) -> list[Item]:
    rows = []
    for circuit in plan.circuits.all:
        sized = plan.circuits.sized.get(circuit.id)
        if sized is None or sized.device is None or sized.demand.fixed_device_a is not None:
            continue
        wiring = book(plan.job.rule_book).wiring
        poles = circuit.lines + (1 if wiring.switches_neutral and circuit.lines else 0)
        run = sized.run
        kind = run.device_kind if circuit.lines else "DC device"
        curve = f" curve {run.curve}" if kind == "breaker" and wiring.names_curve else ""
        residual = f", residual {run.residual_ma:g} mA type {run.residual_type}" if run.residual_ma else ""
        rows.append(Item("Devices", f"{kind.capitalize()} {sized.device.value:g} A{curve}, {poles or 2} pole{residual}", 1, "", circuit.id))
    fused = list(plan.job.strings) if plan.job.string_fuse_a else []
    if fused and plan.job.string_fuse_a:
        rows.append(
            Item("Devices", f"PV string fuse {plan.job.string_fuse_a:g} A with holder", 2 * len(fused), "", "each pole of each string")
        )
    return rows


def _bought(plan: Plan) -> Iterator[tuple[AnyCard, int, str]]:
    """Cards with how many of each are bought and what for; what stays in the house is not."""
    seats, modules = plan.seats, sum(s.modules for s in plan.job.strings)
    for thing in plan.job.things:
        if not thing.stays:
            yield plan.shelf[thing.card], 1, SEAT_WORDS.get(getattr(thing, "duty", thing.seat), thing.seat.replace("-", " "))
    for bank in seats.banks:
        yield bank.card, len(bank.thing.units), "battery"
    for meter in plan.job.sensing.meters:
        if meter.card:
            yield plan.shelf[meter.card], len(meter.cts), "ct"
    for card, words in ((seats.module, "module"), (seats.optimiser, "optimiser")):
        if card is not None:
            yield card, modules, words


def _fixings(plan: Plan, wall: WallPlan) -> list[Item]:
    """Screws or anchors of one wall; none while the anchor is not chosen."""
    own = next(w for w in plan.job.walls if w.id == wall.id)
    count, words = sum(len(box.holes) for box in wall.boxes), "drill list" if len(plan.walls) == 1 else f"drill list, {wall.title}"
    if not count:
        return []
    if own.surface != "masonry":
        return [Item("Fixing", f"Lag screw {own.anchor.diameter_mm:g} × {own.anchor.length_mm:g} mm", count, "", words)]
    anchor = plan.seats.anchor
    return [Item("Fixing", f"{anchor.maker} {anchor.title}", count, "", words)] if anchor else []


def _boxes(plan: Plan) -> list[Item]:
    rows = [Item("Equipment", f"{card.maker} {card.title}", count, "", words) for card, count, words in _bought(plan) if count]
    terminators = sum(u.terminator for u in plan.job.banks[0].units)
    if terminators:
        rows.append(Item("Data", "Bus terminator", terminators, "", "ends of the battery bus"))
    if plan.links.lead:
        rows.append(
            Item("Data", f"Battery lead, custom, {len(plan.links.lead)} cores, twisted shielded pair", 1, "", "inverter to first battery")
        )
    for wall in plan.walls:
        rows += _fixings(plan, wall)
    return rows


def materials(plan: Plan) -> Materials:
    """Cut list and material list of a plan. Circuits that are not sized yet are named, not guessed."""
    w = Workbook(book(plan.job.rule_book))
    cuts = _cuts(plan, w)
    labels = [Item("Labels", x.text, 1, "", x.place) for x in plan.labels]
    strings = [Item("Labels", f"String label {s.label_top}", 2, "", "roof and inverter") for s in plan.job.strings if s.label_top]
    items = [*_boxes(plan), *_cable(cuts), *_ends(plan), *_entries(plan), *_devices(plan), *labels, *strings]
    waits = tuple(f"{c.title} is not sized: it is not in the list." for c in plan.circuits.all if c.id not in plan.circuits.sized)
    order = ("Equipment", "Cable", "Lugs and ferrules", "Glands and fittings", "Raceway", "Devices", "Data", "Fixing", "Labels")
    return Materials(tuple(cuts), tuple(sorted(items, key=lambda x: order.index(x.group))), waits, w.figures)


def wall_length_m(plan: Plan, circuit: Circuit) -> float | None:
    """One-way length between two boxes on one wall, m: along and up from middle to middle. None where an end is not on that wall."""
    ends = list(dict.fromkeys(end.place for core in circuit.cores if core.role != "earth" for end in core.ends))
    boxes = next((all_here for wall in plan.walls if ends[0] in (all_here := {b.id: b.rect for b in wall.boxes})), {})
    if circuit.kind == "interlink" or any(place not in boxes for place in ends) or len(ends) < 2:
        return None
    total = 0.0
    for a, b in itertools.pairwise(ends):
        first, second = boxes[a], boxes[b]
        total += abs(first.x + first.w / 2 - second.x - second.w / 2) + abs(first.y + first.h / 2 - second.y - second.h / 2)
    return total / 1000


def wall_route(plan: Plan, circuit: Circuit) -> Figure | None:
    """The wall's length of a run as a figure."""
    length = wall_length_m(plan, circuit)
    if length is None:
        return None
    return Figure(
        f"route.{circuit.id}",
        "L_wall",
        f"{circuit.title} along the wall",
        length,
        "m",
        "arith",
        limits="Along and up between the middles of its boxes; bends and slack are not in it.",
    )
