"""What voltage and current does each tracker see, coldest and hottest, and how many modules may it take?"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

from gumboot.core.card import ModuleCard
from gumboot.core.card.model import Tracker
from gumboot.core.figure import Figure, constant
from gumboot.core.job.model import Face, String
from gumboot.core.ledger import Ledger
from gumboot.core.plan.places import places
from gumboot.core.plan.topology import tracker_places
from gumboot.core.rulebook.iec_family import photovoltaic as iec
from gumboot.core.rulebook.north_american import photovoltaic as pv


@dataclass(frozen=True)
class TrackerPlan:
    """One tracker with its string: voltages, limits, currents and the allowed count."""

    tracker: Tracker
    place: str
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
    optimised: bool = False


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


def _voltage_source(ledger: Ledger) -> str:
    return "nec.690.7" if ledger.book.family == "nec" else "iec.62548.v"


def _current_source(ledger: Ledger) -> str:
    return "nec.690.8a" if ledger.book.family == "nec" else "iec.62548.i"


def _limit(ledger: Ledger, inverter: Any, tracker: Tracker, module: ModuleCard) -> Figure:
    book = ledger.book
    candidates = (
        ledger.read(inverter, f"trackers.{tracker.id}.v_max", "V_in", "Inverter's maximum PV voltage", "V"),
        ledger.read(module, "system_v_max", "V_sys", "Module's maximum system voltage", "V"),
        ledger.keep(constant("V_dw", "PV voltage limit of the rule book at a dwelling", book.pv_limit_v, "V", book.pv_limit_source)),
    )
    return ledger.work(
        f"strings.{tracker.id}.limit_v",
        "V_lim",
        "Never above",
        min(c.value for c in candidates),
        "V",
        _voltage_source(ledger),
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
        _voltage_source(ledger),
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
            _voltage_source(ledger),
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


def _terminal(ledger: Ledger, tracker: Tracker, inverter: Any, strings: tuple[String, ...], maximum: Figure) -> None:
    """What one terminal carries, or two under the maker's own bridge; no other bridge may be used."""
    tid, bridged = tracker.id, any(s.bridge for s in strings)
    term = ledger.read(inverter, f"trackers.{tid}.terminal_max_a", "I_term", "Current one terminal carries", "A")
    if bridged:
        other = [s.id for s in ledger.job.strings if tracker.bridge_with and s.tracker == tracker.bridge_with]
        if tracker.bridge_max_a is None:
            words = "and its maker has none."
        elif other:
            words = f"and it takes the terminal of {tracker.bridge_with}, on which {', '.join(other)} lands."
        else:
            words = f"and one terminal carries its {maximum.value:.1f} A already."
        ledger.verdict(
            "PV-BRIDGE",
            tracker.bridge_max_a is not None and maximum.value > term.value and not other,
            tid,
            f"A bridge is set on {tid}, {words}",
            f"Leave {tracker.bridge_with} free, or take the bridge out." if other else "Take the bridge out.",
            found=maximum,
            limit=term,
            field=f"strings.{strings[0].id}.bridge",
        )
    if bridged and tracker.bridge_max_a is not None:
        term = ledger.read(inverter, f"trackers.{tid}.bridge_max_a", "I_term", "Current two terminals carry under the maker's bridge", "A")
    ledger.verdict(
        "PV-TERMINAL-CURRENT",
        maximum.value <= term.value,
        tid,
        f"{tid} may see {maximum.value:.1f} A; {'two bridged terminals carry' if bridged else 'one terminal carries'} {term.value:g} A.",
        "Use the maker's bridge over two terminals."
        if tracker.bridge_max_a and not bridged
        else "Land the strings on separate terminals or use a module of less current.",
        found=maximum,
        limit=term,
        field=f"strings.{strings[0].id}.bridge",
    )


