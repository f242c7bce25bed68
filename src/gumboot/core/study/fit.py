"""Which cards fit this job, and why does another not?"""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.card import ModuleCard, Shelf
from gumboot.core.card.model import AnyCard, BatteryCard, BoardCard, CtCard, InverterCard, SwitchFuseCard, TransferCard
from gumboot.core.card.parts import older
from gumboot.core.job import Job
from gumboot.core.rulebook.books import book
from gumboot.core.rulebook.north_american.battery import inverter_input_current_a
from gumboot.core.rulebook.north_american.photovoltaic import maximum_circuit_current_a
from gumboot.core.seats import KIND_OF_ROLE


@dataclass(frozen=True)
class Fit:
    """A card for a role with what speaks against it; ``ratings`` are its numbers in a line."""

    card: AnyCard
    ratings: str
    against: tuple[str, ...]

    @property
    def fits(self) -> bool:
        """Whether nothing speaks against it."""
        return not self.against


OUTPUT_OF_SUPPLY = {"split phase": ("split phase",), "single phase": ("single phase",), "three phase": ("three phase", "single phase")}


def ratings(card: AnyCard) -> str:
    """The numbers a person chooses by."""
    match card:
        case InverterCard():
            return f"{card.output} {card.output_w:g} W, battery {card.battery.v_min:g} to {card.battery.v_max:g} V, {len(card.trackers)} PV inputs"
        case BatteryCard():
            return f"{card.chemistry}, {card.nominal_v:g} V, {card.energy_wh / 1000:g} kWh, {card.discharge_a:g} A"
        case ModuleCard():
            return f"{card.power_w:g} W, {card.voc_v:g} V, {card.isc_a:g} A"
        case CtCard():
            return f"{card.rated_a:g} A, {card.ratio}"
        case SwitchFuseCard():
            return f"{card.rated_a:g} A, {card.voltage_dc:g} V DC, breaks {card.interrupting_a:g} A"
        case BoardCard():
            main = f", main {card.main_device_a:g} A" if card.main_device_a else ""
            dc = f", {card.dc_voltage:g} V DC" if card.dc_voltage else ""
            return f"busbar {card.busbar_a:g} A{main}{dc}"
        case TransferCard():
            return f"{card.style}, {card.rated_a:g} A"
        case _:
            return ""


def battery_against(battery: BatteryCard, inverter: InverterCard, job: Job, count: int) -> tuple[str, ...]:
    """Why a battery does not fit an inverter: window, current, chemistry, protocol, firmware, list, temperature."""
    found, port = [], inverter.battery
    series = count if battery.in_series else 1
    if battery.in_series and not battery.series_min <= count <= battery.series_max:
        # Judged at the nearest count that the maker allows, so that the card is not refused for a count that can be changed.
        series = min(max(count, battery.series_min), battery.series_max)
    low, high = series * battery.v_min, series * battery.v_max
    if low < port.v_min or high > port.v_max:
        found.append(f"voltage: {low:g} to {high:g} V against the inverter's {port.v_min:g} to {port.v_max:g} V")
    if battery.chemistry not in port.chemistries:
        found.append(f"chemistry: {battery.chemistry} against {', '.join(port.chemistries)}")
    if inverter.bank_internal != (battery.arrangement == "docked"):
        found.append(
            "it docks inside another maker's unit" if battery.arrangement == "docked" else "this inverter takes only its own modules inside"
        )
    if port.accepts and battery.id not in port.accepts:
        found.append("it is not on the inverter maker's battery list")
    if inverter.protocols and battery.protocols:
        theirs = {(p.name, p.bus): p for p in battery.protocols}
        shared = [p for p in inverter.protocols if (p.name, p.bus) in theirs]
        if not shared:
            found.append(
                f"protocol: it speaks {', '.join(p.name for p in battery.protocols)}, the inverter {', '.join(p.name for p in inverter.protocols)}"
            )
        else:
            found += [
                f"firmware: {p.name} needs the inverter at {p.firmware_min}" for p in shared if older(inverter.firmware, p.firmware_min)
            ][:1]
            found += [
                f"firmware: {p.name} needs the battery at {q.firmware_min}"
                for p in shared
                if older(battery.firmware, (q := theirs[p.name, p.bus]).firmware_min)
            ][:1]
    most_parallel = 1 if battery.in_series else battery.units_max
    need = inverter_input_current_a(inverter.output_w, series * battery.v_low_operating, port.efficiency)
    most = battery.discharge_a * most_parallel
    if most < need:
        found.append(f"current: {need:.0f} A are drawn at full output, {most_parallel} in parallel give {most:.0f} A at most")
    if job.site.room_low_c is not None and job.site.room_low_c < battery.charge_min_c:
        found.append(f"temperature: the place falls to {job.site.room_low_c:g} °C, it charges from {battery.charge_min_c:g} °C")
    return tuple(found)


