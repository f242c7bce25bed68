"""Faults that somebody could smuggle past a plan, seeded into every house, and changes that harm nothing.

Each seed says which mistake it is, the codes of which one must speak, and how it is brought into a house. It gives nothing where a house
has no place for it.
"""

from __future__ import annotations

import copy
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any, cast

from gumboot.core.card import Shelf, parse_card
from gumboot.core.job import Job, write_path
from gumboot.core.plan.circuits import Sized
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.rulebook.books import book
from tests.helpers import changed

Edits = dict[str, Any]


@dataclass(frozen=True)
class Change:
    """One change of a house: fields of its job, and fields of cards by their ids."""

    edits: Edits
    cards: dict[str, Edits]
    what: str = ""


def change(edits: Edits | None = None, what: str = "", **cards: Edits) -> Change:
    """A change; cards by their ids with low lines for hyphens."""
    return Change(edits or {}, {name.replace("_", "-"): value for name, value in cards.items()}, what)


@dataclass(frozen=True)
class Good:
    """A house that is good, with its plan."""

    name: str
    plan: Plan
    document: dict[str, Any]

    @property
    def job(self) -> Job:
        """Its job."""
        return self.plan.job

    @property
    def family(self) -> str:
        """The family of its rule book."""
        return book(self.job.rule_book).family

    @property
    def sized(self) -> dict[str, Sized]:
        """Its circuits."""
        return dict(self.plan.circuits.sized)

    def sizes(self) -> tuple[str, ...]:
        """Trade sizes of its book, smallest first."""
        return book(self.job.rule_book).wiring.sizes()

    def smaller(self, size: str, steps: int = 1) -> str | None:
        """A size some steps below another."""
        sizes = self.sizes()
        at = sizes.index(size) - steps
        return sizes[at] if at >= 0 else None

    def card_of(self, seat: str) -> str | None:
        """The card of the first thing of a seat."""
        return next((t.card for t in self.job.things if t.seat == seat), None)

    def bank_path(self, rest: str) -> str:
        """A path within its first bank."""
        return f"banks.{self.job.banks[0].id}.{rest}"

    def after(self, c: Change, shelf: Shelf) -> Plan:
        """The plan of the house with a change."""
        document = copy.deepcopy(self.document)
        for path, value in c.edits.items():
            document = changed(document, path, value)
        cards = dict(shelf)
        for name, edits in c.cards.items():
            card = shelf[name].model_dump(mode="json")
            for path, value in edits.items():
                card = write_path(card, path, value)
            cards[name] = parse_card(card)
        return derive(Job.model_validate(document), cards)


Make = Callable[[Good], Iterator[Change]]


@dataclass(frozen=True)
class Seed:
    """A kind of fault: the mistake it is, the codes of which one must speak anew, and how it is made."""

    name: str
    mistake: str
    codes: frozenset[str]
    make: Make


SEEDS: list[Seed] = []
HARMLESS: list[Seed] = []


def seed(mistake: str, *codes: str) -> Callable[[Make], Make]:
    """Register a fault."""

    def registered(make: Make) -> Make:
        SEEDS.append(Seed(make.__name__, mistake, frozenset(codes), make))
        return make

    return registered


def harmless(make: Make) -> Make:
    """Register a change that harms nothing."""
    HARMLESS.append(Seed(make.__name__, "", frozenset(), make))
    return make


def scaled(h: Good, path: str, factor: float) -> Any:
    """A number of the job times a factor."""
    node: Any = h.document
    for part in path.split("."):
        node = next(x for x in node if x.get("id") == part or x.get("channel") == part) if isinstance(node, list) else node[part]
    return node * factor


def value(h: Good, card: str, path: str) -> Any:
    """A value of a card."""
    node: Any = h.plan.shelf[card].model_dump(mode="json")
    for part in path.split("."):
        node = next(x for x in node if x.get("id") == part) if isinstance(node, list) else node[part]
    return node


def inverter_cards(h: Good) -> list[str]:
    """Cards of its inverters, each once."""
    return list(dict.fromkeys(i.card.id for i in h.plan.seats.inverters))


def strings_of(h: Good) -> list[Any]:
    """Its strings as documents."""
    return cast("list[Any]", h.document["strings"])


# --- boards, sources, interlocks (M01, M22, M23, M24, M43, M48, M51) ---


@seed("M01", "GRID-NO-INTERLOCK")
def a_bypass_without_interlock(h: Good) -> Iterator[Change]:
    yield change({"backup.bypass": "breaker without interlock"})


@seed("M01", "SCHOOL-MANUAL")
def manual_transfer_with_nothing_to_throw(h: Good) -> Iterator[Change]:
    if not any(t.card.style == "manual" for t in h.plan.seats.transfers):
        yield change({"backup.school": "manual transfer"})


@seed("M20", "SCHOOL-WHOLE")
def a_whole_house_that_is_none(h: Good) -> Iterator[Change]:
    if any(x.side == "house" for x in h.job.loads):
        yield change({"backup.school": "whole house"})


@seed("M22", "BUS-120", "GRID-MAIN-SWITCH", "BUS-DEVICE")
def a_busbar_too_small(h: Good) -> Iterator[Change]:
    if h.job.site.busbar_a:
        yield change({"site.busbar_a": 40})


@seed("M22", "BOARD-SURVEY")
def a_survey_that_says_more_than_the_board(h: Good) -> Iterator[Change]:
    board = h.card_of("board")
    if h.job.site.busbar_a and h.plan.seats.mains:
        bar = h.plan.seats.mains[0].card.busbar_a
        yield change({"site.busbar_a": bar + 1}, "bar")
        main = h.plan.seats.mains[0].card.main_device_a
        if main:
            yield change({"site.service_main_a": main + 1}, "main")
    assert board


@seed("M22", "BUS-DEVICE", "GRID-MAIN-SWITCH")
def a_board_behind_too_large_a_main(h: Good) -> Iterator[Change]:
    for seat in h.plan.house.boards:
        ahead = seat.card.main_device_a or max(
            (z.device.value for z in h.sized.values() if z.circuit.load == seat.id and z.device), default=0
        )
        if ahead:
            yield Change({}, {seat.card.id: {"busbar_a": ahead - 1}}, seat.id)


@seed("M22", "BUS-DEVICE", "TRANSFER-CAPACITY")
def a_switch_behind_too_large_a_device(h: Good) -> Iterator[Change]:
    for t in h.plan.seats.transfers:
        yield Change({}, {t.card.id: {"rated_a": 5}}, t.id)


@seed("M23", "BOND-GRID", "BOND-ISLAND")
def two_bonds_or_none(h: Good) -> Iterator[Change]:
    for wrong in ("both boards", "none", "main board"):
        if wrong != h.job.site.neutral_bond and (h.job.site.supply != "none" or wrong != "main board"):
            yield change({"site.neutral_bond": wrong}, wrong)


@seed("M23", "BOND-ISLAND", "BOND-GRID")
def an_inverter_without_its_relay(h: Good) -> Iterator[Change]:
    for card in inverter_cards(h):
        if value(h, card, "neutral_bond") == "relay" and len(inverter_cards(h)) == len(h.plan.seats.inverters) == 1:
            yield Change({}, {card: {"neutral_bond": "none"}})


