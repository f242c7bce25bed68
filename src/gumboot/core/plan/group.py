"""What several inverters are together: their power, their currents, and the share of each."""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.expression import Expression, root_three, total
from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.seats import InverterSeat


def summed(ledger: Ledger, key: str, symbol: str, name: str, parts: Sequence[Figure]) -> Figure:
    """Figures of several things added up; the figure itself where there is one."""
    if len(parts) == 1:
        return parts[0]
    first = parts[0]
    alike = all(part.key == first.key for part in parts)
    value: Expression = len(parts) * first if alike else total(parts, first)
    return ledger.work(key, symbol, name, value, first.unit, source="arith")


def summed_here(ledger: Ledger, key: str, symbol: str, name: str, parts: Sequence[Figure]) -> Figure:
    """As ``summed``, of the island that the ledger looks at."""
    return summed(ledger, ledger.key(key), symbol, ledger.titled(name), parts)


def of_all(ledger: Ledger, field: str, key: str, name: str, units: Sequence[InverterSeat] = ()) -> Figure:
    """A rating of some inverters, or of every one, added up."""
    parts = [ledger.read(i.card, field) for i in units or ledger.seats.inverters]
    return summed(ledger, key, f"{parts[0].symbol}_all", name, parts)


def output_w(ledger: Ledger) -> Figure:
    """Continuous output of all inverters, W."""
    return of_all(ledger, "output_w", ledger.key("group.output_w"), ledger.titled("Continuous output of all inverters"))


def leg_w(ledger: Ledger, leg: str) -> Figure:
    """Continuous power of all inverters that carry a leg, W."""
    parts = [ledger.read(i.card, "leg_w") for i in ledger.house.units_on(leg)]
    parts = parts or [ledger.read(ledger.seats.inverter, "leg_w")]
    return summed_here(ledger, f"group.leg_w.{leg}", "P_leg_all", f"Continuous power of all inverters on {leg}", parts)


def leg_output_a(ledger: Ledger) -> Figure:
    """Output current of all inverters on the leg that most of them feed, A."""
    on = [[ledger.read(i.card, "output_current_a") for i in ledger.house.units_on(leg)] for leg in ledger.house.legs]
    parts = max(on, key=lambda amps: sum(f.value for f in amps))
    return summed_here(ledger, "group.output_a", "I_out_all", "Output current of all inverters on one leg", parts)


def shared_by(ledger: Ledger, inverter: InverterSeat) -> int:
    """How many inverters carry the legs of this one with it."""
    return max((len(ledger.house.units_on(leg)) for leg in ledger.house.phases_of(inverter)), default=1)


def output_kind(ledger: Ledger) -> str:
    """What the inverters make together: one, two or three legs."""
    return ledger.house.output


def line_v(ledger: Ledger) -> Figure:
    """Voltage between the lines of what the inverters make together, V."""
    first = ledger.seats.inverter
    leg = ledger.read(first, "leg_v")
    kind = output_kind(ledger)
    if kind == first.output:
        return ledger.read(first, "output_v")
    if kind == "split phase":
        return ledger.work(
            ledger.key("group.line_v"), "V_ac", ledger.titled("Voltage between lines of the group"), 2 * leg, "V", source="physics"
        )
    return ledger.work(
        ledger.key("group.line_v"),
        "V_ac",
        ledger.titled("Voltage between lines of the group"),
        root_three(leg) * leg,
        "V",
        source="physics",
    )