def inverter_against(inverter: InverterCard, job: Job) -> tuple[str, ...]:
    """Why an inverter does not fit the supply, the equipment that is chosen beside it, or the place."""
    found, supply = [], job.site.supply
    if supply != "none" and inverter.output not in OUTPUT_OF_SUPPLY[supply]:
        found.append(f"it gives {inverter.output}, the network brings {supply}")
    if supply == "none" and inverter.role not in ("off-grid", "hybrid"):
        found.append("it needs a grid")
    ports = {p.id for p in inverter.ports}
    gateway = "AC" in ports
    if gateway and not job.equipment.transfer:
        found.append("it needs its transfer box or gateway chosen with it")
    if job.equipment.generator and "GEN" not in ports:
        found.append("it has no generator input")
    if job.site.room_high_c is not None and job.site.room_high_c > inverter.ambient_max_c:
        found.append(f"the place reaches {job.site.room_high_c:g} °C, it works to {inverter.ambient_max_c:g} °C")
    if job.site.room_low_c is not None and job.site.room_low_c < inverter.ambient_min_c:
        found.append(f"the place falls to {job.site.room_low_c:g} °C, it works from {inverter.ambient_min_c:g} °C")
    return tuple(found)


def _against(card: AnyCard, role: str, job: Job, inverter: InverterCard) -> tuple[str, ...]:
    found = []
    match card:
        case InverterCard():
            return inverter_against(card, job)
        case BatteryCard():
            return battery_against(card, inverter, job, len(job.bank.units))
        case ModuleCard():
            if inverter.trackers and all(maximum_circuit_current_a(card.isc_a, 1) > t.isc_max_a for t in inverter.trackers):
                found.append(
                    f"current: {maximum_circuit_current_a(card.isc_a, 1):.1f} A against {max(t.isc_max_a for t in inverter.trackers):g} A of every input"
                )
            if (
                card.system_v_max < book(job.rule_book).pv_limit_v
                and inverter.trackers
                and card.system_v_max < min(t.v_min for t in inverter.trackers)
            ):
                found.append("its system voltage is below the trackers' window")
        case CtCard():
            if job.site.service_main_a is not None and card.rated_a < job.site.service_main_a:
                found.append(f"{card.rated_a:g} A against a main of {job.site.service_main_a:g} A")
        case BoardCard():
            ports = {p.id for p in card.ports}
            wants = {"roof_box": "EARTH", "busbar_box": "BATTERIES", "sub_board": "MAIN", "main_board": "BREAKER"}[role]
            if wants not in ports:
                found.append("it has not the terminals for this place")
            if role == "roof_box" and card.dc_voltage is None and not any(p.id.startswith(("PV", "A", "S")) for p in card.ports):
                found.append("no strings land in it")
        case _:
            pass
    return tuple(found)


def fits(job: Job, shelf: Shelf, role: str) -> tuple[Fit, ...]:
    """Every card of a role's kind, those that fit first, each with what speaks against it."""
    inverter = shelf[job.equipment.inverter]
    if not isinstance(inverter, InverterCard):
        raise TypeError("a job has an inverter")
    cards = [c for c in shelf.values() if c.kind == KIND_OF_ROLE[role]]
    rows = [Fit(c, ratings(c), _against(c, role, job, inverter)) for c in cards]
    if KIND_OF_ROLE[role] == "board":
        # A busbar box is never a backed-up board: what cannot stand in a place is not listed for it.
        rows = [r for r in rows if "it has not the terminals for this place" not in r.against]
    return tuple(sorted(rows, key=lambda r: (not r.fits, r.card.title)))