@seed("M24", "ISLAND-EARTH")
def an_island_without_earth(h: Good) -> Iterator[Change]:
    if h.job.site.island_electrode and not (h.job.site.earthing == "TT" and h.plan.house.joins_grid):
        yield change({"site.island_electrode": False})


@seed("M43", "GRID-SUPPLY", "INV-GRID", "PAR-SUPPLY")
def a_supply_of_another_kind(h: Good) -> Iterator[Change]:
    for kind in ("split phase", "single phase", "three phase"):
        fits = {h.job.site.supply, h.plan.house.output}
        if h.job.site.supply != "none" and kind not in fits and not (kind == "three phase" and h.plan.house.output == "single phase"):
            yield change({"site.supply": kind}, kind)


@seed("M48", "GRID-EXPORT", "GRID-PV-EXPORT", "SET-RANGE")
def a_permit_that_cannot_be_held(h: Good) -> Iterator[Change]:
    for pv in h.plan.seats.pv_inverters:
        yield change({"site.export_limit_w": pv.card.output_w - 1}, pv.id)
    for card in inverter_cards(h):
        rows = value(h, card, "settings")
        if h.plan.house.giving and h.job.site.export_limit_w is not None:
            yield Change({"site.export_limit_w": 10}, {card: {"settings": [r for r in rows if r["key"] != "export_w"]}}, card)


@seed("M51", "GEN-SMALL", "GEN-VOLTAGE", "GEN-LINES", "GEN-INPUT", "BOND-GENERATOR")
def a_generator_that_does_not_fit(h: Good) -> Iterator[Change]:
    for g in h.plan.seats.generators:
        yield Change({}, {g.card.id: {"power_w": 300}}, "power")
        yield Change({}, {g.card.id: {"voltage_v": g.card.voltage_v * 0.89}}, "volts")
        yield Change({}, {g.card.id: {"device_a": 500}}, "device")
        yield Change({}, {g.card.id: {"neutral_bonded": not g.card.neutral_bonded}}, "bond")


@seed("M51", "GEN-FREQUENCY")
def a_generator_of_another_frequency(h: Good) -> Iterator[Change]:
    for seat in h.plan.seats.generators:
        yield Change({}, {seat.card.id: {"frequency_hz": 50 if seat.card.frequency_hz == 60 else 60}}, seat.id)
        yield Change({}, {seat.card.id: {"frequency_hz": None}}, f"{seat.id} silent")


@seed("M07", "PV-FULL-POWER")
def strings_that_work_above_the_full_power_window(h: Good) -> Iterator[Change]:
    for t in h.plan.strings.trackers if h.plan.strings else ():
        card = h.plan.house.cards[t.place]
        if not t.optimised and hasattr(card, "trackers"):
            yield Change({}, {card.id: {f"trackers.{t.tracker.id}.v_full_max": 1.0}}, t.name)


@seed("M25", "PV-MONITOR")
def an_inverter_that_watches_no_earth_fault(h: Good) -> Iterator[Change]:
    if h.family == "iec":
        for place in {at.place for at in h.plan.house.inputs if h.plan.house.strings_on(at)}:
            yield Change({}, {h.plan.house.cards[place].id: {"source.residual_monitor": False}}, place)


def _meters(h: Good, *devices: Edits) -> Edits:
    """Devices on the line of the leader; the last carries the terminator."""
    rows = [
        {"id": f"meter-{n}", "title": f"Meter {n}", "address": n, "terminator": n == len(devices), **more}
        for n, more in enumerate(devices, 1)
    ]
    return {"modbus.devices": [{"inverter": h.plan.seats.inverters[0].id, **row} for row in rows]}


@seed(
    "M38",
    "MODBUS-ADDRESS",
    "MODBUS-SPEED",
    "MODBUS-STAR",
    "MODBUS-STUB",
    "MODBUS-TERMINATOR",
    "MODBUS-LOAD",
    "MODBUS-READER",
    "MODBUS-CARD",
)
def a_modbus_line_on_which_somebody_is_not_understood(h: Good) -> Iterator[Change]:
    yield change(_meters(h, {"address": 7}, {"address": 7}), "one address twice")
    yield change(_meters(h, {}, {"address": 0}), "an address that speaks to all")
    yield change(_meters(h, {}, {"address": 248}), "an address that is kept")
    yield change(_meters(h, {}, {"speed": "19200 bit/s"}), "two speeds")
    yield change(_meters(h, {}, {}) | {"modbus.shape": "star"}, "a star")
    yield change(_meters(h, {"stub_m": 1.2}, {}), "a long stub")
    yield change(_meters(h, {"terminator": True}, {}), "a terminator in the middle")
    yield change(_meters(h, {}, {"terminator": False}), "an open end")
    yield change(_meters(h, *[{"load": "1"}] * 32), "32 loads beside the inverter")
    yield change(_meters(h, {"inverter": "nobody"}), "asked by nobody")
    yield change(_meters(h, {"card": "bollard-11", "address": 33}), "an address that the device does not take")
    yield change(_meters(h, {"card": "bollard-11", "speed": "38400 bit/s"}), "a speed that the device does not offer")


@seed("M04", "GRID-INTERRUPT")
def more_fault_current_than_the_main_board_breaks(h: Good) -> Iterator[Change]:
    if h.job.site.grid_fault_a:
        yield change({"site.grid_fault_a": h.job.site.main_board_interrupting_a + 1})


@seed("M04", "BOARD-INTERRUPT", "CARD-SILENT")
def a_board_whose_devices_break_too_little(h: Good) -> Iterator[Change]:
    for seat in h.plan.house.boards:
        yield Change({}, {seat.card.id: {"interrupting_a": 10}}, f"{seat.id} little")
        yield Change({}, {seat.card.id: {"interrupting_a": None}}, f"{seat.id} silent")


@seed("M04", "CARD-SILENT")
def a_source_that_says_nothing_of_a_fault(h: Good) -> Iterator[Change]:
    for card in inverter_cards(h):
        yield Change({}, {card: {"source.island_fault_a": None}}, card)


@seed("M20", "SERVICE-LOAD")
def a_supply_that_is_asked_for_more_than_it_carries(h: Good) -> Iterator[Change]:
    main = h.job.site.service_main_a
    if main and h.job.settings.grid_charge_a:
        asked = {"method": "measured peak", "peak_a": main if h.family == "iec" else main / 1.25}
        yield change({f"demand.{key}": value for key, value in asked.items()})


@seed("M03", "SERVICE-CONDUCTOR")
def service_conductors_too_small_for_their_main(h: Good) -> Iterator[Change]:
    if h.family == "nec" and h.job.site.service_main_a:
        yield change({"site.service_size": "10 AWG"})


@seed("M44", "BANK-PROBE", "CARD-SILENT", "SET-EQUALISE-OVER")
def lead_acid_charged_blindly(h: Good) -> Iterator[Change]:
    for bank in h.plan.seats.banks:
        if bank.card.is_lead_acid:
            yield Change({}, {h.plan.seats.inverter.id: {"battery.temperature_probe": False}}, "no probe")
            yield Change({}, {bank.card.id: {"lead_acid": None}}, "silent plates")
            yield Change({"settings.equalise": True}, {bank.card.id: {"lead_acid.equalise_v": bank.card.v_max + 0.1}}, "equalised too high")