def _fuses(ledger: Ledger, tid: str, module: ModuleCard, parallel: int) -> None:
    """String fuses, where the other strings together could feed a fault with more than the module bears."""
    nec = ledger.book.family == "nec"
    needed = (pv if nec else iec).string_fuse_needed(parallel, module.isc_a, module.fuse_max_a)
    most = ledger.read(module, "fuse_max_a", "I_fmax", "Largest fuse the module bears", "A")
    short = ledger.read(module, "isc_a", "I_sc", "Module short-circuit current", "A")
    low = pv.string_fuse_minimum_a(module.isc_a) if nec else iec.string_fuse_range_a(module.isc_a, module.fuse_max_a)[0]
    high = module.fuse_max_a if nec else iec.string_fuse_range_a(module.isc_a, module.fuse_max_a)[1]
    if not needed and ledger.job.string_fuse_a is None:
        return
    least = ledger.work(
        f"strings.{tid}.fuse_least",
        "I_f_min",
        "Smallest string fuse",
        low,
        "A",
        "nec.690.9" if nec else "iec.62548.i",
        "1.25 * 1.25 * I_sc" if nec else "1.5 * I_sc",
        (short,),
    )
    fuse = None
    if ledger.job.string_fuse_a is not None:
        fuse = ledger.decided("string_fuse_a", "I_f", "String fuse", "A")
    ledger.verdict(
        "PV-FUSE",
        fuse is not None and low - 1e-9 <= fuse.value <= high + 1e-9,
        tid,
        f"{parallel} strings meet on {tid}: "
        + (
            f"the others can feed a fault above the {most.value:g} A that a module bears, and no fuse is chosen."
            if fuse is None
            else f"a {fuse.value:g} A string fuse lies outside {low:.1f} to {high:.1f} A."
        ),
        f"Fit a string fuse of {low:.1f} to {high:.1f} A in each string.",
        found=fuse or least,
        limit=most,
        field="string_fuse_a",
    )


def _isolator(ledger: Ledger, tid: str, cold_v: Figure, maximum: Figure) -> None:
    """Voltage and current rating of the box or isolator at the roof. A card that is silent about DC is a stop: an AC rating says nothing."""
    if not ledger.has("roof_box"):
        return
    if ledger.card("roof_box").dc_voltage is None:
        ledger.verdict(
            "PV-ISOLATOR",
            False,
            tid,
            f"{ledger.card('roof_box').title} at the roof gives no DC rating; {tid} reaches {cold_v.value:.0f} V DC.",
            "Choose a box or isolator with a DC rating. An AC rating says nothing about DC.",
            found=cold_v,
            field="equipment.roof_box",
        )
        return
    volts = ledger.read(ledger.card("roof_box"), "dc_voltage", "U_e", "DC rating of the isolator at the roof", "V")
    amps = ledger.read(ledger.card("roof_box"), "busbar_a", "I_e", "DC current of the isolator at the roof", "A")
    enough = cold_v.value <= volts.value and maximum.value <= amps.value
    by_volts = cold_v.value > volts.value
    ledger.verdict(
        "PV-ISOLATOR",
        enough,
        tid,
        f"{tid} reaches {cold_v.value:.0f} V and {maximum.value:.1f} A; the isolator is rated {volts.value:g} V and {amps.value:g} A DC.",
        "Choose an isolator with the DC rating.",
        found=cold_v if by_volts else maximum,
        limit=volts if by_volts else amps,
        field="equipment.roof_box",
    )


def _tabulated(ledger: Ledger, tid: str, string: String, module: ModuleCard, cold: Figure) -> None:
    """The same voltage by the table of 690.7(A)(2), beside the one that is judged: the check an inspector makes."""
    if ledger.book.family != "nec" or cold.value < -40:
        return
    count = ledger.decided(f"strings.{string.id}.modules", "n", "Modules in series", "")
    stc = ledger.read(module, "voc_v", "V_oc", "Module voltage at 25 °C, open circuit", "V")
    factor = ledger.work(
        f"strings.{tid}.table_factor",
        "F_T",
        "Voltage correction by the table",
        pv.tabulated_correction(cold.value),
        "",
        "nec.690.7t",
        given=(cold,),
    )
    ledger.work(
        f"strings.{tid}.cold_table_v",
        "V_T",
        f"Cold open-circuit voltage by the table, {tid}",
        string.modules * stc.value * factor.value,
        "V",
        "nec.690.7t",
        "n * V_oc * F_T",
        (count, stc, factor),
        limits="For crystalline silicon whose maker gives no coefficient; the maker's coefficient is judged.",
    )


