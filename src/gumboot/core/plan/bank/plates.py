"""What does a lead-acid bank give at the current that it is used with, and how does its charge follow the temperature?"""

from __future__ import annotations

from gumboot.core.expression import least
from gumboot.core.figure import Figure, constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank.one import OneBank, banks_of
from gumboot.core.plan.group import output_w
from gumboot.core.rules import bank as rules
from gumboot.core.rules import connection
from gumboot.core.sim.autonomy import hourly_profile_w

REFERENCE_C = constant("T_0", "Temperature that charge voltages are given for", 25, "°C", "cp.leadacid")
BY_HOUR = "Running power times duty in the fullest hour of the day, and the inverters' own draw: every other hour asks less."


def check_plates(bank: OneBank) -> None:
    """Whether the card says what plates, temperature and current change, and whether the inverter feels the temperature."""
    if not bank.card.is_lead_acid:
        return
    stated = bank.ledger.stated(bank.card, "lead_acid.shift_mv_k") if bank.card.lead_acid else None
    facts = connection.Silent(
        stated=stated,
        where=bank.of("bank"),
        title=bank.card.title,
        path="lead_acid",
        what="cells, rated hours, Peukert's exponent and the change of charge voltage with temperature",
        waits="what it gives at a current, and its charge voltage today,",
        field=f"banks.{bank.id}.card",
    )
    bank.ask(connection.card_states, facts)
    for seat in bank.inverters:
        probe = rules.Probe(
            where=seat.id, title=seat.card.title, fitted=seat.card.battery.temperature_probe, field=f"things.{seat.id}.card"
        )
        bank.ask(rules.charge_follows, probe)


def _island_of(bank: OneBank) -> Ledger:
    return next(part for part in bank.ledger.islands if any(b.id == bank.id for b in banks_of(part)))


def _hour(bank: OneBank) -> Figure:
    """Demand of the fullest hour of the day that falls on the bank, by the output of its inverters."""
    part = _island_of(bank)
    profile = hourly_profile_w(part.house.backed, sum(i.card.idle_w for i in part.seats.inverters))
    name = "Demand of the fullest hour, backed-up side"
    whole = bank.work("bank.hour_w", "P_h", name, max(profile), "W", source="physics", limits=BY_HOUR)
    if len(banks_of(part)) == 1:
        return whole
    own = bank.of_inverters("output_w", "group.bank_output_w", "Continuous output of the inverters of a bank")
    return bank.work("bank.hour_share_w", "P_h1", "This bank's part of it", whole * own / output_w(part), "W", source="physics")


def share_at_current(bank: OneBank) -> Figure | None:
    """Share of its rated capacity that a lead-acid bank gives at the demand of the fullest hour; None for another."""
    if bank.card.lead_acid is None or not bank.card.is_lead_acid:
        return None
    ledger, parallel, card = bank.ledger, bank.counts()[2], bank.card
    volts, eta, watts = bank.volts("nominal_v"), ledger.read(bank.inverter, "battery.efficiency"), _hour(bank)
    amps = bank.work("bank.hour_a", "I_h", "Battery current in the fullest hour", watts / volts / eta, "A", source="physics")
    charge = parallel * ledger.read(card, "energy_wh") / ledger.read(card, "nominal_v")
    rated = bank.work("bank.rated_a", "I_r", "Current that its capacity is rated at", charge / ledger.read(card, "lead_acid.rated_hours"),
                      "A", source="physics")  # fmt: skip
    share = least(1.0, (rated / amps) ** (ledger.read(card, "lead_acid.peukert") - 1))
    name, holds = "Share of its capacity that it gives at that current", "Peukert's law; a weaker current is not counted as a gain."
    return bank.work("bank.peukert", "k_I", name, share, "", source="cp.peukert", limits=holds)


def shift_v_k(bank: OneBank) -> Figure:
    """Change of the bank's charge voltage in V for each kelvin."""
    ledger = bank.ledger
    cells = bank.counts()[1] * ledger.read(bank.card, "lead_acid.cells")
    value = cells * ledger.read(bank.card, "lead_acid.shift_mv_k") / 1000
    return bank.work("bank.shift", "k_b", "Change of the bank's charge voltage", value, "V/K", source="cp.leadacid")


def at_air(bank: OneBank, key: str, title: str, volts: Figure, path: str) -> Figure:
    """A charge voltage in V with cells as warm as the air of a field."""
    value = volts + shift_v_k(bank) * (bank.ledger.decided(path) - REFERENCE_C)
    return bank.work(key, volts.symbol, title, value, "V", source="cp.leadacid", limits="Cells as warm as the air.")