# --- conductors and devices (M02, M03, M10, M11, M12, M26, M27) ---


@seed("M02", "COND-SMALL", "COND-MAKER", "TERM-RANGE", "COND-UNPROTECTED", "COND-NONE")
def a_conductor_one_size_too_small(h: Good) -> Iterator[Change]:
    for cid, z in h.sized.items():
        less = h.smaller(z.required.label)
        if less and h.job.model_dump()["runs"] and any(run.id == cid for run in h.job.runs):
            yield change({f"runs.{cid}.installed_size": less}, cid)


DECIDED = ("grid", "through", "pv-ac", "output", "feeder", "main-feeder")


@seed("M03", "COND-UNPROTECTED", "DEVICE-OVER-MAKER")
def a_device_too_large_for_its_conductor(h: Good) -> Iterator[Change]:
    for cid, z in h.sized.items():
        decided = z.device is not None and z.circuit.kind in DECIDED and any(run.id == cid for run in h.job.runs)
        if decided and z.device is not None and 2 * z.device.value > 1.2 * z.ampacity.value:
            yield change({f"runs.{cid}.device_a": 2 * z.device.value, f"runs.{cid}.installed_size": z.installed.label}, cid)


@seed("M03", "DEVICE-SMALL")
def a_device_below_its_load(h: Good) -> Iterator[Change]:
    if "grid" in h.sized and h.sized["grid"].demand.continuous_a.value > 2:
        yield change(
            {
                "runs.grid.device_a": h.sized["grid"].demand.continuous_a.value * 0.9,
                "runs.grid.installed_size": h.sized["grid"].installed.label,
            }
        )


@seed("M26", "EARTH-SMALL")
def an_earth_one_size_too_small(h: Good) -> Iterator[Change]:
    for cid, z in h.sized.items():
        if z.earth_required is None or not any(run.id == cid for run in h.job.runs):
            continue
        less = h.smaller(z.earth_required.label)
        if less:
            yield change({f"runs.{cid}.installed_earth": less}, cid)


@seed("M26", "ELECTRODE-SMALL", "ELECTRODE-ALUMINIUM")
def an_electrode_conductor_that_will_not_do(h: Good) -> Iterator[Change]:
    if h.family == "nec":
        yield change({"site.electrode_size": "12 AWG", "site.service_size": "2/0 AWG"}, "small")
        yield change({"site.electrode_size": "4 AWG", "site.service_size": "2/0 AWG", "site.electrode_material": "aluminium"}, "aluminium")


@seed("M26", "BONDING-SMALL")
def a_bonding_conductor_too_small(h: Good) -> Iterator[Change]:
    if h.family == "iec":
        yield change({"site.service_size": "25 mm2", "site.bonding_size": "4 mm2"})


@seed("M02", "COND-TOO-HOT", "COND-SMALL", "COND-NONE", "COND-UNPROTECTED", "DEVICE-SMALL")
def a_route_hotter_than_anybody_said(h: Good) -> Iterator[Change]:
    for cid, z in h.sized.items():
        if any(run.id == cid for run in h.job.runs) and not z.circuit.is_dc:
            yield change({f"runs.{cid}.ambient_c": 69, f"runs.{cid}.installed_size": z.code_size.label}, cid)


@seed("M02", "COND-INSULATION")
def insulation_of_another_book(h: Good) -> Iterator[Change]:
    if "grid" in h.sized:
        yield change({"runs.grid.insulation": "XLPE" if h.family == "nec" else "THWN-2"})


@seed("M02", "PV-WIRE", "COND-NM", "COND-INSULATION")
def a_roof_cable_of_the_wrong_kind(h: Good) -> Iterator[Change]:
    pv = next((cid for cid, z in h.sized.items() if z.circuit.kind == "pv"), None)
    if pv:
        yield change({f"runs.{pv}.insulation": "PVC"}, "PVC")
        yield change({f"runs.{pv}.insulation": "NM-B"}, "NM-B")


@seed("M10", "TERM-CLASS")
def solid_wire_in_a_stranded_terminal(h: Good) -> Iterator[Change]:
    refusing = {t.circuit for t in h.plan.terminations if t.role != "earth" and "solid" not in t.terminal.wire_classes}
    for cid in h.sized:
        if cid in refusing and any(run.id == cid for run in h.job.runs):
            yield change({f"runs.{cid}.wire_class": "solid"}, cid)


@seed("M11", "TERM-RANGE")
def a_conductor_too_thick_for_its_terminals(h: Good) -> Iterator[Change]:
    for cid in ("grid", "backup", "pv-pv1"):
        if cid in h.sized:
            yield change({f"runs.{cid}.installed_size": "500 kcmil" if h.family == "nec" else "120 mm2"}, cid)


@seed("M11", "COND-MATERIAL")
def aluminium_in_copper_terminals(h: Good) -> Iterator[Change]:
    if "grid" in h.sized:
        yield change({"runs.grid.material": "aluminium", "runs.grid.installed_size": "2 AWG" if h.family == "nec" else "16 mm2"})


@seed("M12", "TERM-STRIP")
def a_strip_of_the_wrong_length(h: Good) -> Iterator[Change]:
    for cid in ("grid", "backup"):
        if cid in h.sized:
            yield change({f"runs.{cid}.strip_mm": 70}, f"{cid} near")
            yield change({f"runs.{cid}.far_strip_mm": 70}, f"{cid} far")


@seed("M12", "TERM-LUG")
def a_lug_with_the_wrong_hole(h: Good) -> Iterator[Change]:
    for t in h.plan.terminations:
        studs = [x for x in h.plan.terminations if x.circuit == t.circuit and x.role != "earth" and x.terminal.lug_hole.startswith("M")]
        if t in studs[:1] and any(run.id == t.circuit for run in h.job.runs):
            circuit = h.sized[t.circuit].circuit
            makers = [p for p in (circuit.source, circuit.load) if h.plan.house.card_at(p).kind in ("inverter", "pv-inverter")]
            near = t.place == (makers[0] if makers else circuit.load)
            yield change({f"runs.{t.circuit}.{'' if near else 'far_'}lug_hole_mm": 25}, t.circuit)


@seed("M27", "RACEWAY-FULL")
def a_raceway_too_small(h: Good) -> Iterator[Change]:
    for cid in ("grid", "backup"):
        if cid in h.sized and h.sized[cid].installed.value > 6:
            kind, size = ("EMT", "1/2") if h.family == "nec" else ("conduit", "8")
            yield change({f"runs.{cid}.raceway": kind, f"runs.{cid}.raceway_size": size, f"runs.{cid}.raceway_mm": 3000}, cid)


@seed("M27", "RACEWAY-MIX")
def pv_and_ac_in_one_raceway(h: Good) -> Iterator[Change]:
    pv = next((cid for cid, z in h.sized.items() if z.circuit.kind == "pv"), None)
    if pv and "grid" in h.sized:
        yield change({f"runs.{pv}.shares_with": ["grid"]})


# --- shock (M25) ---


@seed("M25", "RCD-MISSING", "LOOP-SLOW", "ISLAND-SLOW")
def no_residual_device_and_a_poor_loop(h: Good) -> Iterator[Change]:
    if h.family == "iec" and h.job.site.supply != "none":
        none = {f"runs.{cid}.residual_ma": None for cid in h.sized if any(r.id == cid and r.residual_ma for r in h.job.runs)}
        yield change({**none, "site.loop_ohm": 20}, "loop")
        yield change({**none, "site.earthing": "TT", "site.electrode_ohm": 30}, "TT")


