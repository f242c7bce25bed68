"""What is measured of each PV input: polarity, insulation at its class of voltage, open-circuit voltage today."""

from __future__ import annotations

from gumboot.core.expression import named
from gumboot.core.figure import Figure, constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.prove.check import Check
from gumboot.core.plan.strings import StringsPlan, TrackerPlan
from gumboot.core.rulebook.common.insulation import SYSTEM_FACTOR, insulation_test

BAND_PCT = constant("b", "Band about today's string voltage", 5, "%", "cp.stringband")
LEAST_OPTIMISED = constant(
    "R_iso", "PV insulation at least", 1.0, "Mohm", "iec.62446", limits="At the voltage that the optimiser's maker allows."
)
FACTOR = constant("k", "System voltage against open-circuit voltage at 25 °C", SYSTEM_FACTOR, "", "iec.62446")


def _polarity(tid: str) -> Check:
    return Check(
        id=f"polarity-{tid}",
        station="prove",
        title=f"Polarity of {tid} at the inverter plug",
        unit="",
        why="A reversed string destroys the input.",
        life=True,
        caution="A PV string is live in daylight. Insulating gloves; never pull a plug under load.",
        code="READ-POLARITY",
        of="array",
    )


def _class(ledger: Ledger, t: TrackerPlan) -> tuple[Figure, Figure]:
    """Test voltage and least resistance of an input's strings, by the class of their system voltage."""
    tid, longest = t.key, max(t.strings, key=lambda s: s.modules)
    count, stc = ledger.decided_of(longest, f"strings.{longest.id}.modules"), ledger.read(ledger.seats.module_on(t.face.id), "voc_v")
    system = ledger.work(f"prove.iso-{tid}.system", "U_sys", f"System voltage of {tid}", FACTOR * count * stc, "V", source="iec.62446")
    test = insulation_test(system.value)
    by_class = "row of Table 1 for {0}"
    volts = named(by_class, test.test_v, system)
    ohms = named(by_class, test.least_mohm, system)
    return (
        ledger.work(f"prove.iso-{tid}.test", "U_test", f"Insulation test voltage, {tid}", volts, "V", source="iec.62446"),
        ledger.work(f"prove.iso-{tid}.low", "R_iso", f"PV insulation at least, {tid}", ohms, "Mohm", source="iec.62446"),
    )


def _insulation(ledger: Ledger, t: TrackerPlan) -> Check:
    """Insulation of the strings of one input, at the voltage of their class."""
    tid = t.key
    if t.optimised:
        title, low = f"Insulation of {tid}, both poles to earth", LEAST_OPTIMISED
        how = "Test voltage as the optimiser's maker says, never above."
    else:
        volts, low = _class(ledger, t)
        title = f"Insulation of {tid} at {volts.value:g} V, both poles to earth"
        how = f"Tester at {volts.value:g} V between each pole and earth."
    ready = "String unplugged from the inverter, surge arresters out, isolator as the tester needs it."
    return Check(
        id=f"iso-{tid}",
        station="prove",
        title=title,
        unit="Mohm",
        why="A damaged lead shows here, before it shows as an arc.",
        low=low,
        life=True,
        caution="The tester's voltage stands on the whole array: nobody on the roof or at a lead, hands off, discharge before you touch.",
        code="READ-INSULATION",
        prepare=f"{ready} {how} Beyond the tester's range is good: type >999 or OL.",
        of="array",
    )


def _open_voltage(ledger: Ledger, t: TrackerPlan, today: Figure) -> Check:
    tid = t.key
    low = ledger.work(f"prove.voc-{tid}.low", "V_lo", f"{tid} today, at least", today * (1 - BAND_PCT / 100), "V", source="cp.stringband")
    high = ledger.work(f"prove.voc-{tid}.high", "V_hi", f"{tid} today, at most", today * (1 + BAND_PCT / 100), "V", source="cp.stringband")
    return Check(
        id=f"voc-{tid}",
        station="prove",
        title=f"Open-circuit voltage of {tid}",
        unit="V",
        why="A wrong count or a crossed string shows as a voltage, a reversed one as a minus.",
        low=low,
        high=high,
        expected=today,
        life=True,
        caution="Live DC. One hand, insulated probes, eye protection.",
        code="READ-STRING",
        measures="polarity",
        cell=ledger.decided("site.cell_today_c"),
        per_k=ledger.seats.module_on(t.face.id).voc_per_k,
        of="array",
    )


def string_checks(ledger: Ledger, strings: StringsPlan | None) -> list[Check]:
    """Every measurement of every input that carries strings."""
    checks = []
    for t in strings.trackers if strings else ():
        checks += [_polarity(t.key), _insulation(ledger, t)]
        if t.today_v is not None:
            checks.append(_open_voltage(ledger, t, t.today_v))
    return checks
