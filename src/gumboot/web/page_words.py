"""What the pages say of a view: small questions that templates ask, so that they hold no rule and no arithmetic."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple

from gumboot.core.card.model import AnyCard
from gumboot.core.card.storage import SwitchFuseCard
from gumboot.core.errors import GumbootError
from gumboot.core.figure import Figure
from gumboot.core.installation import Circuit
from gumboot.core.job.model import Meter, Wall
from gumboot.core.plan.bank import BankPlan
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.faults import FaultAt
from gumboot.core.plan.loads.school import is_single_line
from gumboot.core.plan.power_up.station import closed_by
from gumboot.core.plan.sensing import CtSet
from gumboot.core.plan.settings import ORDER
from gumboot.core.plan.survey import GROUPS, asked_first
from gumboot.core.record import AnyRecord, Reading
from gumboot.core.rulebook.books import book
from gumboot.core.rulebook.iec_family.conductors import SIZES as SIZES_MM2
from gumboot.core.rulebook.loader import source
from gumboot.core.rulebook.north_american.conductors import SIZES
from gumboot.core.sim.ct_readings import ANGLES
from gumboot.core.sim.switch_line import live_nodes
from gumboot.core.study.compare import changed_fields
from gumboot.core.study.fit import ratings
from gumboot.core.study.growth import Addition, Refusal, refusals
from gumboot.core.study.layout_ranks import Layout
from gumboot.core.study.layouts import Lay, why_not
from gumboot.core.study.offers import Offer, offers
from gumboot.core.units import lbf_ft_from_nm
from gumboot.drawing import show
from gumboot.web import equipment, studies, urls
from gumboot.web.quantities import parse
from gumboot.web.view import Bench

# The figure whose working is open when a station is entered: the first of these that the plan has.
FIRST_FIGURE = {
    "loads": ("loads.running.L2", "loads.running.total"),
    "strings": ("strings.PV1.cold_v", "strings.power"),
    "bank": ("bank.design_a",),
    "circuits": ("circuits.bat-main.code_size", "circuits.backup.code_size"),
    "wall": ("wall.inverter.ratio", "wall.inverter.screen", "wall.energy"),
    "links": ("links.pair_ohm", "bank.usable"),
    "sensing": ("sensing.CT1.expected", "in.site.service_main_a"),
    "survey": ("circuits.busbar_sum", "bank.delivered"),
    "hand-over": ("settings.reserve_hours",),
    "prove": ("strings.PV1.today_v", "bank.usable"),
    "power-up": ("bank.precharge_s",),
    "settings": ("settings.discharge_a",),
    "live-checks": ("in.site.export_limit_w", "const.cp.thermal.T_max"),
}


def default_figure(view: Bench) -> str:
    """The figure whose working is open when none was chosen: the one a finding speaks of, else the station's own."""
    spoken = next((f.found.key for f in view.plan.at(view.station) if f.found is not None and f.level != "note"), "")
    if view.station == "wire":
        spoken = next((t.torque.key for t in view.plan.terminations if t.torque and not view.standing.torques[t.id].good), "")
    return spoken or next((key for key in FIRST_FIGURE.get(view.station, ()) if key in view.plan.figures), "")


def island_title(plan: Plan) -> str:
    """What people call an island: its leader, and the boards that it feeds."""
    lead, boards = plan.house.lead, [b.name for b in plan.house.boards]
    return f"{lead.name}: {' and '.join(boards)}"


def backed_boards(view: Bench) -> list[tuple[str, str]]:
    """The backed-up boards that a load may be on, by id and name; the first is where a load is that names none."""
    return [("" if n == 0 else b.id, b.name) for n, b in enumerate(view.plan.house.boards)]


def legs(view: Bench) -> tuple[str, ...]:
    """Legs or phases that the inverter gives which reads the supply."""
    return tuple(view.plan.loads.running)


def leg_options(view: Bench) -> list[str]:
    """Where a load may sit: one leg, or across them."""
    have = view.plan.house.legs
    across = ["+".join(have)] if len(have) > 1 else []
    used = [x.leg for x in view.job.loads if x.leg not in (*have, *across)]
    return [*have, *across, *dict.fromkeys(used)]


def input_names(view: Bench) -> list[str]:
    """Every PV input of the house, each by a name of its own."""
    return [at.name for at in view.plan.house.inputs]


def tracker_ids(view: Bench) -> list[str]:
    """What inverters of the job call their PV inputs, each once."""
    return list(dict.fromkeys(at.tracker.id for at in view.plan.house.inputs))


def bridges(view: Bench) -> bool:
    """Whether an input of the house has a maker's bridge, or a string is set to one."""
    return any(at.tracker.bridge_max_a is not None for at in view.plan.house.inputs) or any(s.bridge for s in view.job.strings)


