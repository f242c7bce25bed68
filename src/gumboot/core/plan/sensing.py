"""Where does each CT sit, and what must it read with a known load?"""

from __future__ import annotations

from gumboot.core.card.inverter import CtChannel
from gumboot.core.expression import Expression, named
from gumboot.core.figure import Figure
from gumboot.core.job.model import CtPlace
from gumboot.core.ledger import Ledger
from gumboot.core.record import Record
from gumboot.core.rules import sensing as rules
from gumboot.core.sim.ct_readings import Channel, Core, expected_w


class CtPlan(Record):
    """One CT: where it is planned, where the channel wants it, and what it should read."""

    place: CtPlace
    wanted_leg: str
    wanted_arrow: str
    expected: Figure


class SensingPlan(Record):
    """All CTs."""

    cts: tuple[CtPlan, ...]


def _expected(ledger: Ledger, channel: CtChannel) -> Figure:
    """What a channel should read with the known load on its leg, multiplied by the voltage that it refers to."""
    load = ledger.decided(f"sensing.test_{channel.leg.lower()}_w")
    watts: Expression = load
    own = channel.reference in ("own leg", channel.leg)
    if not own:
        seen, flow = Channel(channel.id, channel.leg, channel.reference), ledger.house.output
        reads = expected_w(seen, Core((channel.leg,)), {channel.leg: load.value}, ledger.job.sensing.test_power_factor, flow)
        watts = named(f"{{0}} seen against the voltage of {channel.reference}", reads, load)
    return ledger.work(
        f"sensing.{channel.id}.expected",
        "P_ct",
        f"{channel.id} should read",
        watts,
        "W",
        source="cp.ctproof",
        limits="Import is positive. PV off, battery idle; what the known load changes, so that other loads drop out."
        + ("" if own else f" This channel multiplies by {'no voltage' if channel.reference == 'none' else channel.reference}."),
    )


def _ct(ledger: Ledger, channel: CtChannel, place: CtPlace) -> CtPlan:
    arrow = ledger.seats.inverter.ct_arrow
    facts = rules.Sits(channel=channel.id, leg=place.leg, wanted_leg=channel.leg, arrow=place.arrow, wanted_arrow=arrow, side=place.side)
    for rule in rules.SEATED:
        ledger.ask(rule, facts, f"sensing.meters.{ledger.seats.meter.id}")
    return CtPlan(place=place, wanted_leg=channel.leg, wanted_arrow=arrow, expected=_expected(ledger, channel))


def plan_sensing(ledger: Ledger) -> SensingPlan:
    """Work out the Sensing station."""
    inverter, job, card = ledger.seats.inverter, ledger.job, ledger.seats.ct
    if not inverter.ct_channels or job.site.supply == "none":
        return SensingPlan(cts=())
    at = f"sensing.meters.{ledger.seats.meter.id}"
    if card is None:
        ledger.gap(f"{at}.card", "sensing", "Which current transformers are fitted?", "What the inverter knows of the grid")
        return SensingPlan(cts=())
    rated = ledger.read(card, "rated_a")
    if job.site.service_main_a is not None:
        ledger.ask(rules.large_enough, rules.Rated(rated=rated, main=ledger.decided("site.service_main_a")), at)
    placed = {c.channel: c for c in ledger.seats.meter.cts}
    plans = []
    for channel in inverter.ct_channels:
        place = placed.get(channel.id)
        if place is None:
            ledger.gap(f"{at}.cts", "sensing", f"Where does {channel.id} sit?", "What the inverter knows of the grid")
            continue
        plans.append(_ct(ledger, channel, place))
    return SensingPlan(cts=tuple(plans))
