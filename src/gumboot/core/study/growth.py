"""How far can this bank grow, what does it hold when it is cold, and may a given battery join it?"""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.card.model import AnyCard, BatteryCard, BoardCard, InverterCard
from gumboot.core.figure import Figure
from gumboot.core.plan.derive import Plan

# Common practice: a battery that is more than a year younger works harder than its neighbours until it is as old.
MOST_AGE_MONTHS = 12


@dataclass(frozen=True)
class Room:
    """One limit on growth: how many more batteries it lets in, and why."""

    limit: str
    more: int
    why: str

    def figure(self, count: int) -> Figure:
        """How many more this limit lets in, with its working."""
        given = (
            Figure(
                f"room.{self.limit}.most",
                "n_most",
                f"Batteries that the {self.limit} allows",
                float(self.more + count),
                "",
                "arith",
                limits=self.why,
            ),
            Figure("bank.units", "n", "Batteries of the bank", float(count), "", "input:bank.units"),
        )
        return Figure(f"room.{self.limit}", "n_more", f"More batteries, {self.limit}", float(self.more), "", "arith", "n_most - n", given)


@dataclass(frozen=True)
class Addition:
    """A battery that somebody would add: its card and what is known of it; None where it is not known."""

    card: AnyCard
    age_months: float | None = None
    firmware: str | None = None
    volts: float | None = None
    bank_age_months: float | None = None
    bank_volts: float | None = None


@dataclass(frozen=True)
class Refusal:
    """Why an addition may not join, or what must be known first; ``known`` is False for the latter."""

    text: str
    act: str
    known: bool = True


def _cards(plan: Plan) -> tuple[BatteryCard, InverterCard]:
    battery, inverter = plan.shelf[plan.job.equipment.battery], plan.shelf[plan.job.equipment.inverter]
    if not isinstance(battery, BatteryCard) or not isinstance(inverter, InverterCard):
        raise TypeError("a plan has a battery and an inverter")
    return battery, inverter


def room_to_grow(plan: Plan) -> tuple[Room, ...]:
    """Every limit on more batteries, the tightest first."""
    battery, inverter = _cards(plan)
    count = len(plan.job.bank.units)
    rows = [Room("maker", battery.units_max - count, f"The maker allows {battery.units_max} in one bank; {count} are planned.")]
    if battery.in_series:
        rows.append(
            Room(
                "series",
                battery.series_max - count,
                f"{battery.series_max} units may stand in series; {count} do. A second string is a second bank.",
            )
        )
        fits = int(inverter.battery.v_max / battery.v_max + 1e-9)
        rows.append(
            Room(
                "inverter's window",
                fits - count,
                f"{fits} full units reach {fits * battery.v_max:g} V of the inverter's {inverter.battery.v_max:g} V.",
            )
        )
    if battery.dip_switches:
        most = 2**battery.dip_switches - 1
        rows.append(Room("addresses", most - count, f"{battery.dip_switches} switches give {most} addresses."))
    box = plan.shelf[plan.job.equipment.busbar_box] if plan.job.equipment.busbar_box else None
    if isinstance(box, BoardCard):
        ports = [p for p in box.ports if p.id == "BATTERIES"]
        taken = sum(len(p.terminals) for p in ports) // 2
        rows.append(Room("busbar box", taken - count, f"{box.title} has studs for {taken} batteries."))
    return tuple(sorted(rows, key=lambda r: r.more))


def helps_power(plan: Plan) -> str:
    """Whether one more battery raises the power, or only the hours: what the weakest link says."""
    weakest, supply = plan.bank.weakest, plan.bank.supply
    if "BMS" in weakest.title or weakest.title == "battery":
        return "One more battery in parallel raises the current too: the batteries are the weakest link."
    return f"One more battery adds hours, not power: {weakest.title} at {weakest.amps.value:.0f} A is the weakest link, {supply.design_a.value:.0f} A are drawn."


def refusals(plan: Plan, addition: Addition) -> tuple[Refusal, ...]:
    """Every reason why a battery may not join the bank. What is not known blocks: it is asked for, never assumed."""
    own, _ = _cards(plan)
    other, found = addition.card, []
    if not isinstance(other, BatteryCard):
        return (Refusal(f"{other.title} is no battery.", "Choose a battery."),)
    if other.id != own.id:
        if other.chemistry != own.chemistry:
            found.append(
                Refusal(
                    f"It is {other.chemistry}; the bank is {own.chemistry}. Their voltages rest and charge apart.",
                    "Never join two chemistries.",
                )
            )
        if other.nominal_v != own.nominal_v:
            found.append(Refusal(f"It is {other.nominal_v:g} V; the bank's units are {own.nominal_v:g} V.", "Choose the same voltage."))
        if other.energy_wh != own.energy_wh or other.cell_mohm != own.cell_mohm:
            found.append(
                Refusal(
                    f"It holds {other.energy_wh:g} Wh at {other.cell_mohm:g} mΩ, the others {own.energy_wh:g} Wh at {own.cell_mohm:g} mΩ: they share current unequally.",
                    "Choose the same type.",
                )
            )
        mine, theirs = {(p.name, p.bus) for p in own.protocols}, {(p.name, p.bus) for p in other.protocols}
        if mine and not mine & theirs:
            found.append(Refusal("It speaks no protocol of this bank: its BMS would not be heard.", "Choose the same family."))
        found.append(Refusal(f"{other.title} is another type than {own.title}.", "One bank is of one type, maker and model."))
    found += _state_refusals(own, addition)
    tight = room_to_grow(plan)[0]
    if tight.more < 1:
        found.append(Refusal(f"There is no room: {tight.why}", "Plan a second bank or a larger box."))
    return tuple(found)


def _state_refusals(own: BatteryCard, a: Addition) -> list[Refusal]:
    found = []
    if a.age_months is None or a.bank_age_months is None:
        found.append(Refusal("The ages are not given.", "Read the date codes of both.", known=False))
    elif abs(a.age_months - a.bank_age_months) > MOST_AGE_MONTHS:
        found.append(
            Refusal(
                f"It is {a.age_months:g} months old, the bank {a.bank_age_months:g}: the younger one works harder until it is as old.",
                "Add within a year of the first, or ask the maker.",
            )
        )
    if own.firmware:
        if a.firmware is None:
            found.append(Refusal("Its firmware is not given.", "Read it in the maker's tool.", known=False))
        elif a.firmware != own.firmware:
            found.append(Refusal(f"Its firmware is {a.firmware}; the bank's is {own.firmware}.", "Bring both to one version first."))
    if a.volts is None or a.bank_volts is None:
        found.append(Refusal("The voltages are not measured.", "Measure both before they meet.", known=False))
    elif abs(a.volts - a.bank_volts) > own.join_window_v:
        found.append(
            Refusal(
                f"They stand {abs(a.volts - a.bank_volts):.2f} V apart; {own.join_window_v:g} V is the most at which they may be joined.",
                "Charge or discharge it alone until they agree.",
            )
        )
    return found
