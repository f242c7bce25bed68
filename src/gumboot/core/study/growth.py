"""How far can this bank grow, what does it hold when it is cold, and may a given battery join it?"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from gumboot.core.card.inverter import InverterCard
from gumboot.core.card.model import AnyCard
from gumboot.core.card.storage import BatteryCard
from gumboot.core.figure import Figure, constant
from gumboot.core.plan.bank import BankPlan
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.links import dip_block
from gumboot.core.rulebook.books import book
from gumboot.core.rules import Breach
from gumboot.core.rules import joining as rules
from gumboot.core.workbook import Workbook

MOST_AGE = constant("t_age", "Difference in age at most", 12, "month", "cp.age")


@dataclass(frozen=True)
class Room:
    """One limit on growth: how many more batteries it lets in, and why."""

    limit: str
    more: int
    why: str
    bank: str = ""

    def figure(self, count: int) -> Figure:
        """How many more this limit lets in, with its working."""
        key, name = f"room.{self.bank}{self.limit}", f"Batteries that the {self.limit} allows"
        most = Figure(f"{key}.most", "n_most", name, float(self.more + count), "", source="arith", limits=self.why)
        have = Figure("bank.units", "n", "Batteries of the bank", float(count), "", source="input:bank.units")
        return Figure(key, "n_more", f"More batteries, {self.limit}", most - have, "", source="arith")


@dataclass(frozen=True)
class Addition:
    """A battery that somebody would add: its card and what is known of it; None where it is not known."""

    card: AnyCard
    age_months: float | None = None
    firmware: str | None = None
    volts: float | None = None
    bank_age_months: float | None = None
    bank_volts: float | None = None
    bank: str = ""


@dataclass(frozen=True)
class Refusal:
    """Why an addition may not join, or what must be known first; ``known`` is False for the latter. ``code`` is the rule that says so."""

    text: str
    act: str
    known: bool = True
    code: str = ""


def _window_room(battery: BatteryCard, inverter: InverterCard, count: int) -> list[Room]:
    """Units in series: what the maker and the inverter's window let in."""
    if not battery.in_series:
        return []
    fits = int(inverter.battery.v_max / battery.v_max + 1e-9)
    stack = f"{battery.series_max} units may stand in series; {count} do. A second string is a second bank."
    volts = f"{fits} full units reach {fits * battery.v_max:g} V of the inverter's {inverter.battery.v_max:g} V."
    return [Room("series", battery.series_max - count, stack), Room("inverter's window", fits - count, volts)]


def room_to_grow(plan: Plan, bank_id: str = "") -> tuple[Room, ...]:
    """Every limit on more batteries in a bank, of several the first, the tightest first."""
    bank = _bank(plan, bank_id)
    seat, units = plan.house.bank(bank.id), plan.house.on_bank(bank.id)
    battery, count, stacks = seat.card, len(seat.thing.units), seat.thing.strings
    rows = [Room("maker", battery.units_max - count, f"The maker allows {battery.units_max} in one bank; {count} are planned.")]
    rows += _window_room(battery, units[0].card, len(seat.thing.stacks()[0]))
    if battery.dip_switches:
        most = dip_block(battery).most
        rows.append(Room("addresses", most - count, f"{battery.dip_switches} switches give {most} addresses."))
    if (bars := plan.house.busbar_of(bank.id)) is not None:
        box = bars.card
        studs = sum(len(p.terminals) for p in box.ports if p.id == "BATTERIES") // 2 * max(1, count // stacks if battery.in_series else 1)
        rows.append(Room("busbar box", studs - count, f"{box.title} has studs for {studs} batteries."))
    mark = "" if bank.is_first else f"{bank.id}."
    return tuple(sorted((replace(row, bank=mark) for row in rows), key=lambda r: r.more))


def _bank(plan: Plan, bank_id: str) -> BankPlan:
    return next((bank for bank in plan.banks if bank.id == bank_id), plan.banks[0])


def helps_power(plan: Plan, bank_id: str = "") -> str:
    """Whether one more battery raises the power, or only the hours: what the weakest link of a bank says."""
    weakest, supply = _bank(plan, bank_id).weakest, _bank(plan, bank_id).supply
    if weakest.is_battery:
        return "One more battery in parallel raises the current too: the batteries are the weakest link."
    return f"One more battery adds hours, not power: {weakest.title} at {weakest.amps.value:.0f} A is the weakest link, {supply.design_a.value:.0f} A are drawn."


def _apart(w: Workbook, a: Addition) -> Figure | None:
    """How far the newcomer's voltage stands from the bank's, None while one of them is not measured."""
    if a.volts is None or a.bank_volts is None:
        return None
    newcomer, bank = w.given("volts", "V_a", "The newcomer", a.volts, "V"), w.given("bank_volts", "V_b", "The bank", a.bank_volts, "V")
    return w.work("apart", "dV", "Apart", abs(newcomer - bank), "V", source="arith")


def _asked(own: BatteryCard, other: BatteryCard, plan: Plan, a: Addition) -> Iterator[tuple[str, Breach | None]]:
    """Every rule of joining with what it says, in the order in which a person would look."""
    types = rules.Types(own=own, other=other)
    for rule in rules.TYPES:
        yield rule.code, rule(types)
    yield rules.ages_agree.code, rules.ages_agree(rules.Ages(own=a.bank_age_months, other=a.age_months, most_apart=MOST_AGE))
    yield rules.versions_agree.code, rules.versions_agree(rules.Versions(own=own.firmware, other=a.firmware))
    w = Workbook(book(plan.job.rule_book))
    meeting = rules.Meeting(apart=_apart(w, a), most=w.read(own, "join_window_v"))
    yield rules.voltages_agree.code, rules.voltages_agree(meeting)
    tight = room_to_grow(plan, a.bank)[0]
    yield rules.room.code, rules.room(rules.Room(more=tight.more, why=tight.why))


def refusals(plan: Plan, addition: Addition) -> tuple[Refusal, ...]:
    """Every reason why a battery may not join the bank, as the rules say. What is not known blocks: it is asked for, never assumed."""
    own, other = plan.house.bank(_bank(plan, addition.bank).id).card, addition.card
    if not isinstance(other, BatteryCard):
        return (Refusal(f"{other.title} is no battery.", "Choose a battery."),)
    found = [(code, breach) for code, breach in _asked(own, other, plan, addition) if breach is not None]
    return tuple(Refusal(breach.text, breach.act, breach.level != "note", code) for code, breach in found)
