"""The Loads station."""

from __future__ import annotations

from collections.abc import Mapping

from gumboot.core.card import InverterCard
from gumboot.core.card.inverter import AcLeg
from gumboot.core.expression import Expression
from gumboot.core.figure import BY_VALUE, Figure
from gumboot.core.job.model import Load
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank.supply import Supplies
from gumboot.core.plan.group import leg_w, output_w
from gumboot.core.plan.loads.hours import autonomy
from gumboot.core.plan.loads.placed import as_placed
from gumboot.core.plan.loads.powers import running, starting
from gumboot.core.plan.loads.school import check_school, check_single_line
from gumboot.core.quantity import quantity
from gumboot.core.rules import loads as rules
from gumboot.core.values import Values


class Timed(Values):
    """Power that may be held for a time: of one leg and of all."""

    seconds: float
    leg: Figure
    total: Figure


class OfBanks(Values):
    """What the banks of an island give on its AC side: energy in Wh, power that lasts and power for a start in W."""

    energy: Figure
    power: Figure
    peak: Figure


class LoadsPlan(Values):
    """Per-leg running and starting power of the backed-up side, and hours carried by starting hour."""

    running: dict[str, Figure]
    starting: dict[str, Figure]
    running_total: Figure
    house_total: Figure
    starting_total: Figure
    leg_limit: Figure
    leg_surge_limit: Figure
    total_limit: Figure
    surge_limit: Figure
    energy: Figure
    bank_power: Figure
    bank_peak: Figure
    profile_w: tuple[float, ...]
    carried: tuple[Figure, ...]
    timed: tuple[Timed, ...] = ()

    @property
    def start_limit(self) -> Figure:
        """What holds a start over all: the inverters for their shortest time, or the batteries where they give less."""
        return min(self.surge_limit, self.bank_peak, key=BY_VALUE)

    @property
    def shortest(self) -> Figure:
        """Hours carried by the worst starting hour."""
        return min(self.carried, key=BY_VALUE)


def _timed(ledger: Ledger) -> tuple[Timed, ...]:
    """Every timed overload of the card, the shortest first; of several inverters together."""
    inverter, units = ledger.seats.inverter, ledger.seats.inverters
    legs = min(len(ledger.house.units_on(leg)) for leg in ledger.house.legs)
    source, rows = f"card:{inverter.id}:overloads", []
    for i, overload in enumerate(sorted(inverter.overloads, key=lambda o: o.seconds)):
        held = f"for {overload.seconds:g} s"
        leg_key, all_key = (
            ("loads.leg_surge_limit", "loads.surge_limit")
            if i == 0
            else (f"loads.timed.{overload.seconds:g}.leg", f"loads.timed.{overload.seconds:g}.total")
        )
        leg, whole = _held(ledger, inverter, i, legs), _held(ledger, inverter, i, len(units), "watts")
        leg_f = ledger.work(
            ledger.key(leg_key), "P_leg_s", ledger.titled(f"Power of one leg {held}"), leg, "W", source=source if legs == 1 else "arith"
        )
        whole_f = ledger.work(
            ledger.key(all_key), "P_inv_s", ledger.titled(f"Power of all {held}"), whole, "W", source=source if len(units) == 1 else "arith"
        )
        rows.append(Timed(seconds=overload.seconds, leg=leg_f, total=whole_f))
    return tuple(rows)


def _held(ledger: Ledger, card: InverterCard, nth: int, units: int, field: str = "leg_watts") -> Expression | float:
    """What so many inverters hold for a time: one's rating as it stands, or as many times that."""
    overload = sorted(card.overloads, key=lambda o: o.seconds)[nth]
    watts = float(getattr(overload, field))
    if units == 1:
        return watts
    name = f"{quantity(type(overload), field).name}, {overload.seconds:g} s"
    symbol = "P_leg_1" if field == "leg_watts" else "P_1"
    return units * ledger.from_card(card.id, f"overloads.{overload.seconds:g}.{field}", symbol, name, watts, unit="W")


