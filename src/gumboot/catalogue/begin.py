"""Where a new job begins: a pattern for each kind of system, or another job without its answers."""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.catalogue import demo_house
from gumboot.core.job import Job
from gumboot.core.job.model import Consumption, Meter, Run, Sensing, Settings, Site, Wall


@dataclass(frozen=True)
class Kind:
    """A kind of system in words, and the demo house whose equipment it begins with."""

    id: str
    title: str
    pattern: str


KINDS: tuple[Kind, ...] = (
    Kind("K1", "Three-phase hybrid, high-voltage stack, CT for each phase", "d2-schoolhouse"),
    Kind("K2", "Single-phase hybrid, high-voltage stack", "k02-weaver"),
    Kind("K3", "Single-phase hybrid, 48 V batteries, generator input", "k03-tollhouse"),
    Kind("K4", "Split-phase hybrid, 48 V batteries, sub-board", "d1-saltmarsh"),
    Kind("K5", "Split-phase off-grid inverter-charger with a transfer switch", "k05-homestead"),
    Kind("K6", "Off-grid inverter, lead-acid or other bank, generator", "d4-lookout"),
    Kind("K7", "Integrated unit with batteries inside and a gateway", "k07-ridge"),
    Kind("K8", "AC-coupled battery inverter with a transfer box and an existing PV inverter", "d3-lockkeeper"),
    Kind("K9", "All-in-one cabinet, modules slide in", "k09-terrace"),
    Kind("K10", "Floor or wall stack with the power unit on top", "k10-bungalow"),
    Kind("K11", "Single-phase hybrid, low-voltage towers in parallel", "k11-millhouse"),
    Kind("K12", "Single-phase hybrid, many 48 V batteries in parallel", "k12-orchard-flat"),
    Kind("K13", "Three-phase storage inverter, low-voltage tower", "k13-printworks"),
)


def stripped(pattern: Job, job_id: str, title: str) -> Job:
    """A job with a pattern's equipment, preferences and ways of laying, and none of its answers."""
    runs = [
        Run(
            id=r.id,
            method=r.method,
            insulation=r.insulation,
            cable=r.cable,
            wire_class=r.wire_class,
            curve=r.curve,
            residual_ma=r.residual_ma,
            residual_type=r.residual_type,
        )
        for r in pattern.runs
        if not r.id.startswith("pv-") or r.id == "pv-ac"
    ]
    banks = [bank.model_copy(update={"precharge": True, "lead_as_made": [], "lead_m": None}) for bank in pattern.banks]
    meters = [Meter(id=meter.id, card=meter.card, inverter=meter.inverter) for meter in pattern.sensing.meters]
    return Job(
        id=job_id,
        title=title,
        rule_book=pattern.rule_book,
        site=Site(supply=pattern.site.supply, earthing=pattern.site.earthing, neutral_bond=pattern.site.neutral_bond),
        equipment=pattern.equipment,
        things=pattern.things,
        banks=banks,
        runs=runs,
        walls=[Wall(id=wall.id) for wall in pattern.walls],
        sensing=Sensing(meters=meters),
        settings=Settings(grid_charge_a=pattern.settings.grid_charge_a, comms=pattern.settings.comms),
        preferences=pattern.preferences,
        consumption=Consumption(),
        tools=pattern.tools,
    )


def begin(kind: str, job_id: str, title: str) -> Job:
    """A new job of a kind. Raises KeyError for an unknown kind."""
    found = {k.id: k for k in KINDS}[kind]
    return stripped(demo_house(found.pattern), job_id, title)


def copy(job: Job, job_id: str, title: str, answers: bool) -> Job:
    """Another house like this one: with all its answers, or with its equipment only."""
    return job.model_copy(update={"id": job_id, "title": title}) if answers else stripped(job, job_id, title)
