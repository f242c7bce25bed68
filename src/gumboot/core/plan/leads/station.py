"""All leads of a house, each with its length where the wall tells it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.cutting import TAIL_M, cut_m
from gumboot.core.plan.leads import battery, meters, signals
from gumboot.core.plan.leads.parts import Lead, LeadKind, LeadsPlan
from gumboot.core.plan.links.station import LinksPlan
from gumboot.core.plan.sensing import SensingPlan
from gumboot.core.plan.wall import WallPlan


def _all(ledger: Ledger, links: LinksPlan, sensing: SensingPlan) -> Iterator[Lead]:
    for bus in links.wired:
        yield from battery.battery_leads(bus)
    for group in links.groups:
        yield from battery.group_leads(group)
    for line in links.modbus:
        yield from meters.meter_leads(ledger, line)
    for tested in sensing.sets:
        yield from signals.ct_leads(ledger, tested)
    yield from signals.gateway_leads(ledger)
    yield from signals.loop_leads(ledger)
    yield from signals.contact_leads(ledger)
    yield from signals.network_leads(ledger)


def _length(ledger: Ledger, lead: Lead, walls: Sequence[WallPlan]) -> Figure | None:
    """How long a lead is cut: along the wall on which both its ends stand, with a free end in each box. None where the wall does not tell."""
    if lead.length is not None or lead.kind in (LeadKind.CT, LeadKind.NETWORK):
        return lead.length
    for wall in walls:
        boxes = {box.id: box.rect for box in wall.boxes}
        if all(end.place in boxes for end in lead.ends):
            one, other = (boxes[end.place] for end in lead.ends)
            slack = ledger.decided("preferences.slack_pct")
            along = ledger.work(
                f"leads.{lead.id}.along", "L_wall", f"{lead.title} along the wall", one.along_to_m(other), "m", source="arith"
            )
            limits = f"{TAIL_M:g} m of free end in each box."
            cut, name = cut_m(along, slack), f"Cut the lead {lead.title} to"
            return ledger.work(f"leads.{lead.id}.length", "L_cut", name, cut, "m", source="cp.slack", limits=limits)
    return None


def plan_leads(ledger: Ledger, links: LinksPlan, sensing: SensingPlan, walls: Sequence[WallPlan]) -> LeadsPlan:
    """Work out every lead."""
    made = tuple(lead.but(length=_length(ledger, lead, walls)) for lead in _all(ledger, links, sensing))
    return LeadsPlan(leads=made)
