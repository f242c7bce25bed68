"""Which cards fit this job, and why does another not? The plan's own rules are asked of every card of a kind."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from gumboot.core.card import ModuleCard, Shelf
from gumboot.core.card.boxes import AnchorCard, BoardCard, CtCard, LineDeviceCard, ScrewCard, TransferCard
from gumboot.core.card.inverter import InverterCard
from gumboot.core.card.model import AnyCard
from gumboot.core.card.parts import Protocol
from gumboot.core.card.storage import BatteryCard, SwitchFuseCard
from gumboot.core.expression import Expression
from gumboot.core.figure import Figure
from gumboot.core.installation import House
from gumboot.core.job import Job
from gumboot.core.job.air import coldest_air, hottest_air
from gumboot.core.job.bank import Bank
from gumboot.core.job.things import GeneratorThing, InverterThing, TransferThing
from gumboot.core.plan.strings import currents
from gumboot.core.rulebook.books import book
from gumboot.core.rulebook.north_american.battery import inverter_input_current_a
from gumboot.core.rules import Breach, belonging, connection, links, sensing, site
from gumboot.core.rules import bank as rules
from gumboot.core.rules import strings as string_rules
from gumboot.core.seating import seats_of
from gumboot.core.workbook import Workbook


@dataclass(frozen=True)
class Fit:
    """A card for a role with what speaks against it, each as a rule says it; ``ratings`` are its numbers in a line."""

    card: AnyCard
    ratings: str
    against: tuple[str, ...]
    codes: tuple[str, ...] = ()

    @property
    def fits(self) -> bool:
        """Whether nothing speaks against it."""
        return not self.against


Said = Iterator[tuple[str, Breach | None]]


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
        case AnchorCard():
            return f"{card.diameter_mm:g} × {card.length_mm:g} mm, for {', '.join(base.base for base in card.bases)}"
        case ScrewCard():
            return f"{card.diameter_mm:g} × {card.length_mm:g} mm, {card.lateral_allowable_n:g} N sideways"
        case LineDeviceCard():
            return f"{card.speeds[0]}, {card.load} unit load, terminator: {card.terminator or 'not said'}"
        case TransferCard():
            return f"{card.style}, {card.rated_a:g} A"
        case _:
            return ""


def _fig(key: str, value: float | Expression, unit: str) -> Figure:
    return Figure(key, key, key, value, unit, source="arith")


def series_of(battery: BatteryCard, count: int) -> int:
    """Units in series: as planned, or the nearest number that the maker allows, so that no card is refused for what can be changed."""
    return min(max(count, battery.series_min), battery.series_max) if battery.in_series else 1


def _window(battery: BatteryCard, inverter: InverterCard, series: int) -> rules.Window:
    port = inverter.battery
    return rules.Window(
        bottom=_fig("bottom", series * battery.v_min, "V"),
        top=_fig("top", series * battery.v_max, "V"),
        low=_fig("low", port.v_min, "V"),
        high=_fig("high", port.v_max, "V"),
    )


def _link(battery: BatteryCard, inverter: InverterCard, bank: Bank) -> Said:
    """Protocol and firmware of the two, where both speak: of the protocol that is set, or of the best that they share."""
    theirs = {(p.name, p.bus): p for p in battery.protocols}
    shared = [(p, theirs[p.name, p.bus]) for p in inverter.protocols if (p.name, p.bus) in theirs]
    if not inverter.protocols or not battery.protocols:
        return
    ours, other = shared[0] if shared else (inverter.protocols[0], None)
    facts = links.Spoken(where="inverter", wanted=ours, common=other, shared=[p.name for p in inverter.protocols])
    yield links.one_protocol.code, links.one_protocol(facts)
    is_set = next((pair for pair in shared if pair[0].number == bank.inverter_protocol), None)
    best = next((pair for pair in shared if not any(_too_old(battery, inverter, pair))), None)
    for firmware in _firmware(battery, inverter, is_set or best or (shared[0] if shared else None)):
        yield links.firmware_suffices.code, links.firmware_suffices(firmware)


def _firmware(battery: BatteryCard, inverter: InverterCard, pair: tuple[Protocol, Protocol] | None) -> tuple[links.Firmware, ...]:
    ours, theirs = pair or (None, None)
    return (
        links.Firmware(title=inverter.title, version=inverter.firmware, protocol=ours),
        links.Firmware(title=battery.title, version=battery.firmware, protocol=theirs),
    )


def _too_old(battery: BatteryCard, inverter: InverterCard, pair: tuple[Protocol, Protocol]) -> Iterator[Breach]:
    return (breach for f in _firmware(battery, inverter, pair) if (breach := links.firmware_suffices(f)) is not None)


def _battery(battery: BatteryCard, inverter: InverterCard, job: Job, bank: Bank) -> Said:
    """Window, chemistry, list, dock, protocol, current at most, cold and heat, of a bank of so many units."""
    series = series_of(battery, len(bank.stacks()[0]))
    yield rules.window.code, rules.window(_window(battery, inverter, series))
    pair = rules.Pair(battery=battery, inverter=inverter)
    for rule in rules.PAIRED:
        yield rule.code, rule(pair)
    yield from _link(battery, inverter, bank)
    most = battery.discharge_a * (1 if battery.in_series else battery.units_max)
    need = inverter_input_current_a(inverter.output_w, series * battery.v_low_operating, inverter.battery.efficiency)
    title = "as many as the maker allows"
    weakest = rules.Weakest(title=title, amps=_fig("amps", most, "A"), design=_fig("need", need, "A"))
    yield rules.weakest_link.code, rules.weakest_link(weakest)
    inside = battery.arrangement == "docked" or inverter.bank_internal
    yield from _air(battery, job, [t.id for t in job.things if isinstance(t, InverterThing)] if inside else [u.id for u in bank.units])


def _air(battery: BatteryCard, job: Job, standing: list[str]) -> Said:
    """Cold and heat at the batteries."""
    air = coldest_air(job, standing)
    if air.value is not None:
        cold = rules.Cold(coldest=_fig("air", air.value, "°C"), least=_fig("least", battery.charge_min_c, "°C"), field=air.path)
        yield rules.cold_charging.code, rules.cold_charging(cold)
    air = hottest_air(job, standing)
    if air.value is not None:
        hot = rules.Hot(hottest=_fig("air", air.value, "°C"), most=_fig("most", battery.charge_max_c, "°C"), field=air.path)
        yield rules.hot_charging.code, rules.hot_charging(hot)


def _inverter(inverter: InverterCard, job: Job) -> Said:
    """Supply, what is chosen beside it, and the air of the place."""
    supply = job.site.supply
    if supply != "none":
        facts = connection.Supply(title=inverter.title, output=inverter.output, brings=supply)
        yield connection.supply_fits.code, connection.supply_fits(facts)
    has_transfer = any(isinstance(t, TransferThing) for t in job.things)
    generator = next((t.id for t in job.things if isinstance(t, GeneratorThing)), "")
    beside = belonging.Beside(inverter=inverter, supply=supply, has_transfer=has_transfer, generator=generator)
    for rule in belonging.BESIDE:
        yield rule.code, rule(beside)
    standing = [t.id for t in job.things if isinstance(t, InverterThing)]
    for air, limit, judge in (
        (hottest_air(job, standing), inverter.ambient_max_c, site.cool_enough),
        (coldest_air(job, standing), inverter.ambient_min_c, site.warm_enough),
    ):
        if air.value is not None:
            yield judge.code, judge(site.Air(air=_fig("air", air.value, "°C"), limit=_fig("limit", limit, "°C"), field=air.path))


def _module(module: ModuleCard, inverter: InverterCard, job: Job) -> Said:
    """Whether one string of it may hang on some input at all."""
    said = []
    for tracker in inverter.trackers:
        w = Workbook(book(job.rule_book))
        flows = currents.of_modules(w, tracker.id, module, currents.parallel(w, tracker.id, 1))
        facts = currents.amps(w, "One string", inverter, tracker, flows, bridged=tracker.bridge_max_a is not None)
        rule = string_rules.tracker_short_circuit
        said.append((rule.code, rule(facts)))
    if said and all(breach is not None for _, breach in said):
        yield said[0]


def _said(card: AnyCard, role: str, job: Job, inverter: InverterCard, bank: Bank) -> Said:
    match card:
        case InverterCard():
            yield from _inverter(card, job)
        case BatteryCard():
            yield from _battery(card, inverter, job, bank)
        case ModuleCard():
            yield from _module(card, inverter, job)
        case CtCard():
            if job.site.service_main_a is not None:
                facts = sensing.Rated(rated=_fig("rated", card.rated_a, "A"), main=_fig("main", job.site.service_main_a, "A"))
                yield sensing.large_enough.code, sensing.large_enough(facts)
        case BoardCard():
            yield belonging.has_the_terminals.code, belonging.has_the_terminals(belonging.Placed(board=card, role=role))


def _fit(card: AnyCard, role: str, job: Job, inverter: InverterCard, bank: Bank) -> Fit:
    found = [(code, breach) for code, breach in _said(card, role, job, inverter, bank) if breach is not None]
    return Fit(card, ratings(card), tuple(breach.text for _, breach in found), tuple(code for code, _ in found))


KIND_OF_ROLE = {
    "inverter": "inverter",
    "battery": "battery",
    "module": "module",
    "ct": "ct",
    "switch_fuse": "switch-fuse",
    "busbar_box": "board",
    "roof_box": "board",
    "sub_board": "board",
    "combining_panel": "board",
    "main_board": "board",
    "transfer": "transfer",
    "generator": "generator",
    "pv_inverter": "pv-inverter",
    "optimiser": "optimiser",
    "anchor": "anchor",
    "screw": "screw",
    "line_device": "line-device",
}


def fits(job: Job, shelf: Shelf, role: str, path: str = "") -> tuple[Fit, ...]:
    """Every card of a role's kind, those that fit first, each with what speaks against it; ``path`` tells which of several banks."""
    house = House(job, seats_of(job, shelf))
    bank = next((b for b in job.banks if path == f"banks.{b.id}.card"), job.banks[0])
    inverter = next(iter(house.on_bank(bank.id)), house.lead).card
    rows = [_fit(c, role, job, inverter, bank) for c in shelf.values() if c.kind == KIND_OF_ROLE[role]]
    # A busbar box is never a backed-up board: what cannot stand in a place is not listed for it.
    rows = [r for r in rows if belonging.has_the_terminals.code not in r.codes]
    return tuple(sorted(rows, key=lambda r: (not r.fits, r.card.title)))