def with_inputs(view: Bench) -> list[str]:
    """The inverters that have PV inputs."""
    return list(dict.fromkeys(at.place for at in view.plan.house.inputs))


def sizes_of(view: Bench) -> tuple[str, ...]:
    """Conductor sizes of the job's rule book, as labels."""
    return SIZES if book(view.job.rule_book).family == "nec" else tuple(f"{size} mm2" for size in SIZES_MM2)


def insulations_of(view: Bench, circuit: str) -> tuple[str, ...]:
    """Types of insulation that the job's rule book knows, and the one that a run has all the same."""
    known = book(view.job.rule_book).wiring.insulations
    own = next((run.insulation for run in view.job.runs if run.id == circuit and run.insulation), None)
    return known if own is None or own in known else (*known, own)


def usual_insulation(view: Bench, circuit: Circuit) -> str:
    """What a run is laid in where nothing else is decided."""
    return book(view.job.rule_book).usual_insulation(pv=circuit.kind == "pv")


def places(view: Bench) -> list[str]:
    """Enclosures in which conductors land, in order."""
    return list(dict.fromkeys(t.place for t in view.plan.terminations))


def place_title(view: Bench, place: str) -> str:
    """What an enclosure is called beside its name: its own title, where it has one, and its card's."""
    title = next((str(thing.title) for thing in view.job.things if thing.id == place), "")
    card = next(t.place_title for t in view.plan.terminations if t.place == place)
    return f"{title}, {card}" if title else card


def done_at(view: Bench, place: str) -> str:
    """How many terminations of an enclosure are recorded."""
    here = [t for t in view.plan.terminations if t.place == place]
    return f"{sum(view.standing.torques[t.id].good for t in here)} of {len(here)}"


def good_torques(view: Bench) -> list[str]:
    """Terminations with a good record."""
    return [tid for tid, judged in view.standing.torques.items() if judged.good]


def done_steps(view: Bench) -> list[str]:
    """Steps of first power that are recorded."""
    return [sid for sid, judged in view.standing.steps.items() if judged.good]


def good_checks(view: Bench) -> list[str]:
    """Checks whose reading stands in its band."""
    return [cid for cid, judged in view.standing.checks.items() if judged.good]


def term_href(view: Bench) -> Callable[[str], str]:
    """Address of a termination's card."""
    return lambda tid: urls.termination(view.job.id, tid)


def closed_now(view: Bench) -> frozenset[str]:
    """Switches that the recorded steps have closed."""
    return closed_by(view.plan.power_up.line, (s for s in view.plan.power_up.steps if view.standing.steps[s.id].good))


def live_now(view: Bench) -> dict[str, str]:
    """Nodes that the recorded steps have made live."""
    return live_nodes(view.plan.power_up.line, closed_now(view))


def free_places(view: Bench) -> list[str]:
    """Boxes of this job that have no place on the wall yet."""
    hung = {p.id for wall in view.job.walls for p in wall.placements}
    return [x for x in view.plan.house.hangable if x not in hung]


@dataclass(frozen=True, slots=True)
class MeterRow:
    """A set of CTs as Sensing shows it: as the job has it, as it is planned, who reads it, and the inputs that have no CT yet."""

    meter: Meter
    planned: CtSet | None
    reader: str
    free: tuple[str, ...]
    lines: tuple[str, ...]
    spare: bool


def meters_of(view: Bench) -> list[MeterRow]:
    """Every set of CTs of the job, those that are read first."""
    planned = {each.meter: each for each in view.plan.sensing.sets}
    units, meters = {i.id: i for i in view.plan.seats.inverters}, view.job.sensing.meters
    found = []
    for meter in sorted(meters, key=lambda m: list(planned).index(m.id) if m.id in planned else len(planned)):
        unit, used = units.get(meter.inverter), {c.channel for c in meter.cts}
        free = tuple(c.id for c in unit.card.ct_channels if c.id not in used) if unit else ()
        own = planned.get(meter.id)
        lines = tuple(ANGLES[own.flow if own else "three phase"])
        found.append(MeterRow(meter, own, unit.name if unit else meter.inverter, free, lines, len(meters) > 1))
    return found


def meter_of(view: Bench, path: str) -> MeterRow:
    """The set whose list of CTs is named. Raises StopIteration for one that the job has not."""
    return next(row for row in meters_of(view) if path == f"sensing.meters.{row.meter.id}.cts")


def test_legs(view: Bench) -> list[str]:
    """The lines on which the meter tests switch known loads on."""
    return sorted({leg for each in view.plan.sensing.sets for leg in each.legs})


def where_of(view: Bench, path: str) -> str:
    """The page on which a question is answered."""
    station = next((g.station for g in view.plan.gaps if g.path == path), "survey")
    return urls.station(view.job.id, station) + "#f-" + path.replace(".", "-")


