"""What the pages say of a view: small questions that templates ask, so that they hold no rule and no arithmetic."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

from gumboot.core.card.model import AnyCard
from gumboot.core.figure import Figure
from gumboot.core.job.model import Meter
from gumboot.core.plan.derive import Plan
from gumboot.core.rulebook.books import book
from gumboot.core.rulebook.iec_family.conductors import SIZES as SIZES_MM2
from gumboot.core.rulebook.loader import source
from gumboot.core.rulebook.north_american.conductors import SIZES
from gumboot.core.sim.ct_readings import ANGLES
from gumboot.core.study.fit import ratings
from gumboot.core.study.offers import Offer, offers
from gumboot.drawing import show
from gumboot.web import equipment, studies
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


def leg_options(view: Bench) -> list[str]:
    """Where a load may sit: one leg, or across them."""
    have = view.plan.house.legs
    across = ["+".join(have)] if len(have) > 1 else []
    used = [x.leg for x in view.job.loads if x.leg not in (*have, *across)]
    return [*have, *across, *dict.fromkeys(used)]


def input_names(view: Bench) -> list[str]:
    """Every PV input of the house, each by a name of its own."""
    return [at.name for at in view.plan.house.inputs]


def sizes_of(view: Bench) -> tuple[str, ...]:
    """Conductor sizes of the job's rule book, as labels."""
    return SIZES if book(view.job.rule_book).family == "nec" else tuple(f"{size} mm2" for size in SIZES_MM2)


def free_places(view: Bench) -> list[str]:
    """Boxes of this job that have no place on the wall yet."""
    hung = {p.id for wall in view.job.walls for p in wall.placements}
    return [x for x in view.plan.house.hangable if x not in hung]


def meter_at(view: Bench, path: str) -> Meter:
    """The set of CTs whose list is named. Raises StopIteration for one that the job has not."""
    return next(meter for meter in view.job.sensing.meters if path == f"sensing.meters.{meter.id}.cts")


def free_channels(view: Bench, meter: Meter) -> tuple[str, ...]:
    """The inputs of a set's reader that have no CT yet."""
    unit = next((seat for seat in view.plan.seats.inverters if seat.id == meter.inverter), None)
    used = {ct.channel for ct in meter.cts}
    return tuple(channel.id for channel in unit.card.ct_channels if channel.id not in used) if unit else ()


def lines_of(view: Bench, meter: Meter) -> tuple[str, ...]:
    """The lines on which a CT of a set may sit."""
    planned = next((each for each in view.plan.sensing.sets if each.meter == meter.id), None)
    return tuple(ANGLES[planned.flow if planned else "three phase"])


def offers_of(view: Bench, place: equipment.Place) -> tuple[Offer, ...]:
    """Cards for a place, with what each would bring."""
    shelf = view.shelf
    return studies.once(view.plan, f"offers {place.path} {len(shelf)}", lambda: tuple(offers(view.plan, shelf, place.path, place.role)))


def counted(cards: Sequence[AnyCard]) -> str:
    """Cards in words, each once with its number where there are several."""
    found = Counter(card.title for card in cards)
    return ", ".join(f"{number} × {title}" if number > 1 else title for title, number in found.items())


def cited(key: str) -> str:
    """Where a figure comes from, in words."""
    if key.startswith("input:"):
        return f"decided in the job: {key[6:]}"
    if key.startswith("card:"):
        return f"card {key.split(':', 2)[1]}: {key.split(':', 2)[2]}"
    return f"{source(key).citation}: {source(key).title}"


def held_words(view: Bench) -> str:
    """Why a station is held, in words."""
    if view.station == "power-up":
        outside = "a reading stands outside its band: no step goes on until it is mended or cleared."
        return "the plan has stops: no step goes on." if view.plan.stops else outside
    number = view.standing.stations[view.station].stops
    several = number > 1
    return (
        f"{number} reading{'s' if several else ''} that guard{'' if several else 's'} life stand{'' if several else 's'} outside the band."
    )


class Cited(NamedTuple):
    """A line of a working: what it tells, its words, and a path in code."""

    term: str
    words: str
    code: str = ""


def cited_of(view: Bench, figure: Figure) -> list[Cited]:
    """Where a figure comes from: a decision of the job, a card with its revision, or a clause with what is known of it."""
    kind, _, rest = figure.source.partition(":")
    if kind == "input":
        return [Cited("decided", "in this job:", rest)]
    if kind == "card":
        card, _, path = rest.partition(":")
        return [Cited("card", f"{view.plan.shelf[card].title}, revision {view.plan.shelf[card].revision}:", path)]
    told = source(figure.source)
    lines = [Cited("clause", f"{told.citation}: {told.title}"), Cited("known by", told.known)]
    lines += [Cited("valid for", told.valid)] if told.valid else []
    return [*lines, Cited("left open", told.left)] if told.left else lines


def feeds_of(view: Bench, figure: Figure) -> list[Figure]:
    """Figures that rest directly on one."""
    return studies.feeds(view.plan, figure.key)


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

# What the templates of whole pages may ask, beside the view itself.
WORDS: dict[str, Any] = {
    "ratings": ratings,
    "counted": counted,
    "glance": GLANCE,
    "cited": cited,
    "default_figure": default_figure,
    "held_words": held_words,
    "cited_of": cited_of,
    "feeds_of": feeds_of,
}
