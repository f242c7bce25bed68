"""How do IEC 60364 and its variants size a conductor?"""

from __future__ import annotations

from gumboot.core.errors import NotInTable, OutOfRange
from gumboot.core.figure import Figure
from gumboot.core.job.model import Run
from gumboot.core.ledger import Ledger
from gumboot.core.plan.sizing import Demand, Laid, size_figure
from gumboot.core.rulebook.common.conductors import warm_conductor_c
from gumboot.core.rulebook.iec_family import conductors as iec
from gumboot.core.rulebook.iec_family.earthing import protective_area_mm2
from gumboot.core.rulebook.iec_family.overcurrent import RATINGS_A, coordinated, least_capacity_a, next_rating_a
from gumboot.core.rulebook.iec_family.photovoltaic import frame_earth_mm2


def bare(size: str) -> str:
    """Cross-section as the tables write it, from ``16 mm2``. Raises NotInTable for a trade size."""
    number = size.removesuffix(" mm2")
    if number == size:
        raise NotInTable("conductor size", size, "cross-sections in mm2", "IEC 60228", "Choose a size in mm2 under this rule book.")
    return number


def insulation_of(run: Run) -> iec.Insulation:
    """Insulation of a run; PVC where nothing else is decided, the lower of the two."""
    return "XLPE" if run.insulation in ("XLPE", "XHHW-2", "RHW-2") else "PVC"


def loaded(demand: Demand) -> int:
    """Loaded conductors: three in a three-phase circuit, else two."""
    return 3 if demand.flow == "three-phase" else 2


def as_laid_a(run: Run, demand: Demand, number: str, f_a: float, f_g: float) -> float:
    """Current-carrying capacity in A of a cross-section with its factors, all parallel conductors together."""
    table = iec.capacity_a(number, run.method, insulation_of(run), loaded(demand), run.material)
    return run.sets * table * f_a * f_g