@seed("M25", "RCD-RATING")
def an_electrode_too_poor_for_its_residual_device(h: Good) -> Iterator[Change]:
    if h.family == "iec" and any(r.residual_ma for r in h.job.runs):
        yield change({"site.earthing": "TT", "site.electrode_ohm": 4000})


@seed("M25", "RCD-TYPE")
def a_residual_device_of_type_ac(h: Good) -> Iterator[Change]:
    for run in h.job.runs:
        if h.family == "iec" and run.residual_ma and run.id in h.sized:
            yield change({f"runs.{run.id}.residual_type": "AC"}, run.id)


# --- PV (M05 to M09, M39, M50, M55) ---


@seed("M06", "PV-COLD-VOC")
def a_string_too_long_for_the_coldest_morning(h: Good) -> Iterator[Change]:
    for t in h.plan.strings.trackers if h.plan.strings else ():
        if not t.optimised:
            yield change({f"strings.{t.strings[0].id}.modules": round(t.count_most.value) + 1}, t.name)


@seed("M07", "PV-HOT-LOW", "PV-START")
def a_string_too_short_for_a_hot_day(h: Good) -> Iterator[Change]:
    for t in h.plan.strings.trackers if h.plan.strings else ():
        if t.count_least.value > 1:
            yield change({f"strings.{t.strings[0].id}.modules": round(t.count_least.value) - 1}, t.name)


@seed("M08", "PV-UNLIKE", "PV-MODE", "PV-LABEL-TWICE")
def unlike_strings_on_one_input(h: Good) -> Iterator[Change]:
    for first in strings_of(h)[:1]:
        other = {**first, "id": "odd", "modules": first["modules"] - 1, "label_top": "odd", "label_bottom": "odd"}
        yield change({"strings": [*strings_of(h), other]})


@seed("M09", "PV-TRACKER-ISC", "PV-TERMINAL-CURRENT")
def a_module_of_too_much_current(h: Good) -> Iterator[Change]:
    module = h.job.equipment.module
    if module and strings_of(h):
        yield Change({}, {module: {"isc_a": 60, "imp_a": 55}})


@seed("M09", "PV-BRIDGE", "PV-TERMINAL-CURRENT")
def a_bridge_set_or_left_out(h: Good) -> Iterator[Change]:
    for s in strings_of(h):
        yield change({f"strings.{s['id']}.bridge": not s["bridge"]}, s["id"])


@seed("M05", "PV-ISOLATOR")
def a_roof_box_without_dc_rating(h: Good) -> Iterator[Change]:
    for box in h.plan.seats.roof_boxes:
        yield Change({}, {box.card.id: {"dc_voltage": None}}, f"{box.id} silent")
        yield Change({}, {box.card.id: {"dc_voltage": 100}}, f"{box.id} low")


@seed("M03", "PV-FUSE", "PV-TRACKER-ISC", "PV-UNLIKE")
def three_strings_together_without_a_fuse(h: Good) -> Iterator[Change]:
    for first in strings_of(h)[:1]:
        more = [{**first, "id": f"more{n}", "label_top": f"m{n}", "label_bottom": f"m{n}"} for n in (1, 2)]
        yield change({"strings": [*strings_of(h), *more]})


@seed("M04", "PV-FUSE-BREAKS", "CARD-SILENT")
def string_fuses_that_break_less_than_the_others_push(h: Good) -> Iterator[Change]:
    for first in strings_of(h)[:1]:
        more = [{**first, "id": f"more{n}", "label_top": f"m{n}", "label_bottom": f"m{n}"} for n in (1, 2)]
        card = h.card_of("roof-box")
        if card is not None and h.plan.seats.optimiser is None:
            edits = {"strings": [*strings_of(h), *more], "string_fuse_a": 20}
            yield Change(edits, {card: {"dc_interrupting_a": 20}}, "little")
            yield Change(edits, {card: {"dc_interrupting_a": None}}, "nothing said")


@seed("M39", "PV-SHUTDOWN")
def no_rapid_shutdown(h: Good) -> Iterator[Change]:
    if h.family == "nec" and strings_of(h):
        yield change({"site.rapid_shutdown": False})


@seed("M50", "PV-RATIO", "AC-BANK", "AC-NO-DROOP", "AC-SHIFT")
def coupled_pv_that_nobody_holds(h: Good) -> Iterator[Change]:
    for pv in h.plan.seats.pv_inverters:
        yield Change({}, {pv.card.id: {"output_w": 30000}}, "large")
        yield Change({}, {pv.card.id: {"droop": ""}}, "no droop")


@seed("M55", "PV-LABEL", "PV-LABEL-TWICE")
def labels_that_mislead(h: Good) -> Iterator[Change]:
    strings = strings_of(h)
    for s in strings[:1]:
        yield change({f"strings.{s['id']}.label_top": "odd"}, "unlike ends")
        yield change({f"strings.{s['id']}.label_top": "", f"strings.{s['id']}.label_bottom": ""}, "none")
    if len(strings) > 1:
        one, two = strings[0], strings[1]
        yield change({f"strings.{two['id']}.label_top": one["label_top"], f"strings.{two['id']}.label_bottom": one["label_top"]}, "twice")


# --- battery (M04, M05, M16 to M19, M33, M49) ---


@seed("M04", "FUSE-INTERRUPT", "BANK-BREAKER-INTERRUPT")
def a_bank_that_pushes_more_than_its_devices_break(h: Good) -> Iterator[Change]:
    for bank in h.plan.seats.banks:
        if h.plan.seats.switch_fuses or bank.card.breaker_a:
            yield Change({}, {bank.card.id: {"fault_a": 90000}}, bank.id)
    for fuse in h.plan.seats.switch_fuses[:1]:
        yield Change({}, {fuse.card.id: {"interrupting_a": 100}}, fuse.id)


@seed("M05", "DC-VOLTAGE")
def a_device_or_bars_below_the_banks_voltage(h: Good) -> Iterator[Change]:
    for fuse in h.plan.seats.switch_fuses[:1]:
        yield Change({}, {fuse.card.id: {"voltage_dc": 30}}, fuse.id)
    for box in h.plan.seats.busbars[:1]:
        yield Change({}, {box.card.id: {"dc_voltage": None}}, f"{box.id} silent")


@seed("M16", "BANK-DAISY", "BANK-LEADS", "BANK-LEAD-OHM", "BANK-SHARE")
def unequal_leads(h: Good) -> Iterator[Change]:
    bank = h.plan.seats.banks[0]
    if bank.card.arrangement == "parallel" and len(bank.thing.units) > 2:
        yield change({h.bank_path("cabling"): "daisy"}, "daisy")
        unit = bank.thing.units[0].id
        if any(r.id == unit for r in h.job.runs):
            yield change({f"runs.{unit}.length_m": 9}, "long")


