"""Where does each CT sit, and what must it read with a known load?"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

from gumboot.core.card.boxes import CtCard
from gumboot.core.card.inverter import CtChannel
from gumboot.core.errors import NotInTable, OutOfRange
from gumboot.core.expression import Expression, named
from gumboot.core.figure import Figure
from gumboot.core.installation import House
from gumboot.core.job.model import CtPlace
from gumboot.core.ledger import Ledger
from gumboot.core.plan.group import of_all
from gumboot.core.rulebook.books.wiring import Core as Wire
from gumboot.core.rules import sensing as rules
from gumboot.core.seats import InverterSeat
from gumboot.core.sim.ct_readings import ANGLES, Channel, Core, expected_w
from gumboot.core.values import Values


class CtPlan(Values):
    """One CT: where it is planned, where the channel wants it, and what it should read."""

    place: CtPlace
    wanted_leg: str
    wanted_arrow: str
    expected: Figure


class CtSet(Values):
    """The CTs that one inverter reads. ``meter`` is their id in the job, ``mark`` what ids of their test and its step end in.

    ``legs`` are the lines on which the test switches loads on, ``flow`` says how the voltages of the service lie.
    """

    meter: str
    inverter: str
    mark: str
    of: str
    legs: tuple[str, ...]
    flow: str
    channels: tuple[Channel, ...]
    cts: tuple[CtPlan, ...]

    @property
    def test(self) -> str:
        """The meter test that proves it, as records name it."""
        return f"ct-test{self.mark}"

    @property
    def placed(self) -> tuple[Channel, ...]:
        """The channels that have a CT."""
        have = {ct.place.channel for ct in self.cts}
        return tuple(channel for channel in self.channels if channel.id in have)


class SensingPlan(Values):
    """All sets of CTs, the first island's first. ``blind`` are the leaders of islands beside the grid that have inputs and no set."""

    sets: tuple[CtSet, ...]
    blind: tuple[str, ...] = ()

    @property
    def cts(self) -> tuple[CtPlan, ...]:
        """All CTs."""
        return tuple([ct for each in self.sets for ct in each.cts])


def is_metered(ledger: Ledger) -> bool:
    """Whether the inverters of an island look at the grid through CTs."""
    return bool(ledger.house.joins_grid and ledger.seats.inverter.ct_channels and ledger.seats.ct is not None)


def _flow(house: House, channels: tuple[CtChannel, ...]) -> str:
    """How the voltages of the service conductors lie: as the supply is told, or what the island makes where a channel lies outside that."""
    kinds = (house.job.site.supply, house.output, "three phase")
    return next(kind for kind in kinds if kind in ANGLES and all(c.leg in ANGLES[kind] for c in channels))


def _expected(ledger: Ledger, channel: CtChannel, flow: str) -> Figure:
    """What a channel should read with the known load on its leg, multiplied by the voltage that it refers to."""
    load = ledger.decided(f"sensing.test_{channel.leg.lower()}_w")
    watts: Expression = load
    own = channel.reference in ("own leg", channel.leg)
    if not own:
        seen = Channel(channel.id, channel.leg, channel.reference)
        reads = expected_w(seen, Core((channel.leg,)), {channel.leg: load.value}, ledger.job.sensing.test_power_factor, flow)
        watts = named(f"{{0}} seen against the voltage of {channel.reference}", reads, load)
    return ledger.work(
        ledger.key(f"sensing.{channel.id}.expected"),
        "P_ct",
        ledger.titled(f"{channel.id} should read"),
        watts,
        "W",
        source="cp.ctproof",
        limits="Import is positive. PV off, battery idle; what the known load changes, so that other loads drop out."
        + ("" if own else f" This channel multiplies by {'no voltage' if channel.reference == 'none' else channel.reference}."),
    )


def _ct(ledger: Ledger, channel: CtChannel, place: CtPlace, flow: str, at: str) -> CtPlan:
    arrow, apart = ledger.seats.inverter.ct_arrow, ledger.house.is_apart
    facts = rules.Sits(
        channel=f"{channel.id} of {ledger.house.lead.name}" if apart else channel.id,
        field=f".cts.{channel.id}",
        leg=place.leg,
        wanted_leg=channel.leg,
        arrow=place.arrow,
        wanted_arrow=arrow,
        side=place.side,
    )
    for rule in rules.SEATED:
        ledger.ask(rule, facts, at)
    return CtPlan(place=place, wanted_leg=channel.leg, wanted_arrow=arrow, expected=_expected(ledger, channel, flow))


def _gap(ledger: Ledger, path: str, question: str) -> None:
    words = f"{question[:-1]}, {ledger.house.lead.name}?" if ledger.house.is_apart else question
    ledger.gap(path, "sensing", words, "What the inverter knows of the grid")


