"""How does NEC 2023 size a conductor?"""

from __future__ import annotations

from gumboot.core.errors import OutOfRange
from gumboot.core.figure import Figure
from gumboot.core.job.model import Run
from gumboot.core.ledger import Ledger
from gumboot.core.plan.sizing import Demand, Laid, size_figure
from gumboot.core.rulebook.north_american import conductors as nec
from gumboot.core.rulebook.north_american.earthing import grounding_size, upsized_grounding
from gumboot.core.rulebook.north_american.overcurrent import SMALL_CEILING_A, largest_device_a, next_standard_a

INSULATION_C: nec.Column = 90


def usable_ampacity_a(size: str, column: nec.Column, f_a: float, f_g: float, material: str = "copper") -> float:
    """Ampacity in A that may be used: the derated insulation column, never above the terminal column."""
    return min(nec.ampacity_a(size, INSULATION_C, material) * f_a * f_g, nec.ampacity_a(size, column, material))


def smallest_size(
    design_a: float,
    continuous_a: float,
    device_a: float | None,
    column: nec.Column,
    f_a: float,
    f_g: float,
    material: str = "copper",
    sets: int = 1,
) -> str:
    """Smallest size that passes 210.19 before factors, 310.15 after them, and 240.4 for its device; ``sets`` in parallel (310.10(G))."""
    for size in nec.TABLE[material]:
        if sets > 1 and not nec.parallel_sets_allowed(size, material):
            continue
        usable = sets * usable_ampacity_a(size, column, f_a, f_g, material)
        carries = sets * nec.ampacity_a(size, column, material) >= continuous_a - 1e-9 and usable >= design_a - 1e-9
        if carries and (device_a is None or device_a <= largest_device_a(size, usable, material) + 1e-9):
            return size
    raise OutOfRange(
        "design current",
        f"{design_a:.0f} A",
        f"{'one' if sets == 1 else sets} {material} conductor{'s' if sets > 1 else ''} up to 500 kcmil",
        "NEC 2023 Table 310.16",
        "Use parallel sets.",
    )


def _table_a(run: Run, size: str) -> float:
    """Table value in A by the kind of cable: 310.16, or 400.5(A) for flexible cable and cord."""
    if run.cable == "cord":
        return nec.cord_ampacity_a(size, 3)
    return (
        nec.flexible_cable_ampacity_a(size, INSULATION_C)
        if run.cable == "flexible cable"
        else nec.ampacity_a(size, INSULATION_C, run.material)
    )