def _legs(
    ledger: Ledger, backed: list[Load], shortest: Timed, limits: Mapping[AcLeg, Figure]
) -> tuple[dict[str, Figure], dict[str, Figure]]:
    """Each leg running and starting, judged."""
    runs: dict[str, Figure] = {}
    starts: dict[str, Figure] = {}
    for leg, limit in limits.items():
        runs[leg] = running(ledger, f"loads.running.{leg}", f"Running on {leg}", backed, leg)
        starts[leg] = starting(ledger, f"loads.starting.{leg}", f"Starting on {leg}", backed, leg, runs=runs[leg])
        where = ledger.titled(leg)
        ledger.ask(rules.leg_running, rules.Carried(where=where, power=runs[leg], most=limit))
        facts = rules.Carried(where=where, power=starts[leg], most=shortest.leg, seconds=shortest.seconds)
        ledger.ask(rules.leg_starting, facts)
    return runs, starts


def _total(ledger: Ledger) -> Figure:
    return as_placed(ledger, output_w(ledger), "total")


def _check_all(ledger: Ledger, backed: list[Load], powers: tuple[Figure, Figure], shortest: Timed, bank: OfBanks) -> None:
    """The whole backed-up side, running and starting, and each load's leg."""
    runs, starts = powers
    side = ledger.titled("backed-up side")
    ledger.ask(rules.all_running, rules.Carried(where=side, power=runs, most=_total(ledger)))
    ledger.ask(rules.all_starting, rules.Carried(where=side, power=starts, most=shortest.total, seconds=shortest.seconds))
    where = ledger.titled("bank")
    ledger.ask(rules.bank_carries, rules.Carried(where=where, power=runs, most=bank.power))
    ledger.ask(rules.bank_starts, rules.Carried(where=where, power=starts, most=bank.peak, seconds=shortest.seconds))
    for load in backed:
        facts = rules.OnLeg(title=load.title, leg=load.leg, gives=ledger.house.legs, field=f"loads.{load.id}.leg")
        ledger.ask(rules.leg_exists, facts)


class IslandLoads(Values):
    """The backed-up side of each island, by its leader."""

    by_island: Mapping[str, LoadsPlan]

    @property
    def running(self) -> dict[str, dict[str, Figure]]:
        """Running power on each leg, by island."""
        return {island: plan.running for island, plan in self.by_island.items()}

    @property
    def running_total(self) -> dict[str, Figure]:
        """Running power, by island."""
        return {island: plan.running_total for island, plan in self.by_island.items()}

    @property
    def profile_w(self) -> dict[str, tuple[float, ...]]:
        """The day's profile in W, by island."""
        return {island: plan.profile_w for island, plan in self.by_island.items()}


def plan_loads(ledger: Ledger, supplies: Supplies) -> IslandLoads:
    """Work out the Loads station, each island by itself."""
    if not ledger.job.loads:
        waits = "Running and starting power, and how long the bank lasts"
        ledger.gap("loads", "loads", "Which circuits has the house, and which are backed up?", waits)
    check_school(ledger)
    house = running(ledger, "loads.running.house", "Running on the house side", [x for x in ledger.job.loads if x.side == "house"], None)
    found = {}
    for part in ledger.islands:
        leader = part.house.lead.id
        bank = OfBanks(energy=supplies.delivered[leader], power=supplies.power_w[leader], peak=supplies.peak_w[leader])
        found[leader] = _plan_one(part, house, bank)
    return IslandLoads(by_island=found)


def _plan_one(ledger: Ledger, house: Figure, bank: OfBanks) -> LoadsPlan:
    """One island."""
    backed = ledger.house.backed
    check_single_line(ledger)
    timed, limits = _timed(ledger), {leg: as_placed(ledger, leg_w(ledger, leg), leg) for leg in ledger.house.legs}
    runs, starts = _legs(ledger, backed, timed[0], limits)
    total = running(ledger, "loads.running.total", "Running, both legs", backed, None)
    start = starting(ledger, "loads.starting.total", "Starting, both legs", backed, None, runs=total)
    _check_all(ledger, backed, (total, start), timed[0], bank)
    profile, carried = autonomy(ledger, backed, bank.energy)
    return LoadsPlan(
        running=runs,
        starting=starts,
        running_total=total,
        house_total=house,
        starting_total=start,
        leg_limit=min(limits.values(), key=BY_VALUE),
        leg_surge_limit=timed[0].leg,
        total_limit=_total(ledger),
        surge_limit=timed[0].total,
        energy=bank.energy,
        bank_power=bank.power,
        bank_peak=bank.peak,
        profile_w=profile,
        carried=carried,
        timed=timed,
    )
