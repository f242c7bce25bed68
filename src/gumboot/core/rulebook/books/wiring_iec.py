"""How do IEC 60364 and its variants size a conductor?"""

from __future__ import annotations

from collections.abc import Sequence
from typing import cast

from gumboot.core import sizes
from gumboot.core.errors import NotInTable, OutOfRange
from gumboot.core.expression import named
from gumboot.core.figure import Figure
from gumboot.core.rulebook.books.draft import Draft, Put, draft
from gumboot.core.rulebook.books.wiring import Core, DeviceKind, EarthFor, Laying, Load
from gumboot.core.rulebook.books.wiring_nec import of_sets
from gumboot.core.rulebook.common.conductors import warm_conductor_c
from gumboot.core.rulebook.iec_family import conductors as iec
from gumboot.core.rulebook.iec_family.earthing import apart_area_mm2, protective_area_mm2
from gumboot.core.rulebook.iec_family.overcurrent import RATINGS_A, DeviceFamily, coordinated, least_capacity_a, next_rating_a
from gumboot.core.rulebook.iec_family.photovoltaic import frame_earth_mm2

IN_GROUND = ("D1", "D2")
# The cross-sections of Annex B with their areas, mm2.
AREAS = [(f"{text} mm2", float(text)) for text in iec.SIZES]


def bare(size: str) -> str:
    """Cross-section as the tables write it, from ``16 mm2``. Raises NotInTable for a trade size."""
    text = size.removesuffix(" mm2")
    if text == size:
        raise NotInTable("conductor size", size, "cross-sections in mm2", "IEC 60228", "Choose a size in mm2 under this rule book.")
    return text


def insulation_of(laid: str | None) -> iec.Insulation:
    """Insulation of a run; PVC where nothing else is decided, the lower of the two."""
    return "XLPE" if laid in ("XLPE", "XHHW-2", "RHW-2") else "PVC"


def _capacity_a(laying: Laying, text: str) -> float:
    method = cast(iec.Method, laying.method)
    return iec.capacity_a(text, method, insulation_of(laying.insulation), laying.loaded, laying.material)