class IecWiring:
    """Sizing by IEC 60364-4-43, -5-52 and -5-54."""

    base_source = "iec.52"
    exhausted = "120 mm2"

    def factors(self, ledger: Ledger, cid: str, run: Run, ambient: Figure) -> tuple[Figure, Figure]:
        """Ambient factor (with the soil's, in ground) and grouping factor."""
        in_ground = run.method in ("D1", "D2")
        value = iec.ambient_factor(ambient.value, insulation_of(run), in_ground)
        given: tuple[Figure, ...] = (ambient,)
        if in_ground and run.soil_km_per_w is not None:
            soil = ledger.decided(f"runs.{run.id}.soil_km_per_w", "rho_s", "Thermal resistivity of the soil", "K m/W")
            value *= iec.soil_factor(soil.value, run.method == "D2")
            given = (ambient, soil)
        f_a = ledger.work(
            f"circuits.{cid}.ambient_factor",
            "F_a",
            "Ambient factor" + (" with the soil's" if len(given) > 1 else ""),
            value,
            "",
            "iec.52.soil" if len(given) > 1 else "iec.52.ambient",
            given=given,
            limits=f"{insulation_of(run)}, base {'20 °C in ground' if in_ground else '30 °C in air'}; the next hotter row is taken.",
        )
        count = ledger.decided(f"runs.{run.id}.circuits_together", "n_c", "Circuits laid together", "")
        f_g = ledger.work(
            f"circuits.{cid}.grouping_factor",
            "F_g",
            "Grouping factor",
            iec.grouping_factor(int(count.value), run.single_layer),
            "",
            "iec.52.grouping",
            given=(count,),
            limits="In one layer." if run.single_layer else "Bunched.",
        )
        return f_a, f_g

    def device_min(self, ledger: Ledger, cid: str, demand: Demand, run: Run) -> Figure:
        """Next standard rating at or above the design current."""
        family = run.device_kind
        try:
            least = next_rating_a(demand.continuous_a.value, family)
        except OutOfRange:
            # Above the largest miniature breaker a fuse of the same standard series stands.
            family, least = "gG fuse", next_rating_a(demand.continuous_a.value, "gG fuse")
        return ledger.work(
            f"circuits.{cid}.device_min",
            "I_n_min",
            "Smallest standard device",
            least,
            "A",
            "iec.60898",
            given=(demand.continuous_a,),
            limits=f"Next standard {family} rating, {RATINGS_A[family][0]:g} to {RATINGS_A[family][-1]:g} A.",
        )

    def smallest(self, laid: Laid, device: Figure | None) -> tuple[str, str]:
        """Smallest cross-section with Ib <= In <= Iz and I2 <= 1.45 Iz."""
        run, demand = laid.run, laid.demand
        least = demand.design_a.value
        if device is not None:
            least = max(least, least_capacity_a(device.value, run.device_kind))
        for number in iec.sizes(run.material):
            if as_laid_a(run, demand, number, laid.f_a.value, laid.f_g.value) >= least - 1e-9:
                return f"{number} mm2", (
                    f"Smallest {run.material} {insulation_of(run)} by method {run.method} ({iec.METHODS[run.method]}), {loaded(demand)} loaded, "
                    f"whose capacity as laid reaches {least:.1f} A."
                )
        raise OutOfRange(
            "design current",
            f"{least:.0f} A",
            f"{'one' if run.sets == 1 else run.sets} {run.material} conductor{'s' if run.sets > 1 else ''} up to {iec.SIZES[-1]} mm2",
            "IEC 60364-5-52 Annex B",
            "Use parallel conductors or a better method.",
        )

    def ampacity(self, laid: Laid, size: str, device: Figure | None) -> tuple[Figure, Figure]:
        """Table value with its factors; times the parallel conductors."""
        ledger, cid, run, number = laid.ledger, laid.cid, laid.run, bare(size)
        table = ledger.work(
            f"circuits.{cid}.table_ampacity",
            "I_t",
            f"Capacity of {size}, method {run.method}, {insulation_of(run)}, {loaded(laid.demand)} loaded",
            iec.capacity_a(number, run.method, insulation_of(run), loaded(laid.demand), run.material),
            "A",
            "iec.52",
        )
        given: tuple[Figure, ...] = (table, laid.f_a, laid.f_g)
        formula = "I_t * F_a * F_g"
        if run.sets > 1:
            count = ledger.decided(f"runs.{run.id}.sets", "n_set", "Parallel conductors of each pole", "")
            formula, given = f"n_set * {formula}", (*given, count)
        usable = ledger.work(
            f"circuits.{cid}.ampacity",
            "I_z",
            f"Capacity of {size} as laid",
            as_laid_a(run, laid.demand, number, laid.f_a.value, laid.f_g.value),
            "A",
            "iec.52",
            formula,
            given,
        )
        self._warmth(laid, usable)
        return table, usable

    def _warmth(self, laid: Laid, usable: Figure) -> None:
        """Conductor temperature at the design current; in air, where the ambient is what it was asked as."""
        ledger, cid, run = laid.ledger, laid.cid, laid.run
        if run.method in ("D1", "D2"):
            return
        ambient, limit = (
            ledger.decided(f"runs.{run.id}.ambient_c", "T_a", "Hottest air along the route", "°C"),
            iec.LIMIT_C[insulation_of(run)],
        )
        amps = laid.demand.design_a
        ledger.work(
            f"circuits.{cid}.warm_c",
            "T_w",
            "Conductor temperature at the design current",
            warm_conductor_c(ambient.value, limit, amps.value, usable.value),
            "°C",
            "iec.52.523",
            f"T_a + ({limit:g} - T_a) * ({amps.symbol} / I_z) ** 2",
            (ambient, amps, usable),
        )

    def largest_device(self, laid: Laid, size: str, usable: Figure) -> Figure:
        """Largest standard rating that co-ordinates with the conductor."""
        kind = laid.run.device_kind
        fitting = [r for r in RATINGS_A[kind] if coordinated(0.0, r, usable.value, kind)]
        # A rating between the standard ones (a battery's own device) is judged by the capacity itself.
        most = max([*fitting, usable.value if kind == "breaker" else 0.0])
        return laid.ledger.work(
            f"circuits.{laid.cid}.device_most",
            "I_n_max",
            "Largest device for this conductor",
            most,
            "A",
            "iec.43.433",
            given=(usable,),
            limits="In <= Iz and I2 <= 1.45 Iz; a fuse's I2 is 1.6 In.",
        )

    def earth(self, laid: Laid, basis: Figure, code: str, installed: str) -> tuple[Figure, str]:
        """Table 54.2 by the line conductor installed; at least 4 mm2 where it bonds a PV frame."""
        area = protective_area_mm2(float(bare(installed)))
        framed = laid.kind == "pv" and area < frame_earth_mm2(False)
        area = frame_earth_mm2(False) if framed else area
        grown = next((f"{n} mm2" for n in iec.SIZES if float(n) >= area - 1e-9), installed)
        line = laid.ledger.figures[f"circuits.{laid.cid}.installed"]
        required = size_figure(
            laid.ledger,
            f"circuits.{laid.cid}.earth_required",
            "A_e",
            "Earth conductor required",
            grown,
            "iec.62548.e" if framed else "iec.54.2",
            (line,),
            "At least 4 mm2 where it bonds the frames of modules."
            if framed
            else "S up to 16 mm2, 16 mm2 up to 35, half above, rounded up to a standard size; it grows with its line conductor.",
        )
        return required, grown

    def resistance(self, laid: Laid, size: str) -> Figure:
        """IEC 60228 at the conductor's limit temperature."""
        run = laid.run
        flexible, limit = run.wire_class == "fine strand", iec.LIMIT_C[insulation_of(run)]
        cold = laid.ledger.work(
            f"circuits.{laid.cid}.ohm_per_km_20",
            "r_20",
            f"Resistance of {size} at 20 °C, class {5 if flexible and run.material == 'copper' else 2}",
            iec.resistance_20c_ohm_per_km(bare(size), run.material, flexible and run.material == "copper"),
            "ohm/km",
            "iec.60228",
        )
        return laid.ledger.work(
            f"circuits.{laid.cid}.ohm_per_km",
            "r",
            f"Resistance of {size} at {limit:g} °C",
            iec.resistance_ohm_per_km(bare(size), run.material, limit, flexible and run.material == "copper"),
            "ohm/km",
            "iec.60228",
            f"r_20 * (1 + {iec.ALPHA[run.material]} * ({limit:g} - 20))",
            (cold,),
        )

    def reactance(self, laid: Laid, size: str) -> Figure:
        """0.08 ohm/km where nothing else is known (Annex G)."""
        return laid.ledger.work(
            f"circuits.{laid.cid}.reactance", "x", f"Reactance of {size}", iec.REACTANCE_OHM_PER_KM, "ohm/km", "iec.52.g"
        )
