"""What is measured before first power, and what should today's value be?"""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.figure import Figure, constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import bank_volts
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.plan.links import LinksPlan
from gumboot.core.plan.strings import StringsPlan

BAND_PCT = constant("b", "Band about today's string voltage", 5, "%", "cp.stringband")
CONTINUITY = constant("R_max", "Earth continuity at most", 1.0, "ohm", "iec.60364.6", "Subtract the test leads.")
INSULATION = constant("R_iso", "PV insulation at least, 500 V test", 1.0, "Mohm", "iec.62446", "System voltage above 120 V up to 500 V.")
DEAD = constant("U_dead", "Dead bus at most", 5.0, "V", "cp.dead")


@dataclass(frozen=True)
class Check:
    """One measurement or look. ``low`` and ``high`` bound a value in ``unit``; a check without unit is answered yes or no.

    ``code`` is the rule that speaks when the answer stands outside: a stop where ``life`` is at stake.
    """

    id: str
    station: str
    title: str
    unit: str
    why: str
    low: Figure | None = None
    high: Figure | None = None
    expected: Figure | None = None
    life: bool = False
    caution: str = ""
    code: str = "READ-LOOK"

    def accepts(self, value: float) -> bool:
        """Whether a measured value lies in the band."""
        return (self.low is None or value >= self.low.value) and (self.high is None or value <= self.high.value)


def _string_checks(ledger: Ledger, strings: StringsPlan | None) -> list[Check]:
    checks = []
    for t in strings.trackers if strings else ():
        tid = t.tracker.id
        checks.append(
            Check(
                f"polarity-{tid}",
                "prove",
                f"Polarity of {tid} at the inverter plug",
                "",
                "A reversed string destroys the input.",
                life=True,
                caution="A PV string is live in daylight. Insulating gloves; never pull a plug under load.",
                code="READ-POLARITY",
            )
        )
        checks.append(
            Check(
                f"iso-{tid}",
                "prove",
                f"Insulation of {tid}, both poles to earth",
                "Mohm",
                "A damaged lead shows here, before it shows as an arc.",
                low=INSULATION,
                life=True,
                code="READ-INSULATION",
            )
        )
        if t.today_v is not None:
            low = ledger.work(
                f"prove.voc-{tid}.low",
                "V_lo",
                f"{tid} today, at least",
                t.today_v.value * 0.95,
                "V",
                "cp.stringband",
                "V * (1 - b / 100)",
                (t.today_v, BAND_PCT),
            )
            high = ledger.work(
                f"prove.voc-{tid}.high",
                "V_hi",
                f"{tid} today, at most",
                t.today_v.value * 1.05,
                "V",
                "cp.stringband",
                "V * (1 + b / 100)",
                (t.today_v, BAND_PCT),
            )
            checks.append(
                Check(
                    f"voc-{tid}",
                    "prove",
                    f"Open-circuit voltage of {tid}",
                    "V",
                    "A wrong count or a crossed string shows as a voltage.",
                    low,
                    high,
                    t.today_v,
                    True,
                    "Live DC. One hand, insulated probes, eye protection.",
                    "READ-STRING",
                )
            )
    return checks