def _check_opening(ledger: Ledger, card: CtCard, at: str) -> None:
    """Whether the core closes round the supply's conductor, where that was read."""
    size = ledger.job.site.service_size
    if size is None:
        return
    try:
        area = ledger.book.raceways.area_mm2(Wire(), size)
    except (NotInTable, OutOfRange):
        # A size of the other book, or beyond the table: it is refused where it decides a conductor.
        return
    name, thick = "Outside of the supply's conductor", 2 * math.sqrt(area / math.pi)
    outside = ledger.work("sensing.conductor_mm", "d", name, thick, "mm", source=ledger.book.raceways.wire_source, label=f"{thick:.1f} mm")
    facts = rules.Around(conductor=outside, opening=ledger.read(card, "opening_mm"), size=size)
    ledger.ask(rules.goes_round, facts, at)


def _set(ledger: Ledger) -> CtSet | None:
    """The CTs of one island, None where it has none."""
    job, card, meter, lead = ledger.job, ledger.seats.ct, ledger.seats.meter, ledger.house.lead
    if not lead.card.ct_channels or not ledger.house.joins_grid or meter is None:
        return None
    at = f"sensing.meters.{meter.id}"
    if card is None:
        _gap(ledger, f"{at}.card", "Which current transformers are fitted?")
        return None
    rated = ledger.read(card, "rated_a")
    _check_opening(ledger, card, at)
    if job.site.service_main_a is not None:
        ledger.ask(rules.large_enough, rules.Rated(rated=rated, main=ledger.decided("site.service_main_a")), at)
    placed, channels = {c.channel: c for c in meter.cts}, ledger.house.channels_of(lead)
    flow = _flow(ledger.house, channels)
    for channel in channels:
        if channel.id not in placed:
            _gap(ledger, f"{at}.cts", f"Where does {channel.id} sit?")
    return CtSet(
        meter=meter.id,
        inverter=lead.id,
        mark=ledger.house.mark,
        of=f" of {lead.name}" if ledger.house.is_apart else "",
        legs=tuple([leg for leg in ANGLES["three phase"] if leg in {*ledger.house.legs, *(c.leg for c in channels)}]),
        flow=flow,
        channels=tuple([Channel(c.id, c.leg, c.reference) for c in channels]),
        cts=tuple([_ct(ledger, c, placed[c.id], flow, at) for c in channels if c.id in placed]),
    )


def _seen(each: CtSet) -> set[str]:
    """The conductors of the service that a set is meant to see."""
    return {channel.leg for channel in each.channels}


def _several(ledger: Ledger, sets: tuple[CtSet, ...]) -> tuple[str, ...]:
    """Whether parts of a house that know nothing of each other look at the same conductors, and whether one sees none."""
    named = {i.id: i.name for i in ledger.seats.inverters}
    for one, other in itertools.combinations(sets, 2):
        both = sorted(_seen(one) & _seen(other))
        ledger.ask(rules.one_to_follow, rules.Sets(one=named[one.inverter], other=named[other.inverter], both=both))
    blind = []
    for part in (p for p in ledger.islands if p.house.joins_grid and p.seats.inverter.ct_channels):
        if not ledger.ask(rules.knows_of_the_grid, rules.Blind(inverter=part.house.lead.name, told=part.seats.meter is not None)):
            blind.append(part.house.lead.id)
    return tuple(blind)


def plan_sensing(ledger: Ledger) -> SensingPlan:
    """Work out the Sensing station."""
    sets = tuple([found for part in ledger.islands if (found := _set(part)) is not None])
    return SensingPlan(sets=sets, blind=_several(ledger, sets) if len(ledger.islands) > 1 else ())


def permit_of(ledger: Ledger, permit: Figure) -> Figure:
    """What an island is told to export at most: what the network permits, or its share where each island's CTs see other conductors.

    Controllers that see all the conductors of each other hold the whole permit; others would each let it out once.
    """
    whole = ledger.within(ledger.house.whole)
    giving = [part for part in whole.islands if is_metered(part) and part.house.giving]
    views = [frozenset(c.leg for c in part.house.channels_of(part.house.lead)) for part in giving]
    if len(set(views)) < 2 or not is_metered(ledger) or not ledger.house.giving:
        return permit
    own = _output(ledger, ledger.house.giving)
    every = _output(whole, [i for part in giving for i in part.house.giving])
    return ledger.work(
        ledger.key("sensing.permit_share"), "P_exp_own", ledger.titled("Share of the permitted export"), permit * own / every, "W",
        source="arith", limits="Shared by output: each set of CTs sees its own conductors alone.",
    )  # fmt: skip


def _output(ledger: Ledger, units: Sequence[InverterSeat]) -> Figure:
    name = ledger.titled("Output of the inverters that feed the grid")
    return of_all(ledger, "output_w", ledger.key("sensing.giving_w"), name, units)