def _currents(ledger: Ledger, tracker: Tracker, inverter: Any, module: ModuleCard, held: tuple[String, ...]) -> tuple[Figure, Figure]:
    tid, parallel = tracker.id, len(held)
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
        _current_source(ledger),
        "1.25 * N * I_sc",
        (strings, ledger.read(module, "isc_a", "I_sc", "Module short-circuit current", "A")),
    )
    op_limit = ledger.read(inverter, f"trackers.{tid}.i_max_a", "I_trk", "Tracker's operating current limit", "A")
    sc_limit = ledger.read(inverter, f"trackers.{tid}.isc_max_a", "I_trk_sc", "Tracker's short-circuit current limit", "A")
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
    _terminal(ledger, tracker, inverter, held, maximum)
    _fuses(ledger, tid, module, parallel)
    return operating, maximum


def _plan_tracker(
    ledger: Ledger,
    place: str,
    inverter: Any,
    tracker: Tracker,
    strings: tuple[String, ...],
    cold: Figure,
    summer: Figure,
    today: Figure | None,
) -> TrackerPlan | None:
    module, tid = ledger.card("module"), tracker.id
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
    cold_v = _voltage(
        ledger, f"strings.{tid}.cold_v", f"Cold open-circuit voltage, {tid}", longest, module, "open", cold, _voltage_source(ledger)
    )
    _tabulated(ledger, tid, longest, module, cold)
    hot_v = _voltage(
        ledger, f"strings.{tid}.hot_v", f"Hot operating voltage, {tid}", shortest, module, "maximum power", hot_cell, "physics"
    )
    today_v = today and _voltage(
        ledger, f"strings.{tid}.today_v", f"Open-circuit voltage expected today, {tid}", longest, module, "open", today, "physics"
    )
    limit = _limit(ledger, inverter, tracker, module)
    low = ledger.read(inverter, f"trackers.{tid}.v_min", "V_low", "Bottom of the tracker's window", "V")
    start = ledger.read(inverter, f"trackers.{tid}.v_start", "V_start", "Start-up voltage", "V")
    operating, maximum = _currents(ledger, tracker, inverter, module, strings)
    _isolator(ledger, tid, cold_v, maximum)
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
    _check_labels(ledger, tid, (longest, *(s for s in strings if s is not longest)))
    return TrackerPlan(
        tracker, place, strings, face, longest.modules, cold_v, hot_v, limit, low, start, operating, maximum, most, least, today_v or None
    )


def _check_faces(ledger: Ledger) -> None:
    for face in ledger.job.faces:
        used = sum(s.modules for s in ledger.job.strings if s.face == face.id)
        count = places(face, ledger.card("module") if ledger.has("module") else None)
        holds = ledger.work(
            f"faces.{face.id}.holds",
            "n_face",
            f"Places on {face.title.lower()}",
            float(count),
            "",
            "cp.clear",
            limits="Whole modules between the setbacks and clear of obstacles, packed by rows; columns and rows where no size is entered.",
        )
        ledger.verdict(
            "PV-FACE-FULL",
            used <= count,
            face.title,
            f"{face.title} has {count} places; {used} modules are planned on it.",
            "Move modules to another face or make room.",
            limit=holds,
            field=f"faces.{face.id}.{'columns' if face.width_mm is None else 'width_mm'}",
        )


