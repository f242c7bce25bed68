"""The ritual by which units learn who they are: one unit at a time, none woken while another is on."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from gumboot.core.acts.act import Act, Band, Kind, ident
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.links import BatteryBus, ChainUnit, GroupLink, places_told
from gumboot.core.plan.links.group import GroupUnit
from gumboot.core.plan.prove import Lasts

WAIT = "power off, count ten, power on"


def _placed(bus: BatteryBus, unit: ChainUnit) -> str:
    """The first step with a unit: it alone is on, its switches as the maker has them while its protocol is chosen."""
    name = unit.unit.id
    if bus.programming:
        return f"{name}: {places_told(bus.programming)} (programming), then it alone on, the others off"
    return f"{name} alone on, the others off"


def _spoken(bus: BatteryBus, name: str, before: str) -> Iterator[Act]:
    """The protocol on each bus on which the unit speaks it, typed as its display shows it."""
    chosen = bus.protocol
    spoken = [p for p in bus.seat.card.protocols if chosen is not None and p.name == chosen.name]
    for protocol in spoken:
        act = ident("told", f"{name}.{protocol.bus.lower()}")
        shipped = bus.seat.card.shipped_protocol
        minded = f"It is shipped with protocol {shipped}." if shipped and shipped != protocol.number else ""
        yield Act(
            id=act, kind=Kind.READ_BACK, station="links", title=f"{name}: protocol chosen on {protocol.bus}", thing=name,
            see=f"Protocol {protocol.number}, {protocol.name}. Type what its display shows.", caution=minded,
            band=Band(wants={"protocol": protocol.number}), needs=(before,), lasts=Lasts(rests=f"protocol {protocol.number}"),
        )  # fmt: skip
        before = act


def _addressed(unit: ChainUnit, plugged: bool) -> str:
    """Address, terminator, and what keeps them: power off and on again."""
    name = unit.unit.id
    told = f"switches for address {unit.wanted_address}" if unit.wanted_dip else ""
    end = ("terminator in" if unit.wants_terminator else "terminator out") if plugged else ""
    return f"{name}: {', '.join(words for words in (told, end, WAIT) if words)}"


def _wanted(bus: BatteryBus, unit: ChainUnit) -> Mapping[str, int]:
    """What the display of a unit shows at the end of its turn."""
    spoken = {"protocol": bus.battery_protocol.number} if bus.battery_protocol is not None else {}
    return {**spoken, **({"address": unit.wanted_address} if unit.wanted_dip else {})}


def _unit_acts(bus: BatteryBus, unit: ChainUnit, needs: tuple[str, ...]) -> Iterator[Act]:
    """One battery, from alone on to off again."""
    name, station = unit.unit.id, "links"
    first = ident("ritual", f"program.{name}")
    yield Act(id=first, kind=Kind.RITUAL, station=station, title=_placed(bus, unit), thing=name, needs=needs)
    spoken = tuple(_spoken(bus, name, first))
    yield from spoken
    before = spoken[-1].id if spoken else first
    cycle = ident("ritual", f"address.{name}")
    plugged = bus.seat.card.terminator == "plug" or bool(bus.seat.card.terminator_switch)
    rests = f"address {unit.wanted_address}" if unit.wanted_dip else ""
    yield Act(
        id=cycle, kind=Kind.RITUAL, station=station, title=_addressed(unit, plugged), thing=name, needs=(before,), lasts=Lasts(rests=rests),
    )  # fmt: skip
    wanted, before = _wanted(bus, unit), cycle
    if wanted:
        before = ident("told", f"{name}.back")
        words = " and ".join(f"{what} {number}" for what, number in wanted.items())
        yield Act(
            id=before, kind=Kind.READ_BACK, station=station, title=f"{name}: read back", thing=name,
            see=f"{words[:1].upper()}{words[1:]}, kept over the restart. Type what its display shows.",
            band=Band(wants=wanted), needs=(cycle,), lasts=Lasts(rests=words),
        )  # fmt: skip
    yield Act(id=ident("ritual", f"rest.{name}"), kind=Kind.RITUAL, station=station, title=f"{name} off", thing=name, needs=(before,))


def _bus_acts(plan: Plan, bus: BatteryBus) -> Iterator[Act]:
    """All batteries of a bus, one after another: none is woken while another is on."""
    off = ident("ritual", f"off{bus.mark}")
    yield Act(
        id=off, kind=Kind.RITUAL, station="links", title=f"Every battery breaker off, every BMS off{bus.of}", thing=bus.seat.id,
    )  # fmt: skip
    landed = () if bus.seat.card.wakes_open else _landed_of(plan, bus)
    before = (off,)
    for unit in bus.chain:
        made = tuple(_unit_acts(bus, unit, (*before, *landed)))
        yield from made
        before = (made[-1].id,)


def _landed_of(plan: Plan, bus: BatteryBus) -> tuple[str, ...]:
    """What a battery makes live that cannot be woken with its output open: landed, and proved dead before."""
    live = {c.id for c in plan.circuits.all if c.kind in ("battery", "battery-unit", "interlink")}
    landed = [ident("torque", t.id) for t in plan.terminations if t.circuit in live]
    dead = [ident("check", c.id) for c in plan.checks if c.id in ("look-open", f"dead-dc{bus.mark}")]
    return (*landed, *dead)


def _set_in(unit: GroupUnit) -> str:
    """What an inverter of a group is told."""
    phase = f", phase {unit.seat.thing.phase}" if unit.seat.thing.phase else ""
    return f"{'leader' if unit.leads else 'follower'}, address {unit.wanted_address}{phase}"


def _group_acts(group: GroupLink) -> Iterator[Act]:
    """Each inverter of a group told who it is, the link unplugged, and read back."""
    before: tuple[str, ...] = ()
    for unit in group.units:
        name, told = unit.seat.id, _set_in(unit)
        end = f", terminator {'in' if unit.wants_terminator else 'out'}" if group.pair_ohm is not None else ""
        first, back = ident("ritual", f"group.{name}"), ident("told", f"{name}.group")
        yield Act(
            id=first, kind=Kind.RITUAL, station="links", title=f"{unit.title}: {told}{end}, the link unplugged", thing=name, needs=before,
            lasts=Lasts(rests=told),
        )  # fmt: skip
        yield Act(
            id=back, kind=Kind.READ_BACK, station="links", title=f"{unit.title}: read back", thing=name,
            see=f"Address {unit.wanted_address}, kept over the restart. Type what its display shows.",
            band=Band(wants={"address": unit.wanted_address}), needs=(first,), lasts=Lasts(rests=told),
        )  # fmt: skip
        before = (back,)


def told_of_groups(plan: Plan) -> dict[str, str]:
    """By inverter of a group: the act after which its link may be plugged in."""
    return {unit.seat.id: ident("told", f"{unit.seat.id}.group") for group in plan.links.groups for unit in group.units}


def ritual_acts(plan: Plan) -> Iterator[Act]:
    """The programming of each battery bus and of each group of inverters, one unit at a time."""
    for bus in plan.links.wired:
        yield from _bus_acts(plan, bus)
    for group in plan.links.groups:
        yield from _group_acts(group)