@seed("M17", "SET-CHARGE-OVER", "SET-DISCHARGE-OVER", "SET-GRID-CHARGE")
def limits_above_the_weakest_link(h: Good) -> Iterator[Change]:
    sheet = {row.key: row for row in h.plan.settings.sheet}
    for key in ("charge_a", "discharge_a"):
        yield change({f"settings.{key}": sheet[key].amount.value + 0.1}, key)
    yield change({"settings.grid_charge_a": sheet["charge_a"].amount.value + 0.1}, "grid")


@seed("M17", "BANK-WEAK", "LOAD-BANK-OVER", "LOAD-BANK-SURGE")
def a_bank_too_weak_for_its_inverter(h: Good) -> Iterator[Change]:
    card = h.plan.seats.banks[0].card.id
    yield Change({}, {card: {"discharge_a": 2, "peak_a": 2}})


@seed("M19", "BANK-PRECHARGE")
def no_precharge(h: Good) -> Iterator[Change]:
    if not h.plan.seats.inverters[0].card.bank_internal:
        yield change({h.bank_path("precharge"): False})


@seed("M06", "BANK-WINDOW", "BANK-SERIES")
def a_bank_outside_the_inverters_window(h: Good) -> Iterator[Change]:
    inverter = h.plan.seats.inverters[0].card
    yield Change({}, {inverter.id: {"battery.v_max": inverter.battery.v_min + 0.5}})


@seed("M33", "LINK-PROTOCOL", "LINK-FIRMWARE")
def ends_that_do_not_speak_one_language(h: Good) -> Iterator[Change]:
    bank = h.plan.seats.banks[0]
    if h.plan.links.wired:
        yield change({h.bank_path("inverter_protocol"): 99}, "inverter")
        head = h.plan.house.heads(bank.id)[0].id if bank.card.arrangement == "stack" else bank.thing.units[-1].id
        yield change({h.bank_path(f"units.{head}.protocol"): 98}, "unit")


@seed("M34", "LINK-LEAD", "LINK-SIGNAL", "LINK-SOCKET")
def a_lead_with_crossed_pins_or_a_core_short(h: Good) -> Iterator[Change]:
    for bus in h.plan.links.wired[:1]:
        pairs = [{"inverter_pin": c.inverter_pin, "battery_pin": c.battery_pin} for c in bus.lead]
        path = f"banks.{bus.seat.id}.lead_as_made"
        one, two = (next(n for n, c in enumerate(bus.lead) if c.signal.endswith(x)) for x in ("H", "L"))
        crossed = copy.deepcopy(pairs)
        crossed[one]["battery_pin"], crossed[two]["battery_pin"] = pairs[two]["battery_pin"], pairs[one]["battery_pin"]
        yield change({path: crossed}, "crossed")
        yield change({path: [p for n, p in enumerate(pairs) if n != one]}, "short")
        ports = value(h, bus.seat.card.id, "data_ports")
        bare = [{**p, "pins": [x for x in p["pins"] if not x["signal"].endswith("L")]} for p in ports]
        yield Change({path: []}, {bus.seat.card.id: {"data_ports": bare}}, "no L")
        sockets = value(h, bus.inverter.card.id, "data_ports")
        battery = next(p for p in sockets if p["id"] == bus.inverter_port.id)  # type: ignore[union-attr]
        yield Change({}, {bus.inverter.card.id: {"data_ports": [{**battery, "id": "TWIN", "title": "Twin"}, *sockets]}}, "two sockets")


@seed("M35", "LINK-ADDRESS-DUP", "LINK-ADDRESS-RANGE", "LINK-ADDRESS-ORDER")
def addresses_that_clash(h: Good) -> Iterator[Change]:
    for bus in h.plan.links.wired[:1]:
        units = [c.unit for c in bus.chain if c.set_dip]
        if len(units) > 1:
            yield change({f"banks.{bus.seat.id}.units.{units[1].id}.dip_address": units[0].dip_address}, "twice")
        if units:
            yield change({f"banks.{bus.seat.id}.units.{units[-1].id}.dip_address": 60}, "range")


@seed("M35", "LINK-ADDRESS-PROGRAM")
def an_address_that_is_the_programming_place(h: Good) -> Iterator[Change]:
    for bus in h.plan.links.wired[:1]:
        for c in bus.chain:
            if c.set_dip:
                yield Change({}, {bus.seat.card.id: {"dip_programming": "".join("01"[on] for on in c.set_dip)}}, c.unit.id)


@seed("M36", "LINK-STAR", "LINK-STUB")
def a_battery_bus_that_branches(h: Good) -> Iterator[Change]:
    for bus in h.plan.links.wired:
        if len(bus.chain) > 1:
            yield change({f"banks.{bus.seat.id}.bus_shape": "star"}, "star")
            yield change({f"banks.{bus.seat.id}.stub_m": 1.2}, "stub")
            yield change({f"banks.{bus.seat.id}.stub_m": 6.1}, "long stub")


@seed("M36", "LINK-TERMINATOR", "PAR-TERMINATOR")
def terminators_missing_or_too_many(h: Good) -> Iterator[Change]:
    for bus in h.plan.links.wired[:1]:
        for c in bus.chain:
            yield change({f"banks.{bus.seat.id}.units.{c.unit.id}.terminator": not c.unit.terminator}, c.unit.id)


@seed("M49", "SET-EQUALISE")
def equalising_a_bank_that_cannot_vent(h: Good) -> Iterator[Change]:
    if h.plan.seats.banks[0].card.chemistry != "lead-acid flooded":
        yield change({"settings.equalise": True})


@seed("M49", "BANK-COLD", "SITE-COLD", "PLACE-AIR")
def a_bank_charged_in_the_cold(h: Good) -> Iterator[Change]:
    low = h.plan.seats.banks[0].card.charge_min_c
    yield change({"site.room_low_c": max(-40, low - 1)})


@seed("M49", "BANK-HOT", "PLACE-AIR", "SITE-HOT")
def a_bank_charged_in_the_heat(h: Good) -> Iterator[Change]:
    high = h.plan.seats.banks[0].card.charge_max_c
    if high < 60:
        yield change({"site.room_high_c": high + 1})


# --- loads (M20, M21) ---


@seed("M20", "LOAD-LEG-OVER", "LOAD-TOTAL-OVER", "LOAD-BANK-OVER")
def more_running_than_the_inverter_carries(h: Good) -> Iterator[Change]:
    for x in h.job.loads:
        if x.side == "backed":
            yield change({f"loads.{x.id}.running_w": 30000, f"loads.{x.id}.surge_w": 30000}, x.id)
            return


@seed("M20", "LOAD-NO-LEG")
def a_load_on_a_leg_that_is_not_there(h: Good) -> Iterator[Change]:
    if len(h.plan.house.legs) < 3:
        for x in h.job.loads:
            if x.side == "backed":
                yield change({f"loads.{x.id}.leg": "L3"}, x.id)
                return


@seed("M21", "LOAD-LEG-SURGE", "LOAD-SURGE", "LOAD-BANK-SURGE")
def a_start_that_nothing_holds(h: Good) -> Iterator[Change]:
    for x in h.job.loads:
        if x.side == "backed":
            yield change({f"loads.{x.id}.surge_w": 60000}, x.id)
            return


# --- wall and place (M28, M29, M30) ---


@seed("M28", "WALL-COMBUSTIBLE", "WALL-ANCHOR-OVER", "WALL-STUD-MISS")
def a_box_on_bare_timber(h: Good) -> Iterator[Change]:
    for wall in h.job.walls:
        if wall.surface == "timber cladding" and wall.board:
            yield change({f"walls.{wall.id}.board": None})