def _bank_checks(ledger: Ledger) -> list[Check]:
    card, units = ledger.card("battery"), ledger.job.bank.units
    low, high = (
        ledger.read(card, "v_min", "V_min", "Lowest battery voltage, one unit", "V"),
        ledger.read(card, "v_max", "V_max", "Highest battery voltage, one unit", "V"),
    )
    if card.arrangement in ("stack", "docked"):
        # The terminals of modules in a stack cannot be reached: the whole stack is measured where it is landed.
        whole = (
            bank_volts(ledger, "v_min", "V_min", "Lowest battery voltage"),
            bank_volts(ledger, "v_max", "V_max", "Highest battery voltage"),
        )
        title = (
            "Voltage of the whole stack, its breaker closed and the inverter off"
            if card.arrangement == "stack"
            else "Battery voltage as the display shows it"
        )
        return [
            Check(
                "pack-stack",
                "prove",
                title,
                "V",
                "A module that is not seated shows as a missing voltage.",
                *whole,
                None,
                True,
                "High DC voltage. Insulating gloves, eye protection.",
                "READ-PACK",
            )
        ]
    spread = ledger.read(card, "join_window_v", "dV_max", "Largest difference when joining", "V")
    checks = [
        Check(
            f"pack-{u.id}",
            "prove",
            f"Voltage of {u.id}" + (", breaker open" if card.breaker_a else ", links open"),
            "V",
            "Batteries at unlike voltages drive a large current into each other when joined.",
            low,
            high,
            None,
            True,
            "Cells cannot be switched off. Insulated tools, no jewellery.",
            "READ-PACK",
        )
        for u in units
    ]
    if len(units) > 1:
        checks.append(
            Check(
                "pack-spread",
                "prove",
                "Largest difference between battery voltages",
                "V",
                "Above the maker's window they may not be joined.",
                None,
                spread,
                None,
                True,
                code="READ-SPREAD",
            )
        )
    return checks


_GLANDS = (Check("look-glands", "prove", "Unused glands blanked, covers on, labels in place", "", "Water and fingers find an open gland."),)


def plan_prove(ledger: Ledger, strings: StringsPlan | None, circuits: CircuitsPlan, links: LinksPlan) -> tuple[Check, ...]:
    """Dead measurements in the order they are made."""
    looks = [
        Check(
            "look-joints",
            "prove",
            "Every joint looked at and pulled lightly",
            "",
            "Factory joints come loose as well: look at the battery breaker's busbar bolts.",
        ),
        Check(
            "look-open",
            "prove",
            "Every switch and breaker open and locked",
            "",
            "Nothing may close by itself while hands are inside.",
            life=True,
            caution="Lock and tag. Eye protection, insulating gloves, safety shoes, no jewellery.",
            code="READ-LOCKED",
        ),
        Check(
            "dead-grid",
            "prove",
            "Inverter GRID and LOAD terminals, every pair",
            "V",
            "No foreign voltage.",
            None,
            DEAD,
            None,
            True,
            "Prove the tester on a known source before and after.",
            "READ-DEAD",
        ),
        Check(
            "dead-dc",
            "prove",
            "DC busbars, positive to negative",
            "V",
            "Capacitors may hold charge for minutes: wait, then measure.",
            None,
            DEAD,
            None,
            True,
            code="READ-DEAD",
        ),
    ]
    earth = [
        Check(
            f"earth-{c.circuit.id}",
            "prove",
            f"Earth continuity, {c.circuit.title}",
            "ohm",
            "A fault must find its way back.",
            None,
            CONTINUITY,
            None,
            True,
            code="READ-EARTH",
        )
        for c in circuits.sized.values()
        if c.circuit.kind != "battery-unit" and c.earth is not None
    ]
    if links.inverter_port is None or links.pair_ohm is None:
        return (*looks, *earth, *_bank_checks(ledger), *_string_checks(ledger, strings), *_GLANDS)
    bus_low = ledger.work("prove.bus.low", "R_lo", "Bus pair at least", 54.0, "ohm", "cp.terminator", limits="60 ohm less a tenth.")
    bus_high = ledger.work("prove.bus.high", "R_hi", "Bus pair at most", 66.0, "ohm", "cp.terminator", limits="60 ohm and a tenth.")
    bus = [
        Check(
            "bus-pair",
            "prove",
            f"Resistance across the dead {links.inverter_port.bus} pair",
            "ohm",
            "60: both terminators. 120: one missing. 40: one too many.",
            bus_low,
            bus_high,
            links.pair_ohm,
            code="READ-BUS",
        )
    ]
    return (*looks, *earth, *_bank_checks(ledger), *_string_checks(ledger, strings), *bus, *_GLANDS)
