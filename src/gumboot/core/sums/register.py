"""The register of quick sums: name, question, what it asks for, and what works it out."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from gumboot.core.errors import NotInTable
from gumboot.core.figure import Figure
from gumboot.core.rulebook.books import book
from gumboot.core.sums import battery, conductors, fixing, links, photovoltaic, raceways, sources
from gumboot.core.sums.ask import Answer, Ask, check_question
from gumboot.core.workbook import Workbook, with_parts


@dataclass(frozen=True, slots=True)
class Sum:
    """One quick sum. ``families`` names the code families under which it may be asked."""

    name: str
    group: str
    title: str
    asks: type[Ask]
    work: Callable[[Workbook, Any], Figure | tuple[Figure, tuple[str, ...]]]
    families: tuple[str, ...] = ("nec", "iec")

    @property
    def question(self) -> str:
        """One sentence that says what it answers."""
        return (self.asks.__doc__ or "").strip()

    def schema(self) -> dict[str, Any]:
        """JSON Schema of its inputs; each number names its unit."""
        return self.asks.model_json_schema()


_ALL = (
    Sum("conductor", "Conductors", "Conductor size", conductors.Conductor, conductors.conductor),
    Sum("voltage-drop", "Conductors", "Voltage drop or rise", conductors.Drop, conductors.drop),
    Sum("next-device", "Conductors", "Next device", conductors.NextDevice, conductors.next_device),
    Sum("earth-conductor", "Conductors", "Earth conductor", conductors.Earth, conductors.earth),
    Sum("conduit-fill", "Conductors", "Conduit fill", raceways.ConduitFill, raceways.conduit_fill),
    Sum("busbar", "Grid and PV", "Busbar rule", sources.Busbar, sources.busbar),
    Sum("feeder-tap", "Grid and PV", "Feeder or tap", sources.FeederTap, sources.feeder_tap, ("nec",)),
    Sum("dwelling-load", "Grid and PV", "Dwelling load", sources.DwellingLoad, sources.dwelling_load, ("nec",)),
    Sum("string-range", "Grid and PV", "String range", photovoltaic.StringRange, photovoltaic.string_range),
    Sum("droop", "Grid and PV", "Droop curtailment", photovoltaic.DroopAsk, photovoltaic.droop),
    Sum("battery-current", "Battery", "Battery current", battery.BatteryCurrent, battery.battery_current),
    Sum("bank-sharing", "Battery", "Bank sharing", battery.BankSharing, battery.bank_sharing),
    Sum("fault-current", "Battery", "Fault current", battery.FaultCurrent, battery.fault_current),
    Sum("equalising-current", "Battery", "Equalising current", battery.Equalising, battery.equalising),
    Sum("precharge", "Battery", "Pre-charge", battery.Precharge, battery.precharge),
    Sum("longest-lead", "Battery", "Longest lead", battery.LongestLead, battery.longest_lead),
    Sum("autonomy", "Battery", "Autonomy", photovoltaic.Autonomy, photovoltaic.autonomy),
    Sum("anchor-load", "Wall and wire", "Anchor load", fixing.AnchorLoad, fixing.anchor_load),
    Sum("torque", "Wall and wire", "Torque conversion", fixing.Torque, fixing.torque),
    Sum("dip-address", "Wall and wire", "DIP address", fixing.DipAddress, fixing.dip_address),
    Sum("pin-out", "Wall and wire", "Cable pin-out", fixing.PinOut, fixing.pin_out),
    Sum("bus-check", "Wall and wire", "Bus check", links.BusCheck, links.bus_check),
)
SUMS: dict[str, Sum] = {s.name: s for s in _ALL}


def find_sum(name: str) -> Sum:
    """A quick sum by name. Raises NotInTable."""
    try:
        return SUMS[name]
    except KeyError:
        raise NotInTable("quick sum", name, ", ".join(SUMS), "the register of quick sums", "Choose one of these.") from None


def ask_sum(name: str, question: Ask) -> Answer:
    """Work one out. Raises NotInTable for an unknown sum, or the named error of the rule that refuses."""
    entry = find_sum(name)
    rule_book = book(question.book)
    if rule_book.family not in entry.families:
        raise NotInTable(
            entry.title.lower(), rule_book.title, "NEC 2023", "its clause", "It is a rule of North American practice: choose that book."
        )
    check_question(question, rule_book.family)
    workbook = Workbook(rule_book)
    answered = entry.work(workbook, question)
    figure, lines = (answered, ()) if isinstance(answered, Figure) else answered
    return Answer(figure, tuple(with_parts(workbook.figures).values()), tuple(workbook.findings), lines)