def plan_strings(ledger: Ledger) -> StringsPlan | None:
    """Work out the Strings station; None without strings, or while a temperature is missing."""
    if not ledger.job.strings:
        if ledger.has("module"):
            ledger.gap(
                "strings",
                "strings",
                "Which modules are joined to which tracker?",
                "Voltage and current of the strings; choose no module if there is no PV",
            )
        return None
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
    _check_faces(ledger)
    trackers = tracker_places(ledger)
    _check_trackers(ledger, {t.id for _, _, t in trackers})
    _check_mode(ledger)
    _check_shutdown(ledger)
    if cold is None or summer is None:
        return None
    plans = []
    for place, card, tracker in trackers:
        strings = tuple(s for s in ledger.job.strings if s.tracker == tracker.id)
        if strings:
            plan = (
                plan_optimised(ledger, place, card, tracker, strings)
                if ledger.has("optimiser")
                else _plan_tracker(ledger, place, card, tracker, strings, cold, summer, today)
            )
            plans += [plan] if plan else []
    return StringsPlan(tuple(plans), _power(ledger))


def _check_trackers(ledger: Ledger, known: set[str]) -> None:
    for string in ledger.job.strings:
        ledger.verdict(
            "PV-NO-TRACKER",
            string.tracker in known,
            string.id,
            f"{string.id} is on {string.tracker}, which this inverter does not have.",
            "Choose a tracker of this inverter.",
            field=f"strings.{string.id}.tracker",
        )


def _check_mode(ledger: Ledger) -> None:
    """Independent or parallel inputs as the strings really land: parallel mode wants identical strings."""
    job, inverter = ledger.job, ledger.card("inverter")
    own = [s for s in job.strings if any(t.id == s.tracker for t in inverter.trackers)]
    if not own:
        return
    alike = len({(s.modules, s.face) for s in own}) == 1
    settable = job.pv_mode in inverter.pv_modes
    words = (
        f"this inverter's inputs cannot be set to {job.pv_mode}"
        if not settable
        else "parallel inputs join strings of unlike length or face"
    )
    ledger.verdict(
        "PV-MODE",
        settable and (job.pv_mode == "independent" or alike),
        "inputs",
        f"The PV inputs: {words}.",
        "Set the inputs to independent, or make the strings identical.",
        field="pv_mode",
    )


def _check_shutdown(ledger: Ledger) -> None:
    if ledger.book.family != "nec" or not ledger.job.strings:
        return
    fitted = ledger.job.site.rapid_shutdown
    if fitted is None:
        ledger.gap("site.rapid_shutdown", "survey", "Is rapid shutdown of the array fitted?", "Whether a fire crew can make the roof dead")
    ledger.verdict(
        "PV-SHUTDOWN",
        fitted is not False,
        "array",
        "The array on this building has no rapid shutdown.",
        "Fit listed shutdown equipment at the modules and its initiator outside; take the factory bridge out.",
        field="site.rapid_shutdown",
    )


def _power(ledger: Ledger) -> Figure:
    counts = tuple(ledger.decided(f"strings.{s.id}.modules", f"n{i}", f"Modules in {s.id}", "") for i, s in enumerate(ledger.job.strings))
    watt = ledger.read(ledger.card("module"), "power_w", "P_mod", "Module power", "W")
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
    cards = [(ledger.card("inverter"), "P_inv_max"), *([(ledger.card("pv_inverter"), "P_pvi_max")] if ledger.has("pv_inverter") else [])]
    parts = tuple(ledger.read(c, "pv_max_w", symbol, f"PV power {c.title} accepts", "W") for c, symbol in cards if c.trackers)
    if not parts:
        # No inverter of this job has a tracker; each string has said so already.
        return power
    most = parts[0]
    if len(parts) > 1:
        most = ledger.work(
            "strings.power_most",
            "P_pv_max",
            "PV power all inverters accept",
            sum(f.value for f in parts),
            "W",
            "arith",
            " + ".join(f.symbol for f in parts),
            parts,
        )
    ledger.verdict(
        "PV-POWER",
        power.value <= most.value,
        "array",
        f"{power.value:.0f} W of modules; the inverter accepts {most.value:.0f} W.",
        "Take modules off or choose a larger inverter.",
        found=power,
        limit=most,
    )
    return power


