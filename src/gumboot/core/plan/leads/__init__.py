"""Every data, sense and signal lead of a house: what it joins, core by core, and how long it is.

``parts`` is one lead, ``joined`` makes one out of two ends, ``battery`` are the leads of the buses, ``meters`` those of Modbus lines, ``signals`` those of
transformers, gateways, loops and contacts, ``station`` all of them.
"""

from gumboot.core.plan.leads.parts import Lead, LeadEnd, LeadKind, LeadsPlan, Wire
from gumboot.core.plan.leads.station import plan_leads

__all__ = ["Lead", "LeadEnd", "LeadKind", "LeadsPlan", "Wire", "plan_leads"]
