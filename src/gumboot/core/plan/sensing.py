"""Where does each CT sit, and what must it read with a known load?"""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.figure import Figure
from gumboot.core.job.model import CtPlace
from gumboot.core.ledger import Ledger
from gumboot.core.sim.ct_readings import Channel, Core, expected_w


@dataclass(frozen=True)
class CtPlan:
    """One CT: where it is planned, where the channel wants it, and what it should read."""

    place: CtPlace
    wanted_leg: str
    wanted_arrow: str
    expected: Figure


@dataclass(frozen=True)
class SensingPlan:
    """All CTs."""

    cts: tuple[CtPlan, ...]


def plan_sensing(ledger: Ledger) -> SensingPlan:
    """Work out the Sensing station."""
    inverter, job = ledger.card("inverter"), ledger.job
    if not inverter.ct_channels or job.site.supply == "none" or not ledger.has("ct"):
        if inverter.ct_channels and job.site.supply != "none":
            ledger.gap("equipment.ct", "sensing", "Which current transformers are fitted?", "What the inverter knows of the grid")
        return SensingPlan(())
    ct_card = ledger.card("ct")
    placed = {c.channel: c for c in job.sensing.cts}
    plans = []
    rated = ledger.read(ct_card, "rated_a", "I_ct", "CT rating", "A")
    if job.site.service_main_a is not None:
        main = ledger.decided("site.service_main_a", "I_main", "Main device of the supply", "A")
        ledger.verdict(
            "CT-RATED",
            rated.value >= main.value,
            "CTs",
            f"The CTs are rated {rated.value:g} A; the supply is {main.value:g} A.",
            "Choose larger CTs.",
            found=rated,
            limit=main,
            field="equipment.ct",
        )
    for channel in inverter.ct_channels:
        place = placed.get(channel.id)
        if place is None:
            ledger.gap("sensing.cts", "sensing", f"Where does {channel.id} sit?", "What the inverter knows of the grid")
            continue
        field = f"sensing.cts.{channel.id}"
        ledger.verdict(
            "CT-LEG",
            place.leg == channel.leg,
            channel.id,
            f"{channel.id} sits on {place.leg}; its channel measures {channel.leg}.",
            f"Move it to {channel.leg}.",
            field=f"{field}.leg",
        )
        ledger.verdict(
            "CT-ARROW",
            place.arrow == inverter.ct_arrow,
            channel.id,
            f"The arrow of {channel.id} points {place.arrow}; this maker wants it {inverter.ct_arrow}.",
            "Turn the core round.",
            field=f"{field}.arrow",
        )
        ledger.verdict(
            "CT-SIDE",
            place.side == "grid side of every load",
            channel.id,
            f"{channel.id} sits on the {place.side}: what lies on its grid side is not seen.",
            "Put it on the service conductors, before every load and source.",
            field=f"{field}.side",
        )
        load = ledger.decided(f"sensing.test_{channel.leg.lower()}_w", "P", f"Known load on {channel.leg}", "W")
        seen, own = Channel(channel.id, channel.leg, channel.reference), channel.reference in ("own leg", channel.leg)
        expected = ledger.work(
            f"sensing.{channel.id}.expected",
            "P_ct",
            f"{channel.id} should read",
            load.value
            if own
            else expected_w(seen, Core((channel.leg,)), {channel.leg: load.value}, job.sensing.test_power_factor, inverter.output),
            "W",
            "cp.ctproof",
            "P" if own else "",
            (load,),
            limits="Import is positive. PV off, battery idle; what the known load changes, so that other loads drop out."
            + ("" if own else f" This channel multiplies by {'no voltage' if channel.reference == 'none' else channel.reference}."),
        )
        plans.append(CtPlan(place, channel.leg, inverter.ct_arrow, expected))
    return SensingPlan(tuple(plans))
