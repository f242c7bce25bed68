"""How does NEC 2023 size a conductor?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core import sizes
from gumboot.core.errors import OutOfRange
from gumboot.core.expression import Expression, least, named
from gumboot.core.figure import Figure
from gumboot.core.rulebook.books.draft import Draft, Put, draft
from gumboot.core.rulebook.books.wiring import Core, EarthFor, Laying, Load
from gumboot.core.rulebook.north_american import conductors as nec
from gumboot.core.rulebook.north_american.earthing import grounding_size, upsized_grounding
from gumboot.core.rulebook.north_american.overcurrent import (
    CONTINUOUS_FACTOR,
    SMALL_CEILING_A,
    continuous_minimum_a,
    largest_device_a,
    next_standard_a,
)

FLEXIBLE_C: nec.Column = 90
NOT_ON_ROOFS = ("XHHW-2",)
BATTERY_KINDS = ("battery", "battery-unit", "interlink")


def usable_ampacity_a(size: str, columns: tuple[nec.Column, nec.Column], f_a: float, f_g: float, material: str = "copper") -> float:
    """Ampacity in A that may be used: the derated insulation column, never above the terminal column; ``columns`` are both."""
    insulation, terminal = columns
    return min(nec.ampacity_a(size, insulation, material) * f_a * f_g, nec.ampacity_a(size, terminal, material))


def smallest_size(
    load_a: tuple[float, float, float | None],
    columns: tuple[nec.Column, nec.Column],
    factors: tuple[float, float],
    material: str = "copper",
    sets: int = 1,
) -> str:
    """Smallest size that passes 210.19 before factors, 310.15 after them, and 240.4 for its device; ``sets`` in parallel (310.10(G)).

    ``load_a`` is design current, current before factors and device; ``columns`` those of insulation and terminals, °C. Raises OutOfRange when the table is exhausted.
    """
    design_a, continuous_a, device_a = load_a
    for size in nec.TABLE[material]:
        if sets > 1 and not nec.parallel_sets_allowed(size, material):
            continue
        usable = sets * usable_ampacity_a(size, columns, *factors, material)
        carries = sets * nec.ampacity_a(size, columns[1], material) >= continuous_a - 1e-9 and usable >= design_a - 1e-9
        if carries and (device_a is None or device_a <= largest_device_a(size, usable, material) + 1e-9):
            return size
    raise OutOfRange(
        "design current",
        f"{design_a:.0f} A",
        f"{'one' if sets == 1 else sets} {material} conductor{'s' if sets > 1 else ''} up to 500 kcmil",
        "NEC 2023 Table 310.16",
        "Use parallel sets.",
    )


def _insulation_c(laying: Laying) -> nec.Column:
    """The column of a conductor's insulation; flexible cable and cord have their own tables."""
    return nec.insulation_c(laying.insulation) if laying.cable == "building wire" else FLEXIBLE_C


def _table_a(laying: Laying, size: str) -> float:
    """Table value in A by the kind of cable: 310.16, or 400.5(A) for flexible cable and cord."""
    if laying.cable == "cord":
        return nec.cord_ampacity_a(size, 3)
    if laying.cable == "flexible cable":
        return nec.flexible_cable_ampacity_a(size, FLEXIBLE_C)
    return nec.ampacity_a(size, _insulation_c(laying), laying.material)


def of_sets(laying: Laying, one: Expression) -> Expression:
    """What the parallel conductors of a pole carry together."""
    return laying.sets_figure * one if laying.sets > 1 and laying.sets_figure is not None else one


