"""How an open-loop charge ends, and what a lead-acid bank wants besides: its voltages by temperature, and equalising."""

from __future__ import annotations

from typing import Literal

from gumboot.core.expression import least
from gumboot.core.figure import Figure
from gumboot.core.plan.bank import OneBank
from gumboot.core.plan.bank.plates import at_air, shift_v_k
from gumboot.core.plan.bank.supply import BankSupply
from gumboot.core.plan.settings.line import Setting
from gumboot.core.rules import settings as rules

TIMES = ("min", "d")


def _line(bank: OneBank, key: str, title: str, why: str, figure: Figure) -> Setting:
    guards: Literal["", "life"] = "" if figure.unit in TIMES else "life"
    return Setting(key=f"{key}{bank.mark}", group="Fallback voltages", title=bank.of(title), why=why, figure=figure, guards=guards)


def ends_of_charge(bank: OneBank, supply: BankSupply) -> list[Setting]:
    """After which time, and below which current, absorbing ends."""
    read, card = bank.ledger.read, bank.card
    tail = bank.work(
        "settings.tail_a", "I_tail", "Tail current of the bank", supply.parallel * read(card, "open_loop.tail_a"), "A", source="arith"
    )
    minutes = read(card, "open_loop.absorb_minutes")
    return [
        _line(bank, "absorb_minutes", "Absorb time", "absorbing ends after it at the latest", minutes),
        _line(bank, "tail_a", "Tail current", "absorbing ends below it: the whole bank is full", tail),
    ]


def _check_air(bank: OneBank, rows: dict[str, Setting]) -> None:
    """Absorb on the coldest day, float on the hottest; what is not told of the air is asked by the check of charging."""
    ledger, cold, hot = bank.ledger, bank.coldest, bank.hottest
    if cold.value is not None:
        absorb = at_air(bank, "settings.absorb_cold", "Absorb voltage on the coldest day", rows["absorb_v"].amount, cold.path)
        most = _reached(bank)
        ledger.ask(rules.reached_when_cold, rules.ByAir(title=rows["absorb_v"].title, volts=absorb, bound=most, field=cold.path))
    if hot.value is not None:
        floating = at_air(bank, "settings.float_hot", "Float voltage on the hottest day", rows["float_v"].amount, hot.path)
        release = rows["grid_release_v"].amount
        facts = rules.ByAir(title=rows["float_v"].title, volts=floating, bound=release, field="settings.grid_release_v")
        ledger.ask(rules.released_when_hot, facts)


def _reached(bank: OneBank) -> Figure:
    """The highest charge voltage that the inverter can be set to."""
    ledger, card = bank.ledger, bank.inverter
    whole = ledger.read(card, "battery.v_max")
    top = next((r.high for r in card.settings if r.key == "absorb_v"), None)
    if top is None:
        return whole
    own = ledger.from_card(card.id, "settings.absorb_v.high", "V_hi", "Highest absorb voltage that the inverter accepts", top, unit="V")
    return bank.work(
        "settings.reached", "V_reach", "Highest charge voltage that the inverter reaches", least(whole, own), "V", source="arith"
    )


def _equalising(bank: OneBank) -> list[Setting]:
    """Whether cells are equalised, and with which voltage, for how long, how often."""
    ledger, card = bank.ledger, bank.card
    on = ledger.job.settings.equalise and card.chemistry == "lead-acid flooded"
    why = (
        "flooded cells are levelled by it: water and air first"
        if on
        else "not chosen by this job"
        if card.chemistry == "lead-acid flooded"
        else "sealed cells cannot vent"
    )
    rows = [Setting(key=f"equalise{bank.mark}", group="Fallback voltages", title=bank.of("Equalise"), why=why, text="on" if on else "off",
                    choices=("on", "off"), also=() if on else ("no", "disabled"), guards="life")]  # fmt: skip
    if not on or card.lead_acid is None or card.lead_acid.equalise_v is None:
        return rows
    volts = bank.volts("lead_acid.equalise_v")
    stand = least(bank.volts("v_max"), ledger.read(bank.inverter, "battery.v_max"))
    most = bank.work("settings.equalise_most", "V_most", "Highest voltage that battery and inverter stand", stand, "V", source="arith")
    ledger.ask(rules.equalise_within, rules.Equalise(volts=volts, most=most))
    rows.append(_line(bank, "equalise_v", "Equalise voltage", "the battery card's, at 25 °C", volts))
    for key, title, said in (
        ("equalise_minutes", "Equalise time", "the battery card's"),
        ("equalise_days", "Days between equalising", "or by specific gravity"),
    ):
        if (figure := ledger.stated(card, f"lead_acid.{key}")) is not None:
            rows.append(_line(bank, key, title, said, figure))
    return rows


def plates(bank: OneBank, rows: dict[str, Setting]) -> list[Setting]:
    """What a lead-acid bank is set to beside its thresholds. ``rows`` are those, by key."""
    if not bank.card.is_lead_acid or bank.card.lead_acid is None:
        return []
    _check_air(bank, rows)
    per_cell = bank.ledger.read(bank.card, "lead_acid.shift_mv_k")
    why = f"for each cell; {1000 * shift_v_k(bank).value:.0f} mV for each kelvin from 25 °C, the whole bank"
    return [_line(bank, "shift_mv_k", "Temperature compensation", why, per_cell).but(unsigned=True), *_equalising(bank)]
