"""What voltage and current does each tracker see, coldest and hottest, and how many modules may it take?"""

from __future__ import annotations

import math
from dataclasses import dataclass

from gumboot.core.card import InverterCard, ModuleCard
from gumboot.core.card.model import Tracker
from gumboot.core.figure import Figure, constant
from gumboot.core.job.model import Face, String
from gumboot.core.ledger import Ledger
from gumboot.core.rulebook.north_american import photovoltaic as pv

DWELLING_LIMIT = constant("V_dw", "PV voltage limit at a one- or two-family dwelling", 600.0, "V", "nec.690.7")


@dataclass(frozen=True)
class TrackerPlan:
    """One tracker with its string: voltages, limits, currents and the allowed count."""

    tracker: Tracker
    strings: tuple[String, ...]
    face: Face
    modules: int
    cold_v: Figure
    hot_v: Figure
    limit_v: Figure
    window_low_v: Figure
    start_v: Figure
    operating_a: Figure
    maximum_a: Figure
    count_most: Figure
    count_least: Figure
    today_v: Figure | None


@dataclass(frozen=True)
class StringsPlan:
    """All trackers that carry a string."""

    trackers: tuple[TrackerPlan, ...]
    power: Figure

    def by_id(self, tracker: str) -> TrackerPlan | None:
        """The plan of one tracker, or None when it carries nothing."""
        return next((t for t in self.trackers if t.tracker.id == tracker), None)


def _voltage(ledger: Ledger, key: str, name: str, string: String, module: ModuleCard, at: str, cell: Figure, source: str) -> Figure:
    count = ledger.decided(f"strings.{string.id}.modules", "n", "Modules in series", "")
    field, coefficient = ("voc_v", "voc_per_k") if at == "open" else ("vmp_v", "vmp_per_k")
    stc = ledger.read(
        module,
        field,
        "V_oc" if at == "open" else "V_mp",
        f"Module voltage at 25 °C, {at} circuit" if at == "open" else "Module voltage at 25 °C, at maximum power",
        "V",
    )
    beta = ledger.read(module, coefficient, "beta", "Temperature coefficient", "1/K")
    value = pv.string_voltage_v(string.modules, stc.value, beta.value, cell.value)
    return ledger.work(key, "V", name, value, "V", source, f"n * {stc.symbol} * (1 + beta * (T - 25))", (count, stc, beta, cell))


def _limit(ledger: Ledger, inverter: InverterCard, tracker: Tracker, module: ModuleCard) -> Figure:
    candidates = (
        ledger.read(inverter, f"trackers.{tracker.id}.v_max", "V_in", "Inverter's maximum PV voltage", "V"),
        ledger.read(module, "system_v_max", "V_sys", "Module's maximum system voltage", "V"),
        DWELLING_LIMIT,
    )
    return ledger.work(
        f"strings.{tracker.id}.limit_v",
        "V_lim",
        "Never above",
        min(c.value for c in candidates),
        "V",
        "nec.690.7",
        "min(V_in, V_sys, V_dw)",
        candidates,
    )


def _counts(
    ledger: Ledger, tid: str, limit: Figure, low: Figure, start: Figure, module: ModuleCard, cold: Figure, hot: Figure
) -> tuple[Figure, Figure]:
    cold_one = ledger.work(
        f"strings.{tid}.cold_one",
        "V_1c",
        "One module, coldest, open circuit",
        pv.module_voltage_v(module.voc_v, module.voc_per_k, cold.value),
        "V",
        "nec.690.7",
        "V_oc * (1 + beta * (T - 25))",
        (
            ledger.read(module, "voc_v", "V_oc", "Module open-circuit voltage at 25 °C", "V"),
            ledger.read(module, "voc_per_k", "beta", "Temperature coefficient", "1/K"),
            cold,
        ),
    )
    hot_one = ledger.work(
        f"strings.{tid}.hot_one",
        "V_1h",
        "One module, hottest, at maximum power",
        pv.module_voltage_v(module.vmp_v, module.vmp_per_k, hot.value),
        "V",
        "physics",
        "V_mp * (1 + beta * (T - 25))",
        (
            ledger.read(module, "vmp_v", "V_mp", "Module voltage at maximum power, 25 °C", "V"),
            ledger.read(module, "vmp_per_k", "beta", "Temperature coefficient", "1/K"),
            hot,
        ),
    )
    # A hair is taken off before rounding so that a string exactly at its limit still counts.
    most = math.floor(limit.value / cold_one.value + 1e-9)
    floor_v = max(low.value, start.value)
    least = math.ceil(floor_v / hot_one.value - 1e-9)
    return (
        ledger.work(
            f"strings.{tid}.count_most",
            "n_max",
            "Most modules in series",
            float(most),
            "",
            "nec.690.7",
            "floor(V_lim / V_1c + 1e-9)",
            (limit, cold_one),
        ),
        ledger.work(
            f"strings.{tid}.count_least",
            "n_min",
            "Fewest modules in series",
            float(least),
            "",
            "physics",
            "ceil(max(V_low, V_start) / V_1h - 1e-9)",
            (low, start, hot_one),
        ),
    )


