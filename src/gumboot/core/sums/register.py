"""The register of quick sums: name, question, what it asks for, and what works it out."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from gumboot.core.errors import NotInTable
from gumboot.core.figure import Figure
from gumboot.core.rulebook.books import book
from gumboot.core.sums import (
    array,
    battery,
    chemistry,
    conductors,
    dwelling,
    fixing,
    inverse,
    lifting,
    links,
    photovoltaic,
    raceways,
    sources,
)
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
    Sum("ampacity", "Conductors", "Largest load for a size", inverse.Ampacity, inverse.ampacity),
    Sum("size-for-drop", "Conductors", "Size for a drop", inverse.SizeForDrop, inverse.size_for_drop),
    Sum("wire-size", "Conductors", "AWG and mm²", inverse.WireSize, inverse.wire_size),
    Sum("service-conductor", "Conductors", "Service conductor", inverse.ServiceConductor, inverse.service_conductor, ("nec",)),
    Sum("earthing", "Conductors", "Electrode or bonding", inverse.Earthing, inverse.earthing),
    Sum("loop-limit", "Conductors", "Earth-fault loop", inverse.LoopLimit, inverse.loop_limit, ("iec",)),
    Sum("busbar", "Grid and PV", "Busbar rule", sources.Busbar, sources.busbar),
    Sum("feeder-tap", "Grid and PV", "Feeder or tap", sources.FeederTap, sources.feeder_tap, ("nec",)),
    Sum("dwelling-load", "Grid and PV", "Dwelling load", sources.DwellingLoad, sources.dwelling_load, ("nec",)),
    Sum("dwelling-by-area", "Grid and PV", "Dwelling by area", dwelling.DwellingByArea, dwelling.dwelling_by_area, ("nec",)),
    Sum("existing-dwelling", "Grid and PV", "Existing dwelling", dwelling.ExistingDwelling, dwelling.existing_dwelling, ("nec",)),
    Sum("metered-peak", "Grid and PV", "Room by measured peak", dwelling.MeteredPeak, dwelling.metered_peak, ("nec",)),
    Sum("leg-currents", "Grid and PV", "Leg currents", dwelling.LegCurrents, dwelling.leg_currents),
    Sum("module-power", "Grid and PV", "Module power", array.ModulePower, array.module_power),
    Sum("dc-ac-ratio", "Grid and PV", "DC to AC ratio", array.DcAcRatio, array.dc_ac_ratio),
    Sum("string-current", "Grid and PV", "String current", array.StringCurrent, array.string_current),
    Sum("longest-string", "Grid and PV", "Longest string by table", array.LongestString, array.longest_string, ("nec",)),
    Sum("string-range", "Grid and PV", "String range", photovoltaic.StringRange, photovoltaic.string_range),
    Sum("droop", "Grid and PV", "Droop curtailment", photovoltaic.DroopAsk, photovoltaic.droop),
    Sum("battery-current", "Battery", "Battery current", battery.BatteryCurrent, battery.battery_current),
    Sum("bank-sharing", "Battery", "Bank sharing", battery.BankSharing, battery.bank_sharing),
    Sum("fault-current", "Battery", "Fault current", battery.FaultCurrent, battery.fault_current),
    Sum("equalising-current", "Battery", "Equalising current", battery.Equalising, battery.equalising),
    Sum("precharge", "Battery", "Pre-charge", battery.Precharge, battery.precharge),
    Sum("longest-lead", "Battery", "Longest lead", battery.LongestLead, battery.longest_lead),
    Sum("bank-of-cells", "Battery", "Bank of cells", chemistry.BankOfCells, chemistry.bank_of_cells),
    Sum("charge-limit", "Battery", "Charge limit", chemistry.ChargeLimit, chemistry.charge_limit),
    Sum("charge-voltage", "Battery", "Charge by temperature", chemistry.ChargeVoltage, chemistry.charge_voltage),
    Sum("peukert", "Battery", "Lead-acid at a current", chemistry.Peukert, chemistry.peukert),
    Sum("ventilation", "Battery", "Air for lead-acid", chemistry.Ventilation, chemistry.ventilation),
    Sum("joining", "Battery", "Joining batteries", chemistry.Joining, chemistry.joining),
    Sum("autonomy", "Battery", "Autonomy", photovoltaic.Autonomy, photovoltaic.autonomy),
    Sum("anchor-load", "Wall and wire", "Anchor load", fixing.AnchorLoad, fixing.anchor_load),
    Sum("masonry-anchor", "Wall and wire", "Masonry anchors", lifting.MasonryAnchor, lifting.masonry_anchor),
    Sum("team-lift", "Wall and wire", "Team lift", lifting.TeamLift, lifting.team_lift),
    Sum("wrench", "Wall and wire", "Wrench force", inverse.Wrench, inverse.wrench),
    Sum("read-address", "Wall and wire", "Read an address", inverse.ReadAddress, inverse.read_address),
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
        valid, practice = ("NEC 2023", "North American") if "nec" in entry.families else ("a book of the IEC family", "IEC")
        raise NotInTable(
            entry.title.lower(), rule_book.title, valid, "its clause", f"It is a rule of {practice} practice: choose that book."
        )
    check_question(question, rule_book.family)
    workbook = Workbook(rule_book)
    answered = entry.work(workbook, question)
    figure, lines = (answered, ()) if isinstance(answered, Figure) else answered
    return Answer(figure, tuple(with_parts(workbook.figures).values()), tuple(workbook.findings), lines, workbook.asks_rules)
