"""Voltages of one input: coldest, hottest, today, the limit, and the counts that they allow."""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.card import ModuleCard
from gumboot.core.card.inverter import Tracker
from gumboot.core.expression import Expression, largest, least, whole_above, whole_below
from gumboot.core.figure import Figure, constant
from gumboot.core.job.model import Face
from gumboot.core.rulebook.north_american import photovoltaic as pv
from gumboot.core.rules.strings import Volts, Working
from gumboot.core.seats import Converter
from gumboot.core.values import Values
from gumboot.core.workbook import Workbook


class Weather(Values):
    """Air of the coldest morning and of a hot day, and the cells' temperature on the day of the dead tests where it is known."""

    coldest: Figure
    summer: Figure
    today: Figure | None = None


WHERE = {"dwelling": "at a dwelling", "other building": "on a building that is no dwelling", "ground": "on the ground"}


def strictest(faces: Sequence[Face]) -> str:
    """The strictest place of some faces: a dwelling before any other building, that before the ground."""
    return next((place for place in WHERE if any(face.building == place for face in faces)), "dwelling")


def book_limit(w: Workbook, building: str) -> Figure:
    """The voltage that the book allows PV circuits in a place."""
    found = constant(
        "V_dw", f"PV voltage limit of the rule book {WHERE[building]}", w.book.pv_limits_v[building], "V", w.book.pv_limit_source
    )
    # A house may have arrays in places of each kind.
    return w.keep(found if building == "dwelling" else found.renamed(key=f"{found.key}.{building.split(maxsplit=1)[0]}"))


def limit(w: Workbook, key: str, converter: Converter, tracker: Tracker, module: ModuleCard, *, building: str = "dwelling") -> Figure:
    """The voltage that is never exceeded: the least of inverter, module and the book's limit for the place."""
    candidates = (w.read(converter, f"trackers.{tracker.id}.v_max"), w.read(module, "system_v_max"), book_limit(w, building))
    return w.work(f"{key}.limit_v", "V_lim", "Never above", least(*candidates), "V", source=w.book.strings.voltage_source)


def open_voltage(w: Workbook, key: str, name: str, count: Figure, module: ModuleCard, *, cell: Figure, source: str) -> Figure:
    """Open-circuit voltage of a string at a cell temperature."""
    value = pv.string_voltage_v(count, w.read(module, "voc_v"), w.read(module, "voc_per_k"), cell)
    return w.work(key, "V", name, value, "V", source=source)


def working_voltage(w: Workbook, key: str, name: str, count: Figure, module: ModuleCard, *, cell: Figure) -> Figure:
    """Operating voltage of a string at a cell temperature."""
    value = pv.string_voltage_v(count, w.read(module, "vmp_v"), w.read(module, "vmp_per_k"), cell)
    return w.work(key, "V", name, value, "V", source="physics")


def tabulated(w: Workbook, key: str, place: str, count: Figure, module: ModuleCard, *, coldest: Figure) -> None:
    """The same voltage by the book's table, where it has one, beside the one that is judged: the check an inspector makes."""
    found = w.book.strings.tabulated_factor(coldest)
    if found is None:
        return
    factor = w.work(f"{key}.table_factor", "F_T", "Voltage correction by the table", found, "", source="nec.690.7t")
    w.work(
        f"{key}.cold_table_v",
        "V_T",
        f"Cold open-circuit voltage by the table, {place}",
        count * w.read(module, "voc_v") * factor,
        "V",
        source="nec.690.7t",
        limits="For crystalline silicon whose maker gives no coefficient; the maker's coefficient is judged.",
    )


def counts(
    w: Workbook, key: str, module: ModuleCard, limit_v: Figure, low: Figure, *, start: Figure, cells: tuple[Figure, Figure]
) -> tuple[Figure, Figure]:
    """Most and fewest modules in series; ``cells`` are the coldest and the hottest."""
    cold, hot, source = *cells, w.book.strings.voltage_source
    one_cold = pv.module_voltage_v(w.read(module, "voc_v"), w.read(module, "voc_per_k"), cold)
    one_hot = pv.module_voltage_v(w.read(module, "vmp_v"), w.read(module, "vmp_per_k"), hot)
    coldest = w.work(f"{key}.cold_one", "V_1c", "One module, coldest, open circuit", one_cold, "V", source=source)
    hottest = w.work(f"{key}.hot_one", "V_1h", "One module, hottest, at maximum power", one_hot, "V", source="physics")
    fewest = whole_above(largest(low, start) / hottest)
    return (
        w.work(f"{key}.count_most", "n_max", "Most modules in series", whole_below(limit_v / coldest), "", source=source),
        w.work(f"{key}.count_least", "n_min", "Fewest modules in series", fewest, "", source="physics"),
    )


class Hung(Values):
    """Modules on one input: the longest and the shortest of its strings, on a face that warms its cells."""

    place: str
    module: ModuleCard
    longest: Figure
    shortest: Figure
    cell_rise: Figure
    field: str = ""
    building: str = "dwelling"


def cell_rise(w: Workbook, hung: Hung) -> Figure | Expression:
    """How far the cells are above the air in full sun: by the mounting, and never less than what the module's maker measured in the open."""
    if hung.module.noct_c is None:
        return hung.cell_rise
    in_the_open = (w.read(hung.module, "noct_c") - 20) / 0.8
    key, name = f"module.{hung.module.id}.open_rise", "Cell above air in the open, full sun"
    return largest(hung.cell_rise, w.work(key, "dT_o", name, in_the_open, "K", source="noct.61215", limits="Measured at 800 W/m2, 20 °C."))


def full_power(w: Workbook, key: str, hung: Hung, converter: Converter, tracker: Tracker, *, air: Weather) -> Working:
    """Working voltages of the longest string on the coldest morning and with cells at 25 °C, against the top of the full-power window."""
    top = w.read(converter, f"trackers.{tracker.id}.v_full_max")
    cold = working_voltage(w, f"{key}.cold_work_v", f"Cold working voltage, {hung.place}", hung.longest, hung.module, cell=air.coldest)
    mild = hung.longest * w.read(hung.module, "vmp_v")
    usual = w.work(f"{key}.usual_v", "V_25", f"Working voltage with cells at 25 °C, {hung.place}", mild, "V", source="physics")
    return Working(place=hung.place, cold=cold, usual=usual, top=top, field=hung.field)


def volts(w: Workbook, key: str, hung: Hung, converter: Converter, tracker: Tracker, *, air: Weather) -> Volts:
    """Every voltage of one input, with the counts it allows."""
    place, module = hung.place, hung.module
    hot_cell = w.work(f"{key}.hot_cell", "T_cell", "Hottest cell", air.summer + cell_rise(w, hung), "°C", source="cp.celltemp")
    source = w.book.strings.voltage_source
    cold = open_voltage(w, f"{key}.cold_v", f"Cold open-circuit voltage, {place}", hung.longest, module, cell=air.coldest, source=source)
    hot = working_voltage(w, f"{key}.hot_v", f"Hot operating voltage, {place}", hung.shortest, module, cell=hot_cell)
    top = limit(w, key, converter, tracker, module, building=hung.building)
    low, start = w.read(converter, f"trackers.{tracker.id}.v_min"), w.read(converter, f"trackers.{tracker.id}.v_start")
    most, fewest = counts(w, key, module, top, low, start=start, cells=(air.coldest, hot_cell))
    return Volts(place=place, cold=cold, limit=top, hot=hot, low=low, start=start, most=most, fewest=fewest, field=hung.field)
