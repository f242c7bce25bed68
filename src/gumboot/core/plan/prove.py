"""What is measured before first power, and what should today's value be?"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from gumboot.core.figure import Figure, constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import bank_volts
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.plan.links import LinksPlan
from gumboot.core.plan.strings import StringsPlan, TrackerPlan
from gumboot.core.rulebook.common.insulation import SYSTEM_FACTOR, insulation_test

BAND_PCT = constant("b", "Band about today's string voltage", 5, "%", "cp.stringband")
CONTINUITY = constant("R_max", "Earth continuity at most", 1.0, "ohm", "iec.60364.6", "Subtract the test leads.")
DEAD = constant("U_dead", "Dead bus at most", 5.0, "V", "cp.dead")
LEAST_OPTIMISED = constant("R_iso", "PV insulation at least", 1.0, "Mohm", "iec.62446", "At the voltage that the optimiser's maker allows.")
_FACTOR = constant("k", "System voltage against open-circuit voltage at 25 °C", SYSTEM_FACTOR, "", "iec.62446")
# What a reading is: its size whatever its sign; a polarity, where a minus means reversed; a quantity that cannot be negative; or signed.
Measures = Literal["magnitude", "polarity", "never negative", "signed"]


@dataclass(frozen=True)
class Check:
    """One measurement or look. ``low`` and ``high`` bound a value in ``unit``; a check without unit is answered yes or no.

    ``code`` is the rule that speaks when the answer stands outside: a stop where ``life`` is at stake. ``shows`` names two displays
    that are both read: the value is then their difference, which nobody works out by head. ``after`` is the step of first power
    that it waits for. ``cell`` and ``per_k`` say for which cell temperature the band stands and how it moves with it.
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
    measures: Measures = "never negative"
    shows: tuple[str, ...] = ()
    after: str = ""
    prepare: str = ""
    cell: Figure | None = None
    per_k: float = 0.0

    def moved_by(self, cell_c: float | None) -> float:
        """How much larger the band is at another cell temperature than at the one it was worked out for."""
        if cell_c is None or self.cell is None:
            return 1.0
        return (1 + self.per_k * (cell_c - 25)) / (1 + self.per_k * (self.cell.value - 25))

    def refuses(self, value: float) -> str:
        """Why a value cannot be a reading at all; empty when it can."""
        if self.measures == "never negative" and value < 0:
            null = ": null the test leads and measure again" if self.unit.endswith("ohm") else ""
            return f"{value:g} {self.unit} is below nothing{null}."
        return ""

    def fault(self, value: float | None, over: bool = False, cell_c: float | None = None) -> str:
        """What is wrong with a reading, empty when it lies in its band. ``over`` is one beyond the instrument's range, which may be all
        that is known of it."""
        moved, unit = self.moved_by(cell_c), self.unit
        low, high = (None if f is None else f.value * moved for f in (self.low, self.high))
        if value is None:
            return "" if high is None else f"beyond the instrument's range, which is above {high:.4g} {unit}"
        size = abs(value) if self.measures in ("magnitude", "polarity") else value
        said = f"{'above ' if over else ''}{value:g} {unit}"
        outside = ""
        if high is not None and (over or size > high):
            outside = f"{said} is above {high:.4g} {unit}"
        elif low is not None and size < low:
            outside = f"{said} does not prove at least {low:.4g} {unit}" if over else f"{said} is below {low:.4g} {unit}"
        if self.measures == "polarity" and value < 0:
            return f"reversed: {said} is the wrong way round" + (", and its size is outside the band" if outside else "")
        if self.measures == "magnitude" and value < 0 and outside:
            return f"{said}, whatever its sign, {outside.removeprefix(said).strip()}"
        return outside

    def accepts(self, value: float) -> bool:
        """Whether a measured value lies in the band."""
        return not self.fault(value)