class NecWiring:
    """Sizing by NEC 2023."""

    base_source = "nec.310.16"
    exhausted = "500 kcmil"

    def factors(self, ledger: Ledger, cid: str, run: Run, ambient: Figure) -> tuple[Figure, Figure]:
        """Ambient correction in the 90 °C column, with the rooftop adder, and grouping adjustment."""
        air = ambient
        if run.roof_height_mm is not None:
            height = ledger.decided(f"runs.{run.id}.roof_height_mm", "h", "Height above the roof", "mm")
            adder = nec.rooftop_ambient_c(0.0, height.value)
            air = ledger.work(
                f"circuits.{cid}.roof_ambient",
                "T_roof",
                "Ambient in the sun on the roof",
                ambient.value + adder,
                "°C",
                "nec.310.15b2",
                f"T_a + {adder:g}",
                (ambient, height),
                limits="33 K more below 22 mm (7/8 in) above the roof.",
            )
        count = ledger.decided(f"runs.{run.id}.current_carrying", "n_cc", "Current-carrying conductors in the raceway", "")
        value = nec.ambient_factor(air.value, INSULATION_C)
        f_a = ledger.work(
            f"circuits.{cid}.ambient_factor",
            "F_a",
            "Ambient correction",
            value,
            "",
            "nec.310.15b",
            given=(air,),
            limits="90 °C column, 30 °C base.",
        )
        f_g = ledger.work(
            f"circuits.{cid}.grouping_factor",
            "F_g",
            "Grouping adjustment",
            nec.grouping_factor(int(count.value)),
            "",
            "nec.310.15c",
            given=(count,),
        )
        return f_a, f_g

    def device_min(self, ledger: Ledger, cid: str, demand: Demand, run: Run) -> Figure:
        """Next rating of Table 240.6(A)."""
        return ledger.work(
            f"circuits.{cid}.device_min",
            "I_n_min",
            "Smallest standard device",
            next_standard_a(demand.continuous_a.value),
            "A",
            "nec.240.6a",
            given=(demand.continuous_a,),
            limits="Next rating of Table 240.6(A) at or above 125 % of the design current."
            if not run.fully_rated
            else "Next rating of Table 240.6(A) at or above the design current: listed for 100 %.",
        )

    def _column(self, laid: Laid, device: Figure | None) -> nec.Column:
        return nec.terminal_column_c((device or laid.demand.continuous_a).value, laid.terminal_c)

    def smallest(self, laid: Laid, device: Figure | None) -> tuple[str, str]:
        """Smallest size by 210.19, 310.15, 110.14(C) and 240.4."""
        run, demand, column = laid.run, laid.demand, self._column(laid, device)
        code = smallest_size(
            demand.design_a.value,
            demand.continuous_a.value,
            device.value if device else None,
            column,
            laid.f_a.value,
            laid.f_g.value,
            run.material,
            run.sets,
        )
        return code, (
            f"Smallest size whose {column} °C column reaches {demand.continuous_a.value:.1f} A, whose 90 °C column after factors reaches "
            f"{demand.design_a.value:.1f} A, and which its device protects."
        )

    def ampacity(self, laid: Laid, size: str, device: Figure | None) -> tuple[Figure, Figure]:
        """Insulation column with factors, never above the terminal column; times the parallel sets."""
        ledger, cid, run, column = laid.ledger, laid.cid, laid.run, self._column(laid, device)
        flexible = run.cable != "building wire"
        in_table = _table_a(run, size)
        table = ledger.work(
            f"circuits.{cid}.table_ampacity",
            "I_t90",
            f"Ampacity of {size}, " + ("three conductors in a cord" if run.cable == "cord" else "90 °C column"),
            in_table,
            "A",
            "nec.400.5" if flexible else "nec.310.16",
        )
        cap = ledger.work(
            f"circuits.{cid}.terminal_ampacity",
            "I_term",
            f"Ampacity of {size} at {column} °C terminals",
            nec.ampacity_a(size, column, run.material),
            "A",
            "nec.110.14c",
        )
        one = min(in_table * laid.f_a.value * laid.f_g.value, cap.value)
        given: tuple[Figure, ...] = (table, laid.f_a, laid.f_g, cap)
        formula = "min(I_t90 * F_a * F_g, I_term)"
        if run.sets > 1:
            count = ledger.decided(f"runs.{run.id}.sets", "n_set", "Parallel conductors of each pole", "")
            formula, given = f"n_set * {formula}", (*given, count)
        usable = ledger.work(
            f"circuits.{cid}.ampacity", "I_z", f"Ampacity of {size} as laid", run.sets * one, "A", "nec.310.16", formula, given
        )
        return table, usable

    def largest_device(self, laid: Laid, size: str, usable: Figure) -> Figure:
        """240.4(B) and (D)."""
        capped = size in SMALL_CEILING_A[laid.run.material]
        return laid.ledger.work(
            f"circuits.{laid.cid}.device_most",
            "I_n_max",
            "Largest device for this conductor",
            largest_device_a(size, usable.value, laid.run.material),
            "A",
            "nec.240.4d" if capped else "nec.240.4b",
            given=(usable,),
            limits="Next standard rating above the ampacity; 240.4(D) caps 14, 12 and 10 AWG.",
        )

    def earth(self, laid: Laid, basis: Figure, code: str, installed: str) -> tuple[Figure, str]:
        """Table 250.122 by the device, grown by 250.122(B)."""
        ledger, cid, material = laid.ledger, laid.cid, laid.run.material
        base = grounding_size(basis.value, material)
        table = size_figure(ledger, f"circuits.{cid}.earth_table", "A_e0", "Earth conductor by device", base, "nec.250.122", (basis,))
        grown = upsized_grounding(base, code, installed, material)
        required = size_figure(
            ledger,
            f"circuits.{cid}.earth_required",
            "A_e",
            "Earth conductor required",
            grown,
            "nec.250.122b",
            (table,),
            "Grown by the ratio of installed to required circuit conductor; never above the circuit conductor.",
        )
        return required, grown

    def resistance(self, laid: Laid, size: str) -> Figure:
        """Chapter 9 Table 8."""
        return laid.ledger.work(
            f"circuits.{laid.cid}.ohm_per_km",
            "r",
            f"Resistance of {size} at 75 °C",
            nec.resistance_ohm_per_km(size, laid.run.material),
            "ohm/km",
            "nec.ch9t8",
        )

    def reactance(self, laid: Laid, size: str) -> Figure:
        """Chapter 9 Table 9, by the raceway."""
        steel = laid.run.raceway in ("EMT", "FMC")
        return laid.ledger.work(
            f"circuits.{laid.cid}.reactance",
            "x",
            f"Reactance of {size} in {'steel' if steel else 'plastic'} raceway",
            nec.reactance_ohm_per_km(size, "steel" if steel else "pvc"),
            "ohm/km",
            "nec.ch9t9",
        )