@seed("M28", "WALL-ANCHOR-BASE", "WALL-ANCHOR-SHORT", "WALL-ANCHOR-MASONRY")
def anchors_that_hold_nothing(h: Good) -> Iterator[Change]:
    anchor = h.job.equipment.anchor
    for wall in h.job.walls:
        if wall.surface == "masonry" and anchor:
            yield change({f"walls.{wall.id}.render_mm": 95}, "render")
            weak = [{"base": b["base"], "pull_n": 1, "shear_n": 1} for b in value(h, anchor, "bases")]
            yield Change({}, {anchor: {"bases": weak}}, "weak")


@seed("M28", "WALL-STUD-MISS")
def screws_beside_the_stud(h: Good) -> Iterator[Change]:
    for wall in h.job.walls:
        if wall.surface == "timber cladding":
            for place in wall.placements:
                box = next(b for b in h.plan.walls[0].boxes if b.id == place.id)
                if box.holes:
                    yield change({f"walls.{wall.id}.placements.{place.id}.x_mm": place.x_mm + 30}, place.id)


@seed("M29", "PLACE-ROOM")
def a_bank_where_people_sleep_or_flee(h: Good) -> Iterator[Change]:
    for room in ("habitable room", "escape route"):
        yield change({f"walls.{h.job.walls[0].id}.room": room}, room)


@seed("M29", "PLACE-OPENING", "PLACE-EXIT", "WALL-CLEARANCE")
def a_bank_beside_an_opening(h: Good) -> Iterator[Change]:
    wall = h.plan.walls[0]
    box = next((b for b in wall.boxes if b.holds_battery), None)
    for kind in ("door", "window", "exit", "gas", "appliance"):
        if box is not None:
            at = {
                "id": "o",
                "title": "it",
                "kind": kind,
                "x_mm": box.rect.x + box.rect.w + 100,
                "y_mm": box.rect.y,
                "width_mm": 200,
                "height_mm": 200,
            }
            yield change({f"walls.{wall.id}.openings": [at]}, kind)


@seed("M29", "PLACE-BARRIER")
def a_bedroom_behind_the_wall(h: Good) -> Iterator[Change]:
    yield change({f"walls.{h.job.walls[0].id}.habitable_behind": True, f"walls.{h.job.walls[0].id}.barrier": False})


@seed("M29", "WALL-WORKING-SPACE")
def no_room_to_work(h: Good) -> Iterator[Change]:
    yield change({f"walls.{h.job.walls[0].id}.free_depth_mm": 500})


@seed("M29", "WALL-CLEARANCE")
def boxes_too_near(h: Good) -> Iterator[Change]:
    wall = h.job.walls[0]
    if len(wall.placements) > 1:
        one, two = wall.placements[0], wall.placements[1]
        yield change({f"walls.{wall.id}.placements.{two.id}.x_mm": one.x_mm + 5, f"walls.{wall.id}.placements.{two.id}.y_mm": one.y_mm + 5})


@seed("M29", "PLACE-OUTDOOR")
def indoor_equipment_outdoors(h: Good) -> Iterator[Change]:
    yield change({f"walls.{h.job.walls[0].id}.room": "outdoor", f"walls.{h.job.walls[0].id}.in_sun": True})


@seed("M29", "PLACE-UNIT", "PLACE-ENERGY")
def a_unit_of_too_much_energy(h: Good) -> Iterator[Change]:
    if h.family == "nec" and not h.plan.seats.inverters[0].card.bank_internal:
        yield Change({}, {h.plan.seats.banks[0].card.id: {"energy_wh": 21000}})


@seed("M29", "SWITCH-HIGH")
def a_switch_out_of_reach(h: Good) -> Iterator[Change]:
    wall = h.job.walls[0]
    if h.family == "nec" and any(p.id == "sub-board" for p in wall.placements):
        yield change({f"walls.{wall.id}.placements.sub-board.y_mm": 1990})


@seed("M29", "PLACE-AIRED")
def lead_acid_in_a_closed_room(h: Good) -> Iterator[Change]:
    if h.plan.seats.banks[0].card.chemistry.startswith("lead-acid"):
        yield change({f"walls.{h.job.walls[0].id}.vent_cm2": 50})


@seed("", "SITE-HIGH")
def a_place_higher_than_anybody_made_it_for(h: Good) -> Iterator[Change]:
    yield change({"site.altitude_m": 3900})


@seed("", "SITE-SPAN")
def hot_and_cold_the_wrong_way_round(h: Good) -> Iterator[Change]:
    yield change({"site.room_low_c": 39, "site.room_high_c": 5})


@seed("M09", "PORT-CURRENT", "DEVICE-OVER-MAKER", "GRID-PASS-THROUGH")
def a_port_too_small_for_what_flows(h: Good) -> Iterator[Change]:
    for card in inverter_cards(h):
        ports = [
            p for p in value(h, card, "ports") if p["id"] in {e.port for z in h.sized.values() for c in z.circuit.cores for e in c.ends}
        ]
        for port in [p["id"] for p in ports if p["id"] != "EARTH"][:3]:
            yield Change({}, {card: {f"ports.{port}.max_a": 0.5}}, port)


@seed("M05", "PORT-VOLTAGE")
def contacts_that_do_not_stand_what_is_there(h: Good) -> Iterator[Change]:
    seen = set()
    for z in h.sized.values():
        for end in (e for core in z.circuit.cores if core.role != "earth" for e in core.ends):
            card = h.plan.house.cards[end.place]
            if (card.id, end.port) not in seen and any(p.id == end.port for p in card.ports):
                seen.add((card.id, end.port))
                yield Change({}, {card.id: {f"ports.{end.port}.max_v": z.demand.standing_v.value * 0.99}}, f"{card.id} {end.port}")


@seed("M29", "WALL-FRONT")
def a_maker_who_asks_more_room(h: Good) -> Iterator[Change]:
    for card in inverter_cards(h):
        yield Change({}, {card: {"body.clear_front_mm": 4000}}, card)


@seed("M37", "CT-OPENING")
def a_core_that_does_not_close(h: Good) -> Iterator[Change]:
    for meter in h.job.sensing.meters[:1]:
        if meter.card and meter.cts:
            size = "4/0 AWG" if h.family == "nec" else "70 mm2"
            yield Change({"site.service_size": size}, {meter.card: {"opening_mm": 10}})


@seed("M22", "BOARD-WAYS")
def more_circuits_than_the_board_has_ways(h: Good) -> Iterator[Change]:
    loads = h.document["loads"]
    more = [
        {**loads[0], "id": f"more-{n}", "side": "backed", "leg": "L1", "running_w": 1, "surge_w": 1, "starts_with": ""} for n in range(40)
    ]
    yield change({"loads": [*loads, *more]})


@seed("M44", "SET-CONTROL")
def control_that_nothing_answers(h: Good) -> Iterator[Change]:
    card = h.plan.seats.banks[0].card
    if card.open_loop is None:
        yield change({"settings.comms": "open loop"})
    if not card.data_ports and card.arrangement != "docked":
        yield change({"settings.comms": "closed loop"})