def place_of(view: Bench, path: str) -> equipment.Place:
    """A place for equipment by the path of its card. Raises KeyError for one that the job has not."""
    found = next((place for place in equipment.places(view.job) if place.path == path), None)
    if found is None:
        raise KeyError(path)
    return found


def offers_of(view: Bench, place: equipment.Place) -> tuple[Offer, ...]:
    """Cards for a place, with what each would bring."""
    shelf = view.shelf
    return studies.once(view.plan, f"offers {place.path} {len(shelf)}", lambda: tuple(offers(view.plan, shelf, place.path, place.role)))


def fixing_text(view: Bench, wall: Wall) -> str:
    """What goes into the holes of a wall's drill list."""
    if wall.surface != "masonry":
        return f"{wall.anchor.diameter_mm:g} × {wall.anchor.length_mm:g} mm lag screws"
    card = view.plan.seats.anchor
    if card is None:
        return "the masonry anchor is not chosen"
    return f"{card.title}: {card.hole_mm:g} mm bit, {card.hole_depth_mm:g} mm deep"


def reading_text(record: AnyRecord) -> str:
    """A reading as it was typed; an older record keeps its value only."""
    if not isinstance(record, Reading):
        return ""
    typed, value = record.typed, record.value
    return str(typed) if typed else "OL" if value is None else f"{value:g}"


def cards_behind(view: Bench) -> dict[str, Any]:
    """Cards of the job of which there is a newer revision."""
    return view.behind


def batteries(view: Bench) -> list[Any]:
    """Battery cards, the job's own first."""
    rows = [c for c in view.shelf.values() if c.kind == "battery"]
    return sorted(rows, key=lambda c: (c.id != view.plan.seats.battery.id, c.title))


def joins(view: Bench) -> tuple[Refusal, ...] | str:
    """What speaks against the battery asked about, or what cannot be read."""
    card = view.shelf.get(view.query.get("join", ""))
    if card is None:
        return "There is no such card."
    numbers: dict[str, float | None] = {}
    for key, words in (
        ("age", "its age"),
        ("bank_age", "the bank's age"),
        ("volts", "what it measures"),
        ("bank_volts", "what the bank measures"),
    ):
        text = view.query.get(key, "").strip()
        try:
            numbers[key] = parse(text, "V" if key.endswith("volts") else "") if text else None
        except GumbootError as refused:
            return f"{words.capitalize()}: {refused}"
    firmware = view.query.get("firmware", "").strip() or None
    age, volts = (numbers["age"], numbers["bank_age"]), (numbers["volts"], numbers["bank_volts"])
    return refusals(view.plan, Addition(card, age[0], firmware, volts[0], age[1], volts[1], view.query.get("bank", "")))


def fuses_of(view: Bench, bank: BankPlan) -> list[SwitchFuseCard]:
    """The cards of the fuses in a bank's mains, each once."""
    return list({seat.card.id: seat.card for seat in view.plan.house.fuses_of(bank.id)}.values())


def single_line_of_a_board(view: Bench) -> bool:
    """Whether one line feeds a backed-up board that may have been built for two."""
    return any(is_single_line(part) for part in view.plan.house.islands)


def house_notes(view: Bench) -> list[str]:
    """What practice has to say of the batteries and inverters of this house, each once."""
    seats = view.plan.seats
    notes = [note for group in (seats.banks, seats.inverters) for seat in group for note in seat.card.house_notes]
    return list(dict.fromkeys(notes))


def goes_in_first(view: Bench) -> list[str]:
    """What must be in an inverter before it hangs on the wall, each once."""
    return list(dict.fromkeys(part for seat in view.plan.seats.inverters for part in seat.card.goes_in_first))


def counted(cards: Sequence[AnyCard]) -> str:
    """Cards in words, each once with its number where there are several."""
    found = Counter(card.title for card in cards)
    return ", ".join(f"{number} × {title}" if number > 1 else title for title, number in found.items())


def lay_text(lays: tuple[Lay, ...]) -> str:
    """A layout as an address and a form carry it."""
    return ",".join(f"{x.tracker}:{x.face}:{x.modules}:{x.count}:{1 if x.bridge else 0}" for x in lays)


def same_layout(view: Bench, layout: Layout) -> bool:
    """Whether a layout is the one that is planned."""
    house = view.plan.house
    mine = sorted((at.name, s.face, s.modules, s.bridge) for at in house.inputs for s in house.strings_on(at))
    return mine == sorted((x.tracker, x.face, x.modules, x.bridge) for x in layout.lays for _ in range(x.count))


