"""All acts of a plan, in the order of the work."""

from __future__ import annotations

import weakref

from gumboot.core.acts.act import Act, Kind
from gumboot.core.acts.assembly import wall_acts
from gumboot.core.acts.equipment import equipped
from gumboot.core.acts.finish import ANSWERED, cover_acts, firmware_acts, live_acts, signing_acts, visit_acts
from gumboot.core.acts.fit import isolated_acts, sensing_acts, wire_acts
from gumboot.core.acts.fitting_up import entry_acts, fitting_acts
from gumboot.core.acts.graph import PLAN, Acts
from gumboot.core.acts.labels import label_acts, string_acts
from gumboot.core.acts.leads import lead_acts
from gumboot.core.acts.packing import packing_acts
from gumboot.core.acts.ritual import ritual_acts
from gumboot.core.acts.start import clearance_acts, off_acts, power_acts, prove_acts, setting_acts
from gumboot.core.acts.unpacking import unpacking_acts
from gumboot.core.plan.derive import Plan


def _plan_acts() -> tuple[Act, ...]:
    """What the plan itself must be: derived from it, recorded by nobody."""
    clear = Act(id=PLAN, kind=Kind.PLAN, station="survey", title="The plan has no stop", guards="life", is_derived=True)
    return clear, clear.but(id=ANSWERED, title="Every question of the plan is answered", guards="paper")


# The acts of each plan that is in use: every look at a standing asks for them, and they follow from the plan alone.
_KNOWN: dict[int, tuple[weakref.ref[Plan], Acts]] = {}


def acts(plan: Plan) -> Acts:
    """Every act that makes sense for a house, with what comes before each. Raises GumbootError where two would have one id."""
    key = id(plan)
    known = _KNOWN.get(key)
    if known is not None and known[0]() is plan:
        return known[1]
    made = _acts(plan)
    _KNOWN[key] = (weakref.ref(plan, lambda _: _KNOWN.pop(key, None)), made)
    return made


def _acts(plan: Plan) -> Acts:
    every = (
        *_plan_acts(),
        *packing_acts(plan),
        *unpacking_acts(plan),
        *wall_acts(plan),
        *fitting_acts(plan),
        *string_acts(plan),
        *isolated_acts(plan),
        *wire_acts(plan),
        *entry_acts(plan),
        *ritual_acts(plan),
        *lead_acts(plan),
        *prove_acts(plan),
        *power_acts(plan),
        *off_acts(plan),
        *sensing_acts(plan),
        *setting_acts(plan),
        *live_acts(plan),
        *cover_acts(plan),
        *label_acts(plan),
        *firmware_acts(plan),
        *clearance_acts(plan),
    )
    equip = equipped(plan)
    return Acts((*(equip(act) for act in every), *signing_acts(every), *visit_acts()))