def plan_optimised(ledger: Ledger, place: str, inverter: Any, tracker: Tracker, strings: tuple[String, ...]) -> TrackerPlan | None:
    """A tracker whose modules each have an optimiser: fixed string voltage, limits of count and power from the card."""
    card, module, tid = ledger.card("optimiser"), ledger.card("module"), tracker.id
    face = next((f for f in ledger.job.faces if f.id == strings[0].face), None)
    if face is None:
        ledger.gap("faces", "strings", f"Which roof face does {strings[0].id} lie on?", f"Voltage of {tid}")
        return None
    fixed = ledger.read(card, "string_v", "V_fix", "String voltage that the inverter holds", "V")
    least, most = (
        ledger.read(card, "count_min", "n_min", "Fewest modules in an optimised string", ""),
        ledger.read(card, "count_max", "n_max", "Most modules in an optimised string", ""),
    )
    watt = ledger.read(module, "power_w", "P_mod", "Module power", "W")
    top = ledger.read(card, "string_max_w", "P_max", "Most power of an optimised string", "W")
    for string in strings:
        count = ledger.decided(f"strings.{string.id}.modules", "n", "Modules in series", "")
        ledger.verdict(
            "PV-OPTIMISER-COUNT",
            least.value <= count.value <= most.value,
            string.id,
            f"{string.id} has {count.value:.0f} optimised modules; {least.value:.0f} to {most.value:.0f} are allowed.",
            "Lengthen or split the string.",
            found=count,
            limit=most if count.value > most.value else least,
            field=f"strings.{string.id}.modules",
        )
        power = ledger.work(
            f"strings.{string.id}.power",
            "P_str",
            f"Power of {string.id}",
            count.value * watt.value,
            "W",
            "cp.optimiser",
            "n * P_mod",
            (count, watt),
        )
        ledger.verdict(
            "PV-OPTIMISER-POWER",
            power.value <= top.value,
            string.id,
            f"{string.id} has {power.value:.0f} W; an optimised string may have {top.value:.0f} W.",
            "Take modules off or split the string.",
            found=power,
            limit=top,
            field=f"strings.{string.id}.modules",
        )
    n = ledger.work(f"strings.{tid}.parallel", "N", "Strings in parallel", float(len(strings)), "", "arith")
    amps = ledger.read(card, "output_max_a", "I_opt", "Largest output current of an optimiser", "A")
    maximum = ledger.work(
        f"strings.{tid}.maximum_a",
        "I_max",
        "Maximum circuit current",
        len(strings) * amps.value,
        "A",
        "cp.optimiser",
        "N * I_opt",
        (n, amps),
    )
    limit = _limit(ledger, inverter, tracker, module)
    ledger.verdict(
        "PV-COLD-VOC",
        fixed.value <= limit.value,
        tid,
        f"{tid} is held at {fixed.value:g} V; the limit is {limit.value:g} V.",
        "Choose other optimisers.",
        found=fixed,
        limit=limit,
    )
    _terminal(ledger, tracker, inverter, strings, maximum)
    _isolator(ledger, tid, fixed, maximum)
    _check_labels(ledger, tid, strings)
    low = ledger.read(inverter, f"trackers.{tid}.v_min", "V_low", "Bottom of the tracker's window", "V")
    start = ledger.read(inverter, f"trackers.{tid}.v_start", "V_start", "Start-up voltage", "V")
    # Before the inverter commands them, optimisers give about one volt each: that is what a meter finds at the dead tests.
    return TrackerPlan(
        tracker,
        place,
        strings,
        face,
        strings[0].modules,
        fixed,
        fixed,
        limit,
        low,
        start,
        maximum,
        maximum,
        most,
        least,
        None,
        optimised=True,
    )


def _check_labels(ledger: Ledger, tid: str, strings: tuple[String, ...]) -> None:
    ledger.verdict(
        "PV-LABEL",
        all(s.label_top and s.label_top == s.label_bottom for s in strings),
        tid,
        f"A string on {tid} is not labelled alike at both ends.",
        "Write the same label at the roof and at the inverter.",
        field=f"strings.{strings[0].id}.label_bottom",
    )