class NecWiring:
    """Sizing by NEC 2023."""

    base_source, drop_source, counted, grouping_source = "nec.310.16", "nec.ch9t8", "current_carrying", "nec.310.15c"
    protection_source, cold_source, usual_insulation = "nec.240.4b", "nec.ch9t8", "THWN-2"
    switches_neutral, names_curve = False, False
    insulations: tuple[str, ...] = tuple(nec.INSULATION_C)

    def sizes(self) -> tuple[str, ...]:
        """Trade sizes of Table 310.16."""
        return nec.SIZES

    def lying(self, poles: Sequence[int], kind: str, length_mm: float | None) -> int:
        """Current-carrying conductors are counted."""
        return nec.current_carrying(poles, kind, length_mm)

    def continuous(self, design: Figure, fully_rated: bool) -> Draft | None:
        """125 % of a continuous load (210.19(A), 215.2), unless device and enclosure are listed for 100 %."""
        if fully_rated:
            return None
        return draft("I_c", "125 % of the design current", CONTINUOUS_FACTOR * design, "A", "nec.210.19")

    def factors(self, laying: Laying, put: Put) -> tuple[Figure, Figure]:
        """Ambient correction in the column of the insulation, with the rooftop adder, and grouping adjustment."""
        air, column = laying.ambient, _insulation_c(laying)
        if laying.roof_height is not None and laying.insulation not in NOT_ON_ROOFS:
            adder = nec.rooftop_ambient_c(0.0, laying.roof_height.value)
            words = f"{{0}} + {adder:g} at {{1}}"
            warm = named(words, air.value + adder, air, laying.roof_height)
            limits = "33 K more below 22 mm (7/8 in) above the roof; since 2020 below 19 mm (3/4 in), from memory: the larger stands."
            air = put("roof_ambient", draft("T_roof", "Ambient in the sun on the roof", warm, "°C", "nec.310.15b2", limits=limits))
        corrected = nec.ambient_factor(air, column)
        limits = f"{column} °C column, 30 °C base."
        return (
            put("ambient_factor", draft("F_a", "Ambient correction", corrected, "", "nec.310.15b", limits=limits)),
            put("grouping_factor", draft("F_g", "Grouping adjustment", nec.grouping_factor(laying.together), "", "nec.310.15c")),
        )

    def device_min(self, continuous: Figure, laying: Laying) -> Draft:
        """Next rating of Table 240.6(A)."""
        limits = "Next rating of Table 240.6(A) at or above 125 % of the design current."
        return draft("I_n_min", "Smallest standard device", next_standard_a(continuous), "A", "nec.240.6a", limits=limits)

    def device_for(self, steady: Figure, rest: Figure, fully_rated: bool, kind: str, put: Put) -> Figure:
        """210.20(A) and 215.3, then Table 240.6(A)."""
        least_a = continuous_minimum_a(steady, rest, fully_rated)
        wanted = put("least", draft("I_min", "Rating wanted", least_a, "A", "nec.210.20"))
        return put("device", draft("I_n", "Next standard device", next_standard_a(wanted), "A", "nec.240.6a"))

    def _column(self, laying: Laying, device: Figure | None) -> nec.Column:
        by_ends = nec.terminal_column_c(device.value if device else 0.0, laying.terminal_c)
        return nec.cable_column_c(laying.insulation, by_ends) if laying.cable == "building wire" else by_ends

    def smallest(self, laying: Laying, load: Load, factors: tuple[Figure, Figure]) -> tuple[str, str]:
        """Smallest size that passes 210.19, 310.15, 110.14(C) and 240.4."""
        device, column, insulation = load.device, self._column(laying, load.device), _insulation_c(laying)
        wanted = (load.design.value, load.continuous.value, device.value if device else None)
        code = smallest_size(wanted, (insulation, column), (factors[0].value, factors[1].value), laying.material, laying.sets)
        return code, (
            f"Smallest size whose {column} °C column reaches {load.continuous.value:.1f} A, whose {insulation} °C column after factors reaches "
            f"{load.design.value:.1f} A, and which its device protects."
        )

    def ampacity(self, laying: Laying, size: str, load: Load, factors: tuple[Figure, Figure], put: Put) -> tuple[Figure, Figure]:
        """Insulation column with factors, never above the terminal column; times the parallel sets."""
        column, cord = self._column(laying, load.device), laying.cable == "cord"
        name = f"Ampacity of {size}, " + ("three conductors in a cord" if cord else f"{_insulation_c(laying)} °C column")
        source = "nec.310.16" if laying.cable == "building wire" else "nec.400.5"
        table = put("table_ampacity", draft("I_t90", name, _table_a(laying, size), "A", source))
        at_end = nec.ampacity_a(size, column, laying.material)
        cap = put("terminal_ampacity", draft("I_term", f"Ampacity of {size} at {column} °C terminals", at_end, "A", "nec.110.14c"))
        one = least(table * factors[0] * factors[1], cap)
        usable = put("ampacity", draft("I_z", f"Ampacity of {size} as laid", of_sets(laying, one), "A", "nec.310.16"))
        return table, usable

    def largest_device(self, laying: Laying, size: str, usable: Figure) -> Draft:
        """240.4(B) and (D)."""
        capped = size in SMALL_CEILING_A[laying.material]
        most = largest_device_a(size, usable.value, laying.material)
        words = "ceiling of 240.4(D) for {size}, at {0}" if capped else "next standard rating from {0}"
        return draft(
            "I_n_max",
            "Largest device for this conductor",
            named(words.replace("{size}", size), most, usable),
            "A",
            "nec.240.4d" if capped else "nec.240.4b",
            limits="Next standard rating above the ampacity; 240.4(D) caps 14, 12 and 10 AWG.",
        )

    def earth(self, core: Core, of: EarthFor, put: Put) -> Figure:
        """Table 250.122 by the device, grown by 250.122(B)."""
        base = grounding_size(of.basis.value, core.material)
        by_table = named("row of Table 250.122 for {0}", sizes.area_mm2(base), of.basis)
        table = put("earth_table", draft("A_e0", "Earth conductor by device", by_table, "mm2", "nec.250.122", label=base))
        grown = upsized_grounding(base, of.code, of.installed.label, core.material)
        limits = "Grown by the ratio of installed to required circuit conductor; never above the circuit conductor."
        larger = named("next size from {0} grown as the conductor", sizes.area_mm2(grown), table)
        return put("earth_required", draft("A_e", "Earth conductor required", larger, "mm2", "nec.250.122b", label=grown, limits=limits))

    def resistance(self, core: Core, size: str, put: Put) -> Figure:
        """Chapter 9 Table 8."""
        value = nec.resistance_ohm_per_km(size, core.material)
        return put("ohm_per_km", draft("r", f"Resistance of {size} at 75 °C", value, "ohm/km", "nec.ch9t8"))

    def cold_share(self, insulation: str | None, material: str) -> float:
        """Chapter 9 Table 8 note 2, from the 75 °C of the table."""
        return nec.resistance_at(1.0, material, 20.0)

    def reactance(self, core: Core, size: str) -> Draft:
        """Chapter 9 Table 9, by the raceway."""
        value = nec.reactance_ohm_per_km(size, "steel" if core.steel else "pvc")
        return draft("x", f"Reactance of {size} in {'steel' if core.steel else 'plastic'} raceway", value, "ohm/km", "nec.ch9t9")

    def parallel_allowed(self, size: str) -> bool:
        """310.10(G)(1)."""
        return nec.parallel_sets_allowed(size)

    def cord_allowed(self, kind: str) -> bool:
        """400.12: no fixed wiring; a cord may join a portable generator."""
        return kind == "generator"

    def flexible_allowed(self, kind: str, size: str) -> bool:
        """706.32(A): between batteries and their box, from 2/0 AWG."""
        return kind in BATTERY_KINDS and nec.battery_cable_allowed(size)