def _insulation(ledger: Ledger, t: TrackerPlan) -> Check:
    """Insulation of the strings of one input, at the voltage of their class."""
    tid = t.tracker.id
    if t.optimised:
        title, low, how = (
            f"Insulation of {tid}, both poles to earth",
            LEAST_OPTIMISED,
            "Test voltage as the optimiser's maker says, never above.",
        )
    else:
        module = ledger.card("module")
        stc = ledger.read(module, "voc_v", "V_oc", "Module voltage at 25 °C, open circuit", "V")
        count = ledger.decided(f"strings.{t.strings[0].id}.modules", "n", "Modules in series", "")
        longest = max(t.strings, key=lambda s: s.modules)
        if longest is not t.strings[0]:
            count = ledger.decided(f"strings.{longest.id}.modules", "n", "Modules in series", "")
        system = ledger.work(
            f"prove.iso-{tid}.system", "U_sys", f"System voltage of {tid}", SYSTEM_FACTOR * longest.modules * stc.value, "V", "iec.62446",
            "k * n * V_oc", (_FACTOR, count, stc),
        )  # fmt: skip
        test = insulation_test(system.value)
        volts = ledger.work(
            f"prove.iso-{tid}.test", "U_test", f"Insulation test voltage, {tid}", test.test_v, "V", "iec.62446", given=(system,)
        )
        low = ledger.work(
            f"prove.iso-{tid}.low", "R_iso", f"PV insulation at least, {tid}", test.least_mohm, "Mohm", "iec.62446", given=(system,)
        )
        title, how = (
            f"Insulation of {tid} at {volts.value:g} V, both poles to earth",
            f"Tester at {volts.value:g} V between each pole and earth.",
        )
    return Check(
        f"iso-{tid}",
        "prove",
        title,
        "Mohm",
        "A damaged lead shows here, before it shows as an arc.",
        low=low,
        life=True,
        caution="The tester's voltage stands on the whole array: nobody on the roof or at a lead, hands off, discharge before you touch.",
        code="READ-INSULATION",
        prepare=f"String unplugged from the inverter, surge arresters out, isolator as the tester needs it. {how} Beyond the tester's range is good: type >999 or OL.",
    )


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
        checks.append(_insulation(ledger, t))
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
                    "A wrong count or a crossed string shows as a voltage, a reversed one as a minus.",
                    low,
                    high,
                    t.today_v,
                    True,
                    "Live DC. One hand, insulated probes, eye protection.",
                    "READ-STRING",
                    "polarity",
                    cell=ledger.decided("site.cell_today_c", "T", "Cell temperature today", "°C"),
                    per_k=ledger.card("module").voc_per_k,
                )
            )
    return checks


def _bank_checks(ledger: Ledger) -> list[Check]:
    card, units = ledger.card("battery"), ledger.job.bank.units
    low, high = (
        ledger.read(card, "v_min", "V_min", "Lowest battery voltage, one unit", "V"),
        ledger.read(card, "v_max", "V_max", "Highest battery voltage, one unit", "V"),
    )
    if card.arrangement in ("stack", "docked") or ledger.card("inverter").bank_internal:
        return []  # its terminals cannot be reached, or are dead, before it is switched on: read_when_on
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
            "polarity",
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


def read_when_on(ledger: Ledger) -> Check | None:
    """The voltage of a bank whose terminals cannot be reached: of a stack once its breaker is closed, of docked modules on the display."""
    card = ledger.card("battery")
    docked = card.arrangement == "docked" or ledger.card("inverter").bank_internal
    if card.arrangement != "stack" and not docked:
        return None
    return Check(
        "pack-stack",
        "power-up",
        "Battery voltage as the display shows it" if docked else "Voltage of the whole stack, its breaker closed and the inverter off",
        "V",
        "A module that is not seated shows as a missing voltage.",
        bank_volts(ledger, "v_min"),
        bank_volts(ledger, "v_max"),
        None,
        True,
        "" if docked else "High DC voltage. Insulating gloves, eye protection.",
        "READ-PACK",
        "polarity",
    )


_GLANDS = (Check("look-glands", "prove", "Unused glands blanked, covers on, labels in place", "", "Water and fingers find an open gland."),)


def _dead_dc(ledger: Ledger) -> tuple[Check, ...]:
    """The DC side that can be made dead: what cells hold live, no check may ask to be dead."""
    card, fused = ledger.card("battery"), ledger.has("switch_fuse")
    if card.arrangement == "docked" or ledger.card("inverter").bank_internal:
        return ()
    switched = card.breaker_a is not None or card.arrangement == "stack"
    if not switched and not fused:
        return ()
    where = (
        "DC busbars, positive to negative" if ledger.has("busbar_box") and switched else "Inverter BATTERY terminals, positive to negative"
    )
    beyond = "" if switched else " The side of the switch towards the cells stays live."
    return (
        Check(
            "dead-dc",
            "prove",
            where,
            "V",
            f"Capacitors may hold charge for minutes: wait, then measure.{beyond}",
            None,
            DEAD,
            None,
            True,
            code="READ-DEAD",
            measures="magnitude",
        ),
    )


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
            "magnitude",
        ),
        *_dead_dc(ledger),
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