def asked_layout(view: Bench) -> tuple[Lay, ...]:
    """The layout that a person asks about, from the address."""
    found = []
    for tracker in input_names(view):
        count, modules = view.query.get(f"n.{tracker}", ""), view.query.get(f"m.{tracker}", "")
        if count.isdigit() and modules.isdigit() and 0 < int(count) <= 10 and 0 < int(modules) <= 60:
            found.append(Lay(tracker, view.query.get(f"f.{tracker}", ""), int(modules), int(count)))
    return tuple(found)


def cited(key: str) -> str:
    """Where a figure comes from, in words."""
    if key.startswith("input:"):
        return f"decided in the job: {key[6:]}"
    if key.startswith("card:"):
        return f"card {key.split(':', 2)[1]}: {key.split(':', 2)[2]}"
    return f"{source(key).citation}: {source(key).title}"


class FaultRow(NamedTuple):
    """Places of one side with one fault current, and where it comes from, in words."""

    places: str
    side: str
    amps: Figure | None
    sources: str
    silent: str


def _place(view: Bench, place: str) -> str:
    """A place as a line of a table begins: a name of the job without its hyphens; a battery, an input and the network go by their own."""
    if place not in {seat.id for seat in view.plan.seats.all()}:
        return place
    words = show.place_words(view.plan.house, place)
    words = words.replace("-", " ").replace("pv ", "PV ") if words == place else words
    return words[:1].upper() + words[1:]


def faults_of(view: Bench) -> list[FaultRow]:
    """The fault current at each place; places that share a figure stand in one row."""
    rows: dict[tuple[str, str, tuple[str, ...]], list[FaultAt]] = {}
    for fault in view.plan.faults.at:
        rows.setdefault((fault.side, fault.amps.key if fault.amps else fault.place, fault.silent), []).append(fault)
    found = []
    for (side, _, _), same in rows.items():
        names, first = [_place(view, fault.place) for fault in same], same[0]
        called = ", ".join(names) if len(names) < 4 else f"{names[0]} to {names[-1]}"
        sources, silent = (", ".join(_place(view, name) for name in group) for group in (first.sources, first.silent))
        found.append(FaultRow(called, side, first.amps, sources, silent))
    return found


# What two designs are told apart by at a glance.
GLANCE: tuple[tuple[str, Callable[[Plan], str]], ...] = (
    ("Inverter", lambda p: counted([seat.card for seat in p.seats.inverters])),
    ("Batteries", lambda p: " + ".join(f"{len(bank.thing.units)} × {bank.card.title}" for bank in p.seats.banks)),
    ("Modules", lambda p: str(sum(s.modules for s in p.job.strings))),
    ("Stops, cautions", lambda p: f"{len(p.stops)}, {sum(f.level == 'caution' for f in p.findings)}"),
    ("Not answered", lambda p: str(len(p.gaps))),
    ("Usable energy", lambda p: " + ".join(show.figure_text(bank.supply.usable) for bank in p.banks)),
    ("Shortest dark outage", lambda p: "; ".join(show.figure_text(island.loads.shortest) for island in p.islands)),
    ("Weakest link", lambda p: "; ".join(f"{bank.weakest.title}, {show.figure_text(bank.weakest.amps)}" for bank in p.banks)),
)

# What the templates may ask, beside the view itself.
WORDS: dict[str, Any] = {
    "reading_text": reading_text,
    "fixing_text": fixing_text,
    "free_places": free_places,
    "meter_of": meter_of,
    "test_legs": test_legs,
    "meters_of": meters_of,
    "asked_first": asked_first,
    "where_of": where_of,
    "offers_of": offers_of,
    "place_of": place_of,
    "ratings": ratings,
    "cards_behind": cards_behind,
    "changed_fields": changed_fields,
    "batteries": batteries,
    "fuses_of": fuses_of,
    "faults_of": faults_of,
    "house_notes": house_notes,
    "single_line_of_a_board": single_line_of_a_board,
    "counted": counted,
    "goes_in_first": goes_in_first,
    "joins": joins,
    "lay_text": lay_text,
    "same_layout": same_layout,
    "asked_layout": asked_layout,
    "why_not": why_not,
    "glance": GLANCE,
    "cited": cited,
    "default_figure": default_figure,
    "places": places,
    "place_title": place_title,
    "done_at": done_at,
    "good_torques": good_torques,
    "done_steps": done_steps,
    "good_checks": good_checks,
    "term_href": term_href,
    "closed_now": closed_now,
    "live_now": live_now,
    "legs": legs,
    "leg_options": leg_options,
    "island_title": island_title,
    "backed_boards": backed_boards,
    "tracker_ids": tracker_ids,
    "input_names": input_names,
    "with_inputs": with_inputs,
    "bridges": bridges,
    "insulations_of": insulations_of,
    "usual_insulation": usual_insulation,
    "sizes_of": sizes_of,
    "lbf_ft": lbf_ft_from_nm,
    "GROUPS": GROUPS,
    "THRESHOLDS": ORDER,
}