def _currents(ledger: Ledger, tracker: Tracker, inverter: InverterCard, module: ModuleCard, parallel: int) -> tuple[Figure, Figure]:
    tid = tracker.id
    strings = ledger.work(f"strings.{tid}.parallel", "N", "Strings in parallel", float(parallel), "", "arith")
    operating = ledger.work(
        f"strings.{tid}.operating_a",
        "I_op",
        "Operating current",
        module.imp_a * parallel,
        "A",
        "physics",
        "N * I_mp",
        (strings, ledger.read(module, "imp_a", "I_mp", "Module current at maximum power", "A")),
    )
    maximum = ledger.work(
        f"strings.{tid}.maximum_a",
        "I_max",
        "Maximum circuit current",
        pv.maximum_circuit_current_a(module.isc_a, parallel),
        "A",
        "nec.690.8a",
        "1.25 * N * I_sc",
        (strings, ledger.read(module, "isc_a", "I_sc", "Module short-circuit current", "A")),
    )
    op_limit = ledger.read(inverter, f"trackers.{tid}.i_max_a", "I_trk", "Tracker's operating current limit", "A")
    sc_limit = ledger.read(inverter, f"trackers.{tid}.isc_max_a", "I_trk_sc", "Tracker's short-circuit current limit", "A")
    term = ledger.read(inverter, f"trackers.{tid}.terminal_max_a", "I_term", "Current one terminal carries", "A")
    ledger.verdict(
        "PV-TRACKER-CURRENT",
        operating.value <= op_limit.value,
        tid,
        f"{tid} would work at {operating.value:.1f} A; above {op_limit.value:g} A the tracker only clips.",
        "Put fewer strings in parallel on this tracker.",
        found=operating,
        limit=op_limit,
    )
    ledger.verdict(
        "PV-TRACKER-ISC",
        maximum.value <= sc_limit.value,
        tid,
        f"{tid} may see {maximum.value:.1f} A; the input is built for {sc_limit.value:g} A of short-circuit current.",
        "Put fewer strings in parallel on this tracker or choose another module.",
        found=maximum,
        limit=sc_limit,
    )
    ledger.verdict(
        "PV-TERMINAL-CURRENT",
        maximum.value <= term.value,
        tid,
        f"{tid} may see {maximum.value:.1f} A; one terminal carries {term.value:g} A.",
        "Land the strings on separate terminals or use the maker's bridge where there is one.",
        found=maximum,
        limit=term,
    )
    return operating, maximum


def _plan_tracker(
    ledger: Ledger, tracker: Tracker, strings: tuple[String, ...], cold: Figure, summer: Figure, today: Figure | None
) -> TrackerPlan | None:
    inverter, module, tid = ledger.card("inverter"), ledger.card("module"), tracker.id
    face = next((f for f in ledger.job.faces if f.id == strings[0].face), None)
    if face is None:
        ledger.gap("faces", "strings", f"Which roof face does {strings[0].id} lie on?", f"Voltage of {tid}")
        return None
    longest = max(strings, key=lambda s: s.modules)
    shortest = min(strings, key=lambda s: s.modules)
    rise = ledger.decided(f"faces.{face.id}.cell_rise_k", "dT", "Cell above air in full sun", "K")
    hot_cell = ledger.work(
        f"strings.{tid}.hot_cell", "T", "Hottest cell", summer.value + rise.value, "°C", "cp.celltemp", "T_air + dT", (summer, rise)
    )
    cold_v = _voltage(ledger, f"strings.{tid}.cold_v", f"Cold open-circuit voltage, {tid}", longest, module, "open", cold, "nec.690.7")
    hot_v = _voltage(
        ledger, f"strings.{tid}.hot_v", f"Hot operating voltage, {tid}", shortest, module, "maximum power", hot_cell, "physics"
    )
    today_v = today and _voltage(
        ledger, f"strings.{tid}.today_v", f"Open-circuit voltage expected today, {tid}", longest, module, "open", today, "physics"
    )
    limit = _limit(ledger, inverter, tracker, module)
    low = ledger.read(inverter, f"trackers.{tid}.v_min", "V_low", "Bottom of the tracker's window", "V")
    start = ledger.read(inverter, f"trackers.{tid}.v_start", "V_start", "Start-up voltage", "V")
    operating, maximum = _currents(ledger, tracker, inverter, module, len(strings))
    most, least = _counts(ledger, tid, limit, low, start, module, cold, hot_cell)
    field = f"strings.{longest.id}.modules"
    ledger.verdict(
        "PV-COLD-VOC",
        cold_v.value <= limit.value,
        tid,
        f"{tid} reaches {cold_v.value:.1f} V on the coldest morning; the limit is {limit.value:g} V.",
        f"Take it to {most.value:.0f} modules or fewer, or split the string.",
        found=cold_v,
        limit=limit,
        field=field,
    )
    ledger.verdict(
        "PV-HOT-LOW",
        hot_v.value >= low.value,
        tid,
        f"{tid} falls to {hot_v.value:.1f} V on a hot day; its window begins at {low.value:g} V.",
        f"Give it at least {least.value:.0f} modules.",
        found=hot_v,
        limit=low,
        field=field,
    )
    ledger.verdict(
        "PV-START",
        hot_v.value >= start.value,
        tid,
        f"{tid} works at {hot_v.value:.1f} V when hot; the tracker starts at {start.value:g} V, so a hot restart may fail.",
        f"Give it at least {least.value:.0f} modules.",
        found=hot_v,
        limit=start,
        field=field,
    )
    alike = len({(s.modules, s.face) for s in strings}) == 1
    ledger.verdict(
        "PV-UNLIKE",
        alike,
        tid,
        f"{tid} carries strings of unlike length or face.",
        "Give each its own tracker, or make them alike.",
        field=field,
    )
    ledger.verdict(
        "PV-LABEL",
        all(s.label_top and s.label_top == s.label_bottom for s in strings),
        tid,
        f"A string on {tid} is not labelled alike at both ends.",
        "Write the same label at the roof and at the inverter.",
        field=f"strings.{longest.id}.label_bottom",
    )
    return TrackerPlan(
        tracker, strings, face, longest.modules, cold_v, hot_v, limit, low, start, operating, maximum, most, least, today_v or None
    )


