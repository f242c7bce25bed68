"""Devices, equipment and fixings."""

from __future__ import annotations

from collections.abc import Iterator

from gumboot.core.card.boxes import BoardCard
from gumboot.core.card.model import AnyCard
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.wall import WallPlan
from gumboot.core.rulebook.books import book
from gumboot.core.study.materials.parts import Item

SEAT_WORDS = {"main": "main board", "backed-up": "backed-up board", "combining": "combining panel", "busbar": "DC busbar box"}


def devices_of(plan: Plan) -> list[Item]:
    """Overcurrent devices that the circuits ask for."""
    rows, standing = [], plan.house.standing()
    for circuit in plan.circuits.all:
        sized = plan.circuits.sized.get(circuit.id)
        if sized is None or sized.device is None or sized.demand.fixed_device_a is not None or circuit.id in standing:
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
        card = plan.shelf[thing.card]
        if not thing.stays and not (isinstance(card, BoardCard) and card.is_found):
            yield plan.shelf[thing.card], 1, SEAT_WORDS.get(getattr(thing, "duty", thing.seat), thing.seat.replace("-", " "))
    for bank in seats.banks:
        yield bank.card, len(bank.thing.units), "battery"
    for meter in plan.job.sensing.meters:
        if meter.card:
            yield plan.shelf[meter.card], len(meter.cts), "ct"
    for device in plan.seats.of_devices.values():
        yield device, 1, "Modbus line"
    laid: dict[str, int] = {}
    for s in plan.job.strings:
        card = seats.module_on(s.face)
        laid[card.id] = laid.get(card.id, 0) + s.modules
    for name, count in laid.items():
        yield plan.shelf[name], count, "module"
    if seats.optimiser is not None:
        yield seats.optimiser, modules, "optimiser"


def _fixings(plan: Plan, wall: WallPlan) -> list[Item]:
    """Screws or anchors of one wall; none while the anchor is not chosen."""
    own = next(w for w in plan.job.walls if w.id == wall.id)
    count, words = sum(len(box.holes) for box in wall.boxes), "drill list" if len(plan.walls) == 1 else f"drill list, {wall.title}"
    if not count:
        return []
    screw = plan.seats.screw
    if own.surface != "masonry" and screw is not None:
        return [Item("Fixing", f"{screw.maker} {screw.title}", count, "", words)]
    if own.surface != "masonry":
        return [Item("Fixing", f"Lag screw {own.anchor.diameter_mm:g} × {own.anchor.length_mm:g} mm", count, "", words)]
    anchor = plan.seats.anchor
    return [Item("Fixing", f"{anchor.maker} {anchor.title}", count, "", words)] if anchor else []


def boxes_of(plan: Plan) -> list[Item]:
    """Equipment, data leads and fixings."""
    rows = [Item("Equipment", f"{card.maker} {card.title}", count, "", words) for card, count, words in _bought(plan) if count]
    terminators = sum(u.terminator for bank in plan.job.banks for u in bank.units)
    if terminators:
        rows.append(Item("Data", "Bus terminator", terminators, "", "ends of the battery bus"))
    for bus in plan.links.wired:
        words = f"Battery lead, custom, {len(bus.lead)} cores, twisted shielded pair"
        rows.append(Item("Data", words, 1, "", f"inverter to first battery{bus.of}"))
    for wall in plan.walls:
        rows += _fixings(plan, wall)
    return rows