@seed("M46", "SET-TIMED")
def timed_without_a_window(h: Good) -> Iterator[Change]:
    yield change({"settings.work_mode": "timed", "settings.tariff": []})


@seed("M20", "LOAD-LEG-OVER", "LOAD-LEG-SURGE")
def all_loads_on_one_leg(h: Good) -> Iterator[Change]:
    backed = [x for x in h.job.loads if x.side == "backed"]
    limit = h.plan.loads.leg_limit.value
    if len(h.plan.house.legs) > 1 and sum(x.running_w for x in backed) > limit:
        yield change({f"loads.{x.id}.leg": "L1" for x in backed})


@seed("M30", "WALL-SWEEP", "WALL-CLEARANCE")
def no_room_for_the_conduits_sweep(h: Good) -> Iterator[Change]:
    raced = [r.id for r in h.job.runs if r.raceway and r.raceway not in ("wireway", "trunking") and r.id in h.sized]
    below = {c.circuit.source for c in h.sized.values()} | {c.circuit.load for c in h.sized.values()}
    wall = h.job.walls[0]
    for place in wall.placements:
        if raced and place.id in below and any(i.id == place.id for i in h.plan.seats.inverters):
            yield change({f"walls.{wall.id}.placements.{place.id}.y_mm": 20}, place.id)


@seed("M35", "PAR-ADDRESS", "PAR-TERMINATOR", "PAR-LEG", "PAR-BOND", "PAR-ALIKE", "PAR-SHIFT", "PAR-COUNT")
def a_group_told_wrong(h: Good) -> Iterator[Change]:
    units = h.plan.seats.inverters
    if len(units) > 1:
        yield change({f"things.{units[1].id}.address": units[0].thing.address}, "address")
        yield change({f"things.{units[0].id}.terminator": not units[0].thing.terminator}, "terminator")
        card = units[0].card
        yield Change({}, {card.id: {"parallel": None}}, "alone")
        if units[1].thing.phase:
            yield change({f"things.{units[1].id}.phase": units[0].thing.phase}, "phase")


@seed("M34", "LINK-SIGNAL", "LINK-SOCKET")
def a_gateway_without_its_cores(h: Good) -> Iterator[Change]:
    for t in h.plan.seats.transfers:
        for port in t.card.data_ports[:1]:
            pins = [p.model_dump() for p in port.pins][1:]
            yield Change({}, {t.card.id: {"data_ports": [{**port.model_dump(), "pins": pins}]}}, t.id)


@seed("M34", "LINK-LENGTH")
def a_bus_longer_than_it_reaches(h: Good) -> Iterator[Change]:
    if h.plan.links.wired:
        yield change({h.bank_path("lead_m"): 1200})


@seed("M05", "BANK-DWELLING-V")
def a_high_bank_in_reach(h: Good) -> Iterator[Change]:
    card = h.plan.seats.banks[0].card
    if h.family == "nec":
        yield Change({}, {card.id: {"live_parts_covered": False, "v_max": 300 if card.in_series else 130}})


# --- sensing, settings, start (M37, M42, M44 to M48) ---


@seed("M37", "CT-LEG", "CT-ARROW", "CT-SIDE", "CT-NONE")
def a_ct_that_lies(h: Good) -> Iterator[Change]:
    for meter in h.job.sensing.meters[:1]:
        for ct in meter.cts[:1]:
            path = f"sensing.meters.{meter.id}.cts.{ct.channel}"
            yield change({f"{path}.arrow": "toward grid" if ct.arrow == "toward house" else "toward house"}, "arrow")
            yield change({f"{path}.side": "between loads"}, "side")
            if len(h.plan.house.legs) > 1:
                yield change({f"{path}.leg": "L2"}, "leg")


@seed("M37", "CT-RATED")
def a_ct_too_small(h: Good) -> Iterator[Change]:
    for meter in h.job.sensing.meters[:1]:
        if h.job.site.service_main_a and meter.cts:
            yield Change({}, {str(meter.card): {"rated_a": h.job.site.service_main_a - 1}})


@seed("M42", "POWER-ORDER")
def another_order_of_first_power(h: Good) -> Iterator[Change]:
    yield Change({}, {inverter_cards(h)[0]: {"start_order": "pv first"}})


@seed("M44", "SET-ORDER", "SET-GAP", "SET-VOLTAGE-RANGE", "SET-DEPTH", "SET-RANGE")
def thresholds_that_stand_wrong(h: Good) -> Iterator[Change]:
    for ruler in h.plan.settings.rulers[:1]:
        rows = {r.key: r.amount.value for r in ruler.thresholds}
        yield change({"settings.cut_off_v": rows["alarm_v"]}, "order")
        yield change({"settings.cut_off_v": rows["cut_now_v"] + 0.01}, "gap")
        yield change({"settings.absorb_v": ruler.v_max.value + 0.1}, "range")
        yield change({"settings.recover_v": rows["grid_takeover_v"] - 0.1}, "recover")
    yield change({"settings.cut_off_pct": 1}, "depth")


@seed("M46", "SET-TARIFF-OVERLAP", "SET-TARIFF-PEAK", "SET-TARIFF-GAP")
def a_tariff_that_does_not_come_out(h: Good) -> Iterator[Change]:
    windows = h.document["settings"]["tariff"]
    if windows:
        peak = next(w["id"] for w in windows if w["kind"] == "peak")
        yield change({f"settings.tariff.{peak}.from_minute": 30}, "gap")
        yield change({f"settings.tariff.{peak}.from_hour": 15}, "overlap")
        yield change({f"settings.tariff.{peak}.grid_charge": True}, "peak")


@seed("M47", "SET-RESERVE-SHORT")
def an_outage_longer_than_the_reserve(h: Good) -> Iterator[Change]:
    yield change({"settings.outage_hours": 200})


@seed("M58", "RISE-OVER", "DROP-OVER", "DROP-TOTAL")
def a_run_so_long_that_volts_are_lost(h: Good) -> Iterator[Change]:
    for cid in ("grid", "bat-main"):
        if cid in h.sized and h.sized[cid].drop_pct.value * 300 / h.sized[cid].length.value > 6:
            yield change({f"runs.{cid}.length_m": 300, f"runs.{cid}.installed_size": h.sized[cid].installed.label}, cid)


# --- what harms nothing ---


@harmless
def shorter_routes(h: Good) -> Iterator[Change]:
    for run in h.job.runs:
        leads = {u.id for bank in h.job.banks for u in bank.units}
        of_a_group = len(h.plan.seats.inverters) > 1 and run.id.startswith("bat-main")
        if run.length_m and run.id not in leads and not of_a_group:
            yield change({f"runs.{run.id}.length_m": run.length_m * 0.9}, run.id)


@harmless
def all_leads_longer_alike(h: Good) -> Iterator[Change]:
    leads = {u.id for bank in h.job.banks for u in bank.units}
    runs = [r for r in h.job.runs if r.id in leads and r.length_m]
    if len(runs) > 1:
        yield change({f"runs.{r.id}.length_m": 1.1 * cast("float", r.length_m) for r in runs})


@harmless
def a_milder_place(h: Good) -> Iterator[Change]:
    site = h.job.site
    if site.room_low_c is not None and site.room_high_c is not None:
        yield change({"site.room_low_c": site.room_low_c + 1, "site.room_high_c": site.room_high_c - 1}, "room")
    if site.record_low_c is not None:
        yield change({"site.record_low_c": site.record_low_c + 2}, "record low")
    yield change({"site.altitude_m": min(site.altitude_m, 1500)}, "altitude")