def _check_faces(ledger: Ledger) -> None:
    for face in ledger.job.faces:
        used = sum(s.modules for s in ledger.job.strings if s.face == face.id)
        ledger.verdict(
            "PV-FACE-FULL",
            used <= face.columns * face.rows,
            face.title,
            f"{face.title} has {face.columns * face.rows} places; {used} modules are planned on it.",
            "Move modules to another face or add places.",
            field=f"faces.{face.id}.columns",
        )


def plan_strings(ledger: Ledger) -> StringsPlan | None:
    """Work out the Strings station; None while a temperature is missing."""
    cold = ledger.asked(
        "site.record_low_c",
        "T",
        "Record low air temperature",
        "°C",
        "survey",
        "Record low temperature?",
        "String voltage on the coldest morning",
    )
    summer = ledger.asked(
        "site.summer_high_c",
        "T_air",
        "Summer design air temperature",
        "°C",
        "survey",
        "Summer design temperature?",
        "String voltage on a hot day",
    )
    today = ledger.asked(
        "site.cell_today_c",
        "T",
        "Cell temperature today",
        "°C",
        "prove",
        "Cell temperature today?",
        "Expected string voltage at the dead tests",
    )
    inverter, module = ledger.card("inverter"), ledger.card("module")
    _check_faces(ledger)
    if cold is None or summer is None:
        return None
    plans = []
    for tracker in inverter.trackers:
        strings = tuple(s for s in ledger.job.strings if s.tracker == tracker.id)
        if strings and (plan := _plan_tracker(ledger, tracker, strings, cold, summer, today)):
            plans.append(plan)
    for string in ledger.job.strings:
        ledger.verdict(
            "PV-NO-TRACKER",
            any(t.id == string.tracker for t in inverter.trackers),
            string.id,
            f"{string.id} is on {string.tracker}, which this inverter does not have.",
            "Choose a tracker of this inverter.",
            field=f"strings.{string.id}.tracker",
        )
    counts = tuple(ledger.decided(f"strings.{s.id}.modules", f"n{i}", f"Modules in {s.id}", "") for i, s in enumerate(ledger.job.strings))
    watt = ledger.read(module, "power_w", "P_mod", "Module power", "W")
    power = ledger.work(
        "strings.power",
        "P_pv",
        "PV power",
        sum(f.value for f in counts) * watt.value,
        "W",
        "arith",
        f"({' + '.join(f.symbol for f in counts) or '0'}) * P_mod",
        (*counts, watt),
    )
    pv_max = ledger.read(inverter, "pv_max_w", "P_pv_max", "PV power the inverter accepts", "W")
    ledger.verdict(
        "PV-POWER",
        power.value <= pv_max.value,
        "array",
        f"{power.value:.0f} W of modules; the inverter accepts {pv_max.value:.0f} W.",
        "Take modules off or choose a larger inverter.",
        found=power,
        limit=pv_max,
    )
    return StringsPlan(tuple(plans), power)
