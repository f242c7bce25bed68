"""The acts of linking: every lead made, and rung out."""

from __future__ import annotations

from collections.abc import Iterator

from gumboot.core.acts.act import Act, Band, Kind, ident
from gumboot.core.acts.ritual import told_of_groups
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.leads import Lead, LeadEnd, LeadKind
from gumboot.core.plan.marks import numbers_of
from gumboot.core.plan.prove import Lasts

# What first power waits for of what it makes live: the buses for the step that reads them, the rest for the first step.
ON_A_BUS = (LeadKind.BATTERY, LeadKind.CHAIN, LeadKind.PARALLEL)
BEFORE_POWER = (LeadKind.GATEWAY, LeadKind.SHUTDOWN)


def lead_made(lead: Lead) -> str:
    """The id of the act of making a lead."""
    return ident("lead", lead.id)


def lead_proved(lead: Lead) -> str:
    """The id of the act after which a lead is trusted: rung out, or made where nothing is to be rung."""
    return ident("ring" if lead.is_rung else "lead", lead.id)


def end_words(end: LeadEnd) -> str:
    """How one end of a lead is made ready."""
    stripped = f"strip {end.strip_mm:g} mm" if end.strip_mm is not None else ""
    sheath = f"sheath off {end.sheath_mm:g} mm" if end.sheath_mm is not None else ""
    how = ", ".join(words for words in (end.plug or "", sheath, stripped) if words)
    return f"{end.title[:1].upper()}{end.title[1:]}{f', {end.socket}' if end.socket else ''}{f': {how}' if how else ''}"


def _pins(lead: Lead) -> str:
    """Core by core, as somebody calls it out to another."""
    return "; ".join(f"{w.colour} ({w.signal}) {w.first} to {w.second}" for w in lead.wires)


def _drain(lead: Lead) -> str:
    """Where the drain wire goes: to earth at one end."""
    earthed = next((end for end in lead.ends if end.is_earthed), None)
    other = next((end for end in lead.ends if not end.is_earthed), None)
    return f"Drain wire to earth at {earthed.title}, cut and taped at {other.title}." if earthed and other else ""


def _seen(lead: Lead, number: str) -> str:
    """What a lead must be when it is made."""
    marked = "" if lead.is_air else f"Marked {number} at both ends."
    if lead.kind is LeadKind.NETWORK:
        joined = "It shows that it has joined."
        return " ".join(words for words in (lead.told, joined, marked) if words)
    pair = "The twisted pair stays twisted to the contacts." if any(w.is_paired for w in lead.wires) else ""
    said = (f"{_pins(lead)}." if lead.wires else "", pair, _drain(lead), lead.told, marked)
    return " ".join(words for words in said if words)


def _before(lead: Lead) -> Iterator[Act]:
    """What comes out of a socket before its loop is wired: left in, the initiator does nothing."""
    if lead.kind is LeadKind.SHUTDOWN and lead.first:
        yield Act(
            id=ident("bridge", lead.id), kind=Kind.BRIDGE, station="links", title=f"Bridge out: {lead.title}", thing=lead.ends[0].place,
            see=lead.first, band=Band(choices=("yes", "no")), guards="life",
        )  # fmt: skip


def _made(lead: Lead, number: str, needs: tuple[str, ...]) -> Act:
    minded = [lead.first if lead.kind is not LeadKind.SHUTDOWN else "", *(end.note for end in lead.ends)]
    if lead.lacks:
        minded.append(f"Not known: {', '.join(lead.lacks)}. Look it up in its manual and complete the plan.")
    return Act(
        id=lead_made(lead),
        kind=Kind.LEAD,
        station="sensing" if lead.kind is LeadKind.CT else "links",
        title=lead.title,
        thing=lead.ends[0].place,
        prepare=" · ".join(end_words(end) for end in lead.ends),
        see=_seen(lead, number),
        caution=" ".join(words for words in minded if words),
        guards="life" if lead.kind in BEFORE_POWER else "paper" if lead.kind is LeadKind.NETWORK else "equipment",
        needs=needs,
        lasts=Lasts(rests=lead.rests),
    )


def _rung(lead: Lead) -> Act:
    screen = ", and none at the screen" if lead.has_screen else ""
    return Act(
        id=ident("ring", lead.id),
        kind=Kind.RING,
        station="links",
        title=f"Rung out: {lead.title}",
        thing=lead.ends[0].place,
        prepare=f"Both plugs out. One probe on a pin at {lead.ends[0].title}, the other along the plug at {lead.ends[1].title}.",
        see=f"Each pin beeps at its own alone{screen}.",
        guards="life" if lead.kind in BEFORE_POWER else "equipment",
        needs=(lead_made(lead),),
        # A lead that is made again is rung out again.
        lasts=Lasts(rests=lead.rests, landed=(lead_run(lead),)),
    )


def lead_run(lead: Lead) -> str:
    """How a lead is called where it is said that it was made anew."""
    return f"lead {lead.title}"


def lead_acts(plan: Plan) -> Iterator[Act]:
    """Every lead: what comes out first, made, rung out. The link between inverters is plugged when each has its address."""
    told, numbers = told_of_groups(plan), numbers_of(plan.leads.leads)
    for lead in plan.leads.leads:
        first = tuple(_before(lead))
        yield from first
        needs = tuple(act.id for act in first)
        if lead.kind is LeadKind.PARALLEL:
            needs += tuple(told[end.place] for end in lead.ends)
        yield _made(lead, numbers[lead.id], needs)
        if lead.is_rung:
            yield _rung(lead)


def proved_leads(plan: Plan, *kinds: LeadKind) -> list[str]:
    """The acts that prove the leads of some kinds."""
    return [lead_proved(lead) for lead in plan.leads.of_kind(*kinds)]