@harmless
def cooler_routes(h: Good) -> Iterator[Change]:
    for run in h.job.runs:
        if run.ambient_c and run.ambient_c > 20:
            yield change({f"runs.{run.id}.ambient_c": run.ambient_c - 5}, run.id)


@harmless
def an_earth_one_size_larger(h: Good) -> Iterator[Change]:
    for cid, z in h.sized.items():
        if z.earth_required is not None and any(r.id == cid for r in h.job.runs):
            larger = h.smaller(z.earth_required.label, -1)
            ends = [t for t in h.plan.terminations if t.circuit == cid and t.role == "earth"]
            sizes = h.sizes()
            if larger and all(sizes.index(larger) <= sizes.index(t.terminal.size_max) for t in ends if t.terminal.size_max in sizes):
                yield change({f"runs.{cid}.installed_earth": larger}, cid)


@harmless
def smaller_loads_in_another_order(h: Good) -> Iterator[Change]:
    loads = h.document["loads"]
    yield change({"loads": [{**x, "running_w": x["running_w"] * 0.9, "surge_w": x["surge_w"] * 0.9} for x in loads]}, "smaller")
    yield change({"loads": loads[::-1]}, "order")
    yield change({f"loads.{loads[0]['id']}.title": "Something else"}, "title")


@harmless
def strings_in_another_order(h: Good) -> Iterator[Change]:
    if len(h.document["strings"]) > 1:
        yield change({"strings": h.document["strings"][::-1]})


@harmless
def other_labels(h: Good) -> Iterator[Change]:
    for s in strings_of(h):
        yield change({f"strings.{s['id']}.label_top": f"roof {s['id']}", f"strings.{s['id']}.label_bottom": f"roof {s['id']}"}, s["id"])


@harmless
def a_network_that_pushes_less(h: Good) -> Iterator[Change]:
    if h.job.site.grid_fault_a:
        yield change({"site.grid_fault_a": h.job.site.grid_fault_a * 0.9})


@harmless
def a_smaller_main_fitted(h: Good) -> Iterator[Change]:
    if h.job.site.service_main_a:
        yield change({"site.service_main_a": h.job.site.service_main_a * 0.95})


@harmless
def a_modbus_line_of_two_meters(h: Good) -> Iterator[Change]:
    if any(p.bus == "RS-485" and p.purpose == "meter" for p in h.plan.seats.inverter.data_ports):
        yield change(_meters(h, {"address": 247, "stub_m": 1}, {"address": 1, "load": "1/8"}))


@harmless
def contacts_that_just_stand_what_is_there(h: Good) -> Iterator[Change]:
    highest: dict[tuple[str, str], float] = {}
    for z in h.sized.values():
        for end in (e for core in z.circuit.cores if core.role != "earth" for e in core.ends):
            card = h.plan.house.cards[end.place]
            if any(p.id == end.port for p in card.ports):
                at = (card.id, end.port)
                highest[at] = max(highest.get(at, 0.0), z.demand.standing_v.value)
    for (card_id, port), volts in highest.items():
        yield Change({}, {card_id: {f"ports.{port}.max_v": volts}}, f"{card_id} {port}")


@harmless
def batteries_a_foot_off_their_bus(h: Good) -> Iterator[Change]:
    for bus in h.plan.links.wired:
        yield change({f"banks.{bus.seat.id}.stub_m": 0.3}, bus.seat.id)


@harmless
def a_lead_made_right_in_another_way(h: Good) -> Iterator[Change]:
    for bus in h.plan.links.wired:
        path = f"banks.{bus.seat.id}.lead_as_made"
        pairs = [{"inverter_pin": c.inverter_pin, "battery_pin": c.battery_pin} for c in bus.lead]
        yield change({path: pairs[::-1]}, "order")
        yield change(
            {path: [p for p, c in zip(pairs, bus.lead, strict=True) if c.signal not in ("GND", "RS-485 A", "RS-485 B")]}, "no reference"
        )
        sockets = value(h, bus.inverter.card.id, "data_ports")
        battery = next(p for p in sockets if p["id"] == bus.inverter_port.id)  # type: ignore[union-attr]
        other = {"id": "OTHER", "title": "Other", "bus": battery["bus"], "purpose": "other", "pins": [{"pin": 1, "signal": "CAN H"}]}
        yield Change({}, {bus.inverter.card.id: {"data_ports": [other, *sockets]}}, "another socket first")


@harmless
def stronger_equipment(h: Good) -> Iterator[Change]:
    for board in h.plan.house.boards:
        yield Change({}, {board.card.id: {"interrupting_a": 25000, "ways": 60}}, board.id)
    for fuse in h.plan.seats.switch_fuses[:1]:
        yield Change({}, {fuse.card.id: {"interrupting_a": 50000, "voltage_dc": 2 * fuse.card.voltage_dc}}, fuse.id)
    bank = h.plan.seats.banks[0].card
    yield Change(
        {}, {bank.id: {"peak_a": bank.peak_a * 1.5, "charge_min_c": bank.charge_min_c - 5, "charge_max_c": bank.charge_max_c + 5}}, bank.id
    )
    for card in inverter_cards(h):
        yield Change({}, {card: {"ambient_min_c": -40, "ambient_max_c": 60, "altitude_max_m": 4000}}, card)


@harmless
def an_opening_far_away(h: Good) -> Iterator[Change]:
    for wall in h.plan.walls[:1]:
        right = max(b.clear.x + b.clear.w for b in wall.boxes) + 1500
        opening = {"id": "far", "title": "far", "kind": "window", "x_mm": right, "y_mm": 1000, "width_mm": 300, "height_mm": 300}
        yield change({f"walls.{wall.id}.openings": [opening]})


@harmless
def more_room_and_more_patience(h: Good) -> Iterator[Change]:
    yield change({f"walls.{h.job.walls[0].id}.free_depth_mm": 3000}, "depth")
    yield change({"settings.outage_hours": h.job.settings.outage_hours * 0.5}, "outage")
    yield change({"preferences.slack_pct": 20, "preferences.pv_loss_pct": 20}, "preferences")


@harmless
def a_tariff_told_otherwise(h: Good) -> Iterator[Change]:
    windows = h.document["settings"]["tariff"]
    if windows:
        yield change({"settings.tariff": windows[::-1]}, "order")
        week = [{**w, "id": f"{w['id']}-{d}", "days": d} for w in windows for d in ("weekdays", "weekends")]
        yield change({"settings.tariff": week}, "weekdays and weekends")


@harmless
def batteries_by_other_names(h: Good) -> Iterator[Change]:
    """Any name will do for a battery: its run and its place go with it."""
    names = {u.id: f"rack{n}-zelle" for bank in h.job.banks for n, u in enumerate(bank.units)}

    def renamed(node: Any) -> Any:
        if isinstance(node, dict):
            return {key: renamed(x) for key, x in node.items()}
        if isinstance(node, list):
            return [renamed(x) for x in node]
        return names.get(node, node) if isinstance(node, str) else node

    document = renamed({key: h.document[key] for key in ("banks", "runs", "walls")})
    yield change(document)
