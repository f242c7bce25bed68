"""What is measured of each PV input: polarity, insulation at its class of voltage, open-circuit voltage today."""

from __future__ import annotations

from typing import NamedTuple

from gumboot.core.card import ModuleCard
from gumboot.core.expression import named
from gumboot.core.figure import Figure, constant
from gumboot.core.job.model import String
from gumboot.core.ledger import Ledger
from gumboot.core.plan.prove.check import Check, Lasts
from gumboot.core.plan.strings import StringsPlan, TrackerPlan
from gumboot.core.plan.strings.voltages import open_voltage
from gumboot.core.rulebook.common.insulation import SYSTEM_FACTOR, insulation_test

BAND_PCT = constant("b", "Band about today's string voltage", 5, "%", "cp.stringband")
OPTIMISED_BAND_PCT = constant("b_opt", "Band about what optimisers give before they are commanded", 20, "%", "cp.optimiser")
WRONG = "A wrong count or a crossed string shows as a voltage, a reversed one as a minus."
LEAST_OPTIMISED = constant(
    "R_iso", "PV insulation at least", 1.0, "Mohm", "iec.62446", limits="At the voltage that the optimiser's maker allows."
)
FACTOR = constant("k", "System voltage against open-circuit voltage at 25 °C", SYSTEM_FACTOR, "", "iec.62446")


class Proved(NamedTuple):
    """One string of an input with the name of its checks: the input's where it is alone, with its own behind where several meet there."""

    tracker: TrackerPlan
    string: String

    @property
    def is_one_of(self) -> bool:
        """Whether others meet it at its input: each is proved before they are joined."""
        return len(self.tracker.strings) > 1

    @property
    def key(self) -> str:
        """In ids and keys."""
        return f"{self.tracker.key}-{self.string.id}" if self.is_one_of else self.tracker.key

    @property
    def title(self) -> str:
        """In words."""
        return f"{self.string.id} on {self.tracker.key}, before it is joined" if self.is_one_of else self.tracker.key

    def module(self, ledger: Ledger) -> ModuleCard:
        """Its module."""
        return ledger.seats.module_on(self.string.face)

    def lasts(self, ledger: Ledger) -> Lasts:
        """What is measured of it stays true while it is the string that it was, and nobody lands its run anew."""
        return Lasts(landed=(self.tracker.circuit,), rests=f"{self.string.modules} × {self.module(ledger).title}")


def _polarity(ledger: Ledger, p: Proved) -> Check:
    return Check(
        id=f"polarity-{p.key}",
        station="prove",
        title=f"Polarity of {p.title} at the inverter plug" if not p.is_one_of else f"Polarity of {p.title}",
        unit="",
        why="A reversed string destroys the input.",
        life=True,
        caution="A PV string is live in daylight. Insulating gloves; never pull a plug under load.",
        code="READ-POLARITY",
        of="array",
        places=(p.tracker.place,),
        lasts=p.lasts(ledger),
    )


def _class(ledger: Ledger, p: Proved) -> tuple[Figure, Figure]:
    """Test voltage and least resistance of a string, by the class of its system voltage."""
    tid = p.key
    count, stc = ledger.decided_of(p.string, f"strings.{p.string.id}.modules"), ledger.read(p.module(ledger), "voc_v")
    system = ledger.work(f"prove.iso-{tid}.system", "U_sys", f"System voltage of {tid}", FACTOR * count * stc, "V", source="iec.62446")
    test = insulation_test(system.value)
    by_class = "row of Table 1 for {0}"
    volts = named(by_class, test.test_v, system)
    ohms = named(by_class, test.least_mohm, system)
    return (
        ledger.work(f"prove.iso-{tid}.test", "U_test", f"Insulation test voltage, {tid}", volts, "V", source="iec.62446"),
        ledger.work(f"prove.iso-{tid}.low", "R_iso", f"PV insulation at least, {tid}", ohms, "Mohm", source="iec.62446"),
    )


def _insulation(ledger: Ledger, p: Proved) -> Check:
    """Insulation of one string, at the voltage of its class."""
    tid = p.key
    if p.tracker.optimised:
        title, low = f"Insulation of {p.title}, both poles to earth", LEAST_OPTIMISED
        how = "Test voltage as the optimiser's maker says, never above."
    else:
        volts, low = _class(ledger, p)
        title = f"Insulation of {p.title} at {volts.value:g} V, both poles to earth"
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
        places=(p.tracker.place,),
        lasts=p.lasts(ledger),
    )


def _today(ledger: Ledger, p: Proved) -> Figure | None:
    """Open-circuit voltage expected today: by cell temperature, or what optimisers give before they are commanded; None while unknown."""
    t, count = p.tracker, f"strings.{p.string.id}.modules"
    if t.optimised:
        optimiser = ledger.seats.optimiser
        one = ledger.stated(optimiser, "safe_v") if optimiser is not None else None
        if one is None:
            return None
        name, value = f"Voltage of {p.title} before it is commanded", ledger.decided_of(p.string, count) * one
        return ledger.work(f"prove.voc-{p.key}.today", "V", name, value, "V", source="cp.optimiser")
    if not p.is_one_of or t.today_v is None:
        return t.today_v
    name = f"Open-circuit voltage expected today, {p.string.id}"
    cell = ledger.decided("site.cell_today_c")
    modules = ledger.decided_of(p.string, count)
    return open_voltage(ledger, f"prove.voc-{p.key}.today", name, modules, p.module(ledger), cell=cell, source="physics")


def _open_voltage(ledger: Ledger, p: Proved, today: Figure) -> Check:
    tid, optimised = p.key, p.tracker.optimised
    band = OPTIMISED_BAND_PCT if optimised else BAND_PCT
    low = ledger.work(f"prove.voc-{tid}.low", "V_lo", f"{p.title} today, at least", today * (1 - band / 100), "V", source="cp.stringband")
    high = ledger.work(f"prove.voc-{tid}.high", "V_hi", f"{p.title} today, at most", today * (1 + band / 100), "V", source="cp.stringband")
    return Check(
        id=f"voc-{tid}",
        station="prove",
        title=f"Open-circuit voltage of {p.title}",
        unit="V",
        why="An optimiser that is missing or already commanded shows here." if optimised else WRONG,
        low=low,
        high=high,
        expected=today,
        life=True,
        caution="Live DC. One hand, insulated probes, eye protection.",
        code="READ-STRING",
        measures="polarity",
        cell=None if optimised else ledger.decided("site.cell_today_c"),
        per_k=0.0 if optimised else p.module(ledger).voc_per_k,
        of="array",
        places=(p.tracker.place,),
        lasts=p.lasts(ledger).but(below=None if optimised else p.tracker.limit_v),
    )


def string_checks(ledger: Ledger, strings: StringsPlan | None) -> list[Check]:
    """Every measurement of every string, each by itself: of two that are joined a wrong one hides behind the right one."""
    checks = []
    for p in [Proved(t, s) for t in strings.trackers for s in t.strings] if strings else ():
        checks += [_polarity(ledger, p), _insulation(ledger, p)]
        today = _today(ledger, p)
        if today is not None:
            checks.append(_open_voltage(ledger, p, today))
    return checks
