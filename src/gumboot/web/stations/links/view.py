"""What the station Links is drawn from."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup

from gumboot.core.acts import Act, Kind, State, ident
from gumboot.core.acts.leads import lead_proved
from gumboot.core.card.boxes import LineDeviceCard
from gumboot.core.job.modbus import BusDevice
from gumboot.core.plan.leads import Lead, LeadEnd, LeadKind
from gumboot.core.plan.links.station import BatteryBus
from gumboot.core.plan.marks import numbers_of
from gumboot.core.record import Rung
from gumboot.drawing import lead_net, links
from gumboot.drawing.lead_net import LeadState
from gumboot.drawing.leads import lead_canvas
from gumboot.web.card_notes import house_notes
from gumboot.web.view import Bench


@dataclass(frozen=True, slots=True)
class UnitFields:
    """A battery on the bus: what its fields are called, and whether its address is set at all."""

    title: str
    at: str
    has_address: bool


@dataclass(frozen=True, slots=True)
class Bus:
    """A battery bus, and the lead to it; or why there is none."""

    heading: str
    place: str
    at: str
    none_because: str
    of: str = ""
    drawing: Markup | None = None
    units: tuple[UnitFields, ...] = ()
    is_chain: bool = False


@dataclass(frozen=True, slots=True)
class GroupUnit:
    """An inverter of a group on their own line."""

    title: str
    at: str
    has_phase: bool


@dataclass(frozen=True, slots=True)
class Group:
    """The line between the inverters."""

    title: str
    note: str
    drawing: Markup
    units: list[GroupUnit]


@dataclass(frozen=True, slots=True)
class Line:
    """A Modbus line."""

    title: str
    drawing: Markup


@dataclass(frozen=True, slots=True)
class LeadRow:
    """One lead: its number on the drawing, how far it is made, its cores drawn as asked and as found, and its acts."""

    number: str
    title: str
    at: str
    ends: tuple[str, str]
    mark: str
    lead: Lead
    state: LeadState
    word: str
    drawing: Markup | None
    acts: tuple[Act, ...]
    heard: dict[int, int]
    is_next: bool = False


@dataclass(frozen=True, slots=True)
class Turn:
    """One unit of the programming, from alone on to off again: its tasks, and how many of them are done."""

    title: str
    tasks: list[Act]
    done: int
    is_next: bool


@dataclass(frozen=True, slots=True)
class LinksView:
    """The station Links."""

    net: Markup | None
    leads: list[LeadRow]
    buses: list[Bus]
    groups: list[Group]
    lines: list[Line]
    devices: list[BusDevice]
    cards: list[tuple[str, str]]
    askers: list[str]
    turns: list[Turn]
    notes: list[str]
    has_loop: bool
    has_network: bool


def _bus(b: Bench, bus: BatteryBus) -> Bus:
    at = f"banks.{bus.seat.id}"
    heading = bus.seat.id if len(b.plan.links.buses) > 1 else ""
    if bus.none_because:
        return Bus(heading, f"at {bus.inverter.name}", at, bus.none_because)
    several = len(bus.chain) > 1
    units = tuple(UnitFields(c.unit.id if c.set_dip or several else "stack", f"{at}.units.{c.unit.id}", bool(c.set_dip)) for c in bus.chain)
    return Bus(heading, f"at {bus.inverter.name}", at, "", bus.of, links.bus_of(bus), units, several)


def _groups(b: Bench) -> list[Group]:
    found = []
    for group in b.plan.links.groups:
        units = [GroupUnit(u.title, f"things.{u.seat.id}", len(u.seat.card.phases) == 1) for u in group.units]
        port = f"{group.port.title}, {group.port.bus}"
        found.append(Group(f"Between the inverters{group.of}", port, links.group_drawing(group), units))
    return found


def state_of(b: Bench, lead: Lead) -> LeadState:
    """How far a lead is made: not, made, proved, or found to be wrong."""
    stands = b.standing.stands
    own = [stands[i] for i in (ident("lead", lead.id), ident("ring", lead.id)) if i in stands]
    if any(each.state is State.FAILED for each in own):
        return "held"
    if stands[lead_proved(lead)].holds:
        return "proved"
    return "made" if stands[ident("lead", lead.id)].holds else "open"


WORDS: dict[LeadState, str] = {"open": "not made", "made": "made, not rung out", "proved": "rung out", "held": "held"}
NOT_RUNG: dict[LeadState, str] = {"open": "not in", "proved": "in"}
MARKS: dict[LeadState, str] = {"open": "open", "made": "part", "proved": "clear", "held": "held"}


def _word(lead: Lead, state: LeadState) -> str:
    if lead.kind is LeadKind.NETWORK:
        return {"open": "not joined", "proved": "joined"}.get(state, WORDS[state])
    return WORDS[state] if lead.is_rung else NOT_RUNG.get(state, WORDS[state])


def heard_of(b: Bench, lead: Lead) -> dict[int, int]:
    """Where each core beeped last, by the pin of the first plug; nothing where it was not rung out."""
    record = b.standing.last.get(ident("ring", lead.id))
    return {int(pin): heard for pin, heard in record.heard.items()} if isinstance(record, Rung) else {}


def _capital(words: str) -> str:
    return f"{words[:1].upper()}{words[1:]}"


def _end(end: LeadEnd) -> str:
    return ", ".join(words for words in (_capital(end.title), end.socket) if words)


def _leads(b: Bench) -> list[LeadRow]:
    numbers, found = numbers_of(b.plan.leads.leads), []
    words = ("bridge", "lead", "ring")
    is_next = True
    for lead in b.plan.leads.leads:
        state, heard = state_of(b, lead), heard_of(b, lead)
        drawn = lead_canvas(lead, heard=heard)
        acts = tuple(act for word in words if (act := b.standing.acts.get(ident(word, lead.id))) is not None)
        opens = is_next and state != "proved"
        is_next = is_next and not opens
        found.append(
            LeadRow(
                number=numbers[lead.id],
                title=_capital(lead.title),
                at=lead_net.opened(lead.id),
                ends=(_end(lead.ends[0]), _end(lead.ends[1])),
                mark=MARKS[state],
                lead=lead,
                state=state,
                word=_word(lead, state),
                drawing=drawn.render() if drawn is not None else None,
                acts=acts,
                heard=heard,
                is_next=opens,
            )
        )
    return found


def _turns(b: Bench) -> list[Turn]:
    """The programming, unit by unit, in the order in which it is done."""
    acts: dict[str, list[Act]] = {}
    for act in b.standing.acts.of("links"):
        if act.kind in (Kind.RITUAL, Kind.READ_BACK):
            acts.setdefault(act.thing, []).append(act)
    found, is_next = [], True
    names = {seat.id: seat.name for seat in b.plan.seats.inverters}
    for thing, tasks in acts.items():
        done = sum(b.standing.stands[act.id].holds for act in tasks)
        opens = is_next and done < len(tasks)
        is_next = is_next and not opens
        title = "All of the bank" if any(bank.id == thing for bank in b.job.banks) else _capital(names.get(thing, thing))
        found.append(Turn(title, tasks, done, opens))
    return found


def _devices(b: Bench) -> list[LineDeviceCard]:
    return sorted((card for card in b.plan.shelf.values() if isinstance(card, LineDeviceCard)), key=lambda card: (card.maker, card.title))


def view_of(b: Bench) -> LinksView:
    """The station as its page needs it."""
    modbus = b.plan.links.modbus
    lines = [Line(f"Asked by {x.inverter.name}" if len(modbus) > 1 or x.mark else "", links.modbus_drawing(x)) for x in modbus]
    net = lead_net.net_canvas(b.plan, {lead.id: state_of(b, lead) for lead in b.plan.leads.leads})
    return LinksView(
        net=net.render() if net is not None else None,
        leads=_leads(b),
        buses=[_bus(b, bus) for bus in b.plan.links.buses],
        groups=_groups(b),
        lines=lines,
        devices=list(b.job.modbus.devices),
        cards=[("", "no card: terminals as typed"), *((card.id, f"{card.maker} {card.title}") for card in _devices(b))],
        askers=[seat.id for seat in b.plan.seats.inverters],
        turns=_turns(b),
        notes=house_notes(b),
        has_loop=bool(b.plan.leads.of_kind(LeadKind.SHUTDOWN)),
        has_network=bool(b.plan.leads.of_kind(LeadKind.NETWORK)),
    )