class IecWiring:
    """Sizing by IEC 60364-4-43, -5-52 and -5-54."""

    base_source, drop_source, counted, grouping_source = "iec.52", "iec.52.g", "circuits_together", "iec.52.grouping"
    protection_source, cold_source, usual_insulation = "iec.43.433", "iec.60228", "PVC"
    insulations: tuple[str, ...] = ("PVC", "XLPE")
    switches_neutral, names_curve = True, True

    def sizes(self) -> tuple[str, ...]:
        """Cross-sections of Annex B."""
        return tuple(f"{text} mm2" for text in iec.SIZES)

    def lying(self, poles: Sequence[int], kind: str, length_mm: float | None) -> int:
        """Circuits are counted, whatever conductors they have."""
        return len(poles)

    def continuous(self, design: Figure, fully_rated: bool) -> Draft | None:
        """A device carries its rating."""
        return None

    def factors(self, laying: Laying, put: Put) -> tuple[Figure, Figure]:
        """Ambient factor (with the soil's, in ground) and grouping factor."""
        in_ground, insulation = laying.method in IN_GROUND, insulation_of(laying.insulation)
        value, name, source = iec.ambient_factor(laying.ambient, insulation, in_ground), "Ambient factor", "iec.52.ambient"
        if in_ground and laying.soil is not None:
            value, name, source = (
                value * iec.soil_factor(laying.soil, laying.method == "D2"),
                "Ambient factor with the soil's",
                "iec.52.soil",
            )
        limits = f"{insulation}, base {'20 °C in ground' if in_ground else '30 °C in air'}; the next hotter row is taken."
        together = iec.grouping_factor(laying.together, laying.single_layer)
        layer = "In one layer." if laying.single_layer else "Bunched."
        return (
            put("ambient_factor", draft("F_a", name, value, "", source, limits=limits)),
            put("grouping_factor", draft("F_g", "Grouping factor", together, "", "iec.52.grouping", limits=layer)),
        )

    def device_min(self, continuous: Figure, laying: Laying) -> Draft:
        """Next standard rating at or above the design current."""
        kind: DeviceKind = laying.device_kind
        try:
            rating = next_rating_a(continuous, kind)
        except OutOfRange:
            # Above the largest miniature breaker a fuse of the same standard series stands.
            kind = "gG fuse"
            rating = next_rating_a(continuous, kind)
        limits = f"Next standard {kind} rating, {RATINGS_A[kind][0]:g} to {RATINGS_A[kind][-1]:g} A."
        return draft("I_n_min", "Smallest standard device", rating, "A", "iec.60898", limits=limits)

    def device_for(self, steady: Figure, rest: Figure, fully_rated: bool, kind: str, put: Put) -> Figure:
        """433.1, then the standard ratings of the kind."""
        wanted = put("least", draft("I_min", "Rating wanted", steady + rest, "A", "iec.43.433"))
        rating = next_rating_a(wanted, cast(DeviceFamily, kind))
        return put("device", draft("I_n", f"Next standard {kind}", rating, "A", "iec.60898"))

    def smallest(self, laying: Laying, load: Load, factors: tuple[Figure, Figure]) -> tuple[str, str]:
        """Smallest cross-section with Ib <= In <= Iz and I2 <= 1.45 Iz."""
        wanted = load.design.value
        if load.device is not None:
            wanted = max(wanted, least_capacity_a(load.device.value, laying.device_kind))
        method, insulation = cast(iec.Method, laying.method), insulation_of(laying.insulation)
        ambient, grouping = factors[0].value, factors[1].value
        for text in iec.sizes(laying.material, method):
            one = iec.capacity_a(text, method, insulation, laying.loaded, laying.material)
            if laying.sets * one * ambient * grouping >= wanted - 1e-9:
                how = f"method {method} ({iec.METHODS[method]}), {laying.loaded} loaded"
                kind = f"{laying.material} {insulation}"
                return f"{text} mm2", f"Smallest {kind} by {how}, whose capacity as laid reaches {wanted:.1f} A."
        raise OutOfRange(
            "design current",
            f"{wanted:.0f} A",
            f"{'one' if laying.sets == 1 else laying.sets} {laying.material} conductor{'s' if laying.sets > 1 else ''} "
            f"up to {iec.SIZES[-1]} mm2",
            "IEC 60364-5-52 Annex B",
            "Use parallel conductors or a better method.",
        )

    def ampacity(self, laying: Laying, size: str, load: Load, factors: tuple[Figure, Figure], put: Put) -> tuple[Figure, Figure]:
        """Table value with its factors; times the parallel conductors."""
        name = f"Capacity of {size}, method {laying.method}, {insulation_of(laying.insulation)}, {laying.loaded} loaded"
        table = put("table_ampacity", draft("I_t", name, _capacity_a(laying, bare(size)), "A", "iec.52"))
        as_laid = of_sets(laying, table * factors[0] * factors[1])
        usable = put("ampacity", draft("I_z", f"Capacity of {size} as laid", as_laid, "A", "iec.52"))
        if laying.method not in IN_GROUND:
            # In air, where the ambient is what it was asked as.
            limit_c = iec.LIMIT_C[insulation_of(laying.insulation)]
            warm = warm_conductor_c(laying.ambient, limit_c, load.design, usable)
            put("warm_c", draft("T_w", "Conductor temperature at the design current", warm, "°C", "iec.52.523"))
        return table, usable

    def largest_device(self, laying: Laying, size: str, usable: Figure) -> Draft:
        """Largest standard rating that co-ordinates with the conductor."""
        kind = laying.device_kind
        # A rating between the standard ones (a battery's own device) is judged by the capacity itself.
        most, capacity = usable.value if kind == "breaker" else 0.0, usable.value
        for rating in reversed(RATINGS_A[kind]):
            if coordinated(0.0, rating, capacity, kind):
                most = max(rating, most)
                break
        return draft(
            "I_n_max",
            "Largest device for this conductor",
            named("largest rating that {0} co-ordinates with", most, usable),
            "A",
            "iec.43.433",
            limits="In <= Iz and I2 <= 1.45 Iz; a fuse's I2 is 1.6 In.",
        )

    def earth(self, core: Core, of: EarthFor, put: Put) -> Figure:
        """Table 54.2 by the line conductor installed; at least 4 mm2 where it bonds a PV frame."""
        area = protective_area_mm2(float(bare(of.installed.label)))
        framed = core.kind == "pv" and area < frame_earth_mm2(False)
        area = frame_earth_mm2(False) if framed else area
        apart = core.earth_laid != "with its lines" and area < apart_area_mm2(core.material, protected="protected" in core.earth_laid)
        area = apart_area_mm2(core.material, protected="protected" in core.earth_laid) if apart else area
        grown = next((size for size, has in AREAS if has >= area - 1e-9), of.installed.label)
        limits = (
            "It lies apart from its lines: 2.5 mm2 copper with mechanical protection, 4 mm2 without, aluminium 16 mm2."
            if apart
            else "At least 4 mm2 where it bonds the frames of modules."
            if framed
            else "S up to 16 mm2, 16 mm2 up to 35, half above, rounded up to a standard size; it grows with its line conductor."
        )
        value = named("row of Table 54.2 for {0}", sizes.area_mm2(grown), of.installed)
        source = "iec.54.543.1.3" if apart else "iec.62548.e" if framed else "iec.54.2"
        return put("earth_required", draft("A_e", "Earth conductor required", value, "mm2", source, label=grown, limits=limits))

    def resistance(self, core: Core, size: str, put: Put) -> Figure:
        """IEC 60228 at the conductor's limit temperature."""
        copper = core.material == "copper"
        flexible, limit_c = core.fine_strand and copper, core.conductor_c
        limit_c = iec.LIMIT_C[insulation_of(core.insulation)] if limit_c is None else limit_c
        name = f"Resistance of {size} at 20 °C, class {5 if flexible else 2}"
        cold = iec.resistance_20c_ohm_per_km(bare(size), core.material, flexible)
        at_20 = put("ohm_per_km_20", draft("r_20", name, cold, "ohm/km", "iec.60228"))
        warm = iec.warmed_ohm_per_km(at_20, core.material, limit_c)
        return put("ohm_per_km", draft("r", f"Resistance of {size} at {limit_c:g} °C", warm, "ohm/km", "iec.60228"))

    def cold_share(self, insulation: str | None, material: str) -> float:
        """The linear law from the conductor's limit temperature back to the 20 °C of IEC 60228."""
        return 1.0 / iec.warmed_ohm_per_km(1.0, material, iec.LIMIT_C[insulation_of(insulation)])

    def reactance(self, core: Core, size: str) -> Draft:
        """0.08 ohm/km where nothing else is known (Annex G)."""
        return draft("x", f"Reactance of {size}", iec.REACTANCE_OHM_PER_KM, "ohm/km", "iec.52.g")

    def parallel_allowed(self, size: str) -> bool:
        """523.7 asks for alike conductors, not for a size."""
        return True

    def cord_allowed(self, kind: str) -> bool:
        """Flexible cables are sized as they are laid."""
        return True

    def flexible_allowed(self, kind: str, size: str) -> bool:
        """Flexible cables are sized as they are laid."""
        return True
