"""What each demo house's plan says, and the studies of some, line by line, kept so that a change nobody meant is seen: ``python -m tests.keep`` writes it anew.

A change that is meant shows in the difference of these files, to be read like any other.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from gumboot.catalogue import demo_houses, shelf
from gumboot.core.figure import Figure
from gumboot.core.plan.circuits.parts import Demand
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.prove import Check
from gumboot.core.study.alternatives import alternatives
from gumboot.core.study.growth import helps_power, room_to_grow
from gumboot.core.study.layout_ranks import find_layouts, layout_key
from gumboot.core.study.materials import materials
from gumboot.core.study.offers import offers
from gumboot.core.study.pick import NoAnswer, balance_legs, best_pick, limits_of, options_of, what_may_start_together
from gumboot.core.study.schools import compare_schools
from gumboot.core.study.year import study_year
from gumboot.drawing import single_line
from gumboot.web.equipment import places

KEPT = Path(__file__).parent / "documents" / "plans"
STUDIES = KEPT.parent / "studies"
TURNED = KEPT.parent / "turned"
STUDIED = ("d1-saltmarsh", "d2-schoolhouse", "d3-lockkeeper", "g02-dairy")
HOUSES = [path.name.removesuffix(".gumboot.json") for path in demo_houses()]


def _key(figure: Figure | None) -> str:
    return figure.key if figure else ""


def _check(c: Check) -> str:
    band = f"{_key(c.low)} | {_key(c.high)} | {_key(c.expected)} | {_key(c.cell)} {c.per_k:g}"
    waits = f"{c.life} | {c.shows} | {c.after} | {c.of} | {c.spread_of}"
    return f"check {c.id} | {c.station} | {c.title} | {c.unit} | {band} | {c.code} | {c.measures} | {c.why} | {c.caution} | {c.prepare} | {waits}"


def _needed(d: Demand) -> str:
    least = f"{d.maker_min} {d.maker_source} | {d.terminal_min} {d.terminal_source}"
    return f"{d.device_place} | {d.needs_device} {_key(d.fixed_device_a)} | {d.flow} {_key(d.volts)} {_key(d.losing_a)} | {least}"


def _banked(plan: Plan) -> Iterator[str]:
    for bank in plan.banks:
        yield f"bank {bank.id} | weakest {bank.weakest.title} | {[_key(f) for f in bank.shares]} | {_key(bank.main_ampacity)}"
        for link in bank.chain:
            yield f"bank {bank.id} | {link.title} | {_key(link.amps)} | {link.is_battery}"
    for bus in plan.links.buses:
        yield f"bus {bus.seat.id} | {bus.inverter.id} | {[(c.signal, c.inverter_pin, c.battery_pin, c.colour) for c in bus.lead]} | {_key(bus.pair_ohm)} | {bus.none_because}"
        for unit in bus.chain:
            yield f"link {unit.unit.id} | {unit.wanted_address} | {unit.wanted_dip} | {unit.wants_terminator}"
    for group in plan.links.groups:
        units = [(u.seat.id, u.leads, u.wanted_address, u.wants_terminator) for u in group.units]
        yield f"group {group.of} | {units} | {_key(group.pair_ohm)}"


def _of_sky(plan: Plan) -> Iterator[str]:
    for t in plan.strings.trackers if plan.strings else ():
        volts = [_key(f) for f in (t.cold_v, t.hot_v, t.limit_v, t.window_low_v, t.start_v, t.today_v)]
        yield f"tracker {t.name} | {t.modules} | {volts} | {[_key(f) for f in (t.operating_a, t.maximum_a, t.count_most, t.count_least)]}"
    for ct in plan.sensing.cts:
        yield f"ct {ct.place.channel} | {ct.wanted_leg} | {ct.wanted_arrow} | {_key(ct.expected)}"


def told(plan: Plan) -> Iterator[str]:
    """Every figure, finding, landing, check, step, setting, hole, label, item and circuit of a plan, one a line."""
    for key, f in sorted(plan.figures.items()):
        yield f"figure {key} | {f.name} | {f.symbol} | {f.value:.9g} {f.unit} | {f.source} | {f.label} | {f.formula} | {f.limits}"
    for x in plan.findings:
        parts = (x.level, x.station, x.where, x.text, x.act, x.source, _key(x.found), _key(x.limit), x.field)
        yield f"finding {x.code} | {' | '.join(parts)}"
    for t in plan.terminations:
        band = f"{_key(t.torque)} | {_key(t.torque_low)} | {_key(t.torque_high)}"
        yield f"landing {t.id} | {t.size} | {t.colour} | {t.preparation} | {band} | {t.live_method}"
    yield from map(_check, plan.all_checks())
    for s in plan.power_up.steps:
        yield f"step {s.id} | {s.title} | {s.move} {s.opens} {s.back} | {s.holds} | {s.lands} | {s.needs} | {_key(s.figure)} | {s.see} | {s.caution}"
    yield f"switched off | {plan.power_up.off_order}"
    for switch in plan.power_up.line.switches:
        yield f"switch {switch}"
    for row in plan.settings.sheet:
        yield f"setting {row.key} | {row.title} | {_key(row.figure)} | {row.text} | {row.guards} | {row.why}"
    for wall in plan.walls:
        for box in wall.boxes:
            yield f"box {box.id} | {box.rect} | {box.clear} | {_key(box.screw_ratio)} | {_key(box.screen)} | {box.holds_battery}"
        for hole in (h for box in wall.boxes for h in box.holes):
            yield f"hole {hole.box} {hole.id} | {hole.x_mm.value:g} {hole.y_mm.value:g} | {hole.stud_x_mm} | {hole.hits}"
    for label in plan.labels:
        yield f"label {label.place} | {label.text} | {label.source}"
    yield from _banked(plan)
    yield from _of_sky(plan)
    for z in plan.circuits.sized.values():
        yield f"circuit {z.circuit.id} | {z.size} | {z.earth_size} | {_key(z.device)} | {z.circuit.kind} {z.circuit.owner} | {_needed(z.demand)}"
    for item in materials(plan).items:
        yield f"item {item.group} | {item.item} | {item.quantity:g} {item.unit} | {item.where}"
    for words in sorted(shape.words for shape in single_line.canvas(plan).shapes if shape.words):
        yield f"drawn {words}"


def spelled(figure: Figure | None) -> str:
    """Key, value, unit and source of a figure; nothing of none."""
    return f"{figure.key} {figure.value:.6g} {figure.unit} {figure.source}" if figure else ""


def yearly(plan: Plan) -> Iterator[str]:
    """What the year of a house says."""
    study = study_year(plan)
    yield f"year waits for {study.waits_for}"
    for key, f in sorted(study.figures.items()):
        yield f"year {key} | {f.name} | {f.value:.6g} {f.unit} | {f.source} | {f.formula}"
    for note in study.notes:
        yield f"year note {note}"
    for name, series in (("pv", study.pv_month_kwh), ("load", study.load_month_kwh), ("import", study.import_month_kwh)):
        yield f"year months {name} | {[float(f'{x:.5g}') for x in series] if series is not None else None}"
    for figure in (*study.percentiles, *study.reserves, *([study.share] if study.share else [])):
        yield f"year says {spelled(figure)}"
    for more in study.buys:
        yield f"year buys {more.title} | {spelled(more.hours)} | {spelled(more.own)}"


def picked(plan: Plan) -> Iterator[str]:
    """What is picked for the backed-up side, by which limits, and what may start together."""
    for free in (False, True):
        try:
            pick = best_pick(plan, free)
        except NoAnswer as refused:
            yield f"pick {free} | {refused}"
            continue
        for left in pick.left_out:
            for short in left.because:
                yield f"pick {free} leaves {left.load.id} | {short.limit} | {short.over:.6g} {short.unit} | {short.takes} | {spelled(short.figure)}"
        yield f"pick {free} | {[(load.id, leg) for load, leg in pick.chosen]}"
    options = options_of(plan.job.loads, plan.house.legs, legs_free=True)
    for limit in limits_of(plan, plan.job.loads, options):
        yield f"limit {limit.title} | {limit.unit} | {limit.most:.6g} | {[round(x, 3) for x in limit.adds]}"
    balance = balance_legs(plan)
    yield f"balance {balance.moves} | {[spelled(balance.after(leg)) for leg in balance.after_w]}"
    starts = what_may_start_together(plan)
    yield f"starts {starts.names} | {starts.titles} | {starts.pairs} | {starts.largest}"
    for school in compare_schools(plan):
        yield f"school {school.name} | {school.chosen} {school.circuits} | {school.by_hand} | {school.needs} | {[f.key for f in school.findings]}"


def studied(plan: Plan) -> Iterator[str]:
    """What the studies of a house say: year, picks, limits, starts, schools, layouts, other sizes, growth and cards that fit."""
    yield from yearly(plan)
    yield from picked(plan)
    for first in ("yield", "margin", "wiring"):
        found = find_layouts(plan, first=first)
        yield f"layouts {first} | {found.tried} {found.fit} | {found.counts} | {found.waits_for}"
        for x in found.best:
            yield f"layout {first} | {layout_key(x.lays)} | {x.modules} {x.cores} {x.spread:g} | {spelled(x.margin)} | {spelled(x.yearly)} | {x.why}"
    for circuit in plan.circuits.sized:
        for other in alternatives(plan, circuit):
            drop = f"{other.sized.drop_pct.value:.6g}" if other.sized else ""
            yield f"size {circuit} {other.size} | {other.pulled} | {drop} | {other.copper_kg:.6g} | {sorted(f.key for f in other.breaks)}"
            yield f"size {circuit} {other.size} | {spelled(other.copper)} | {spelled(other.headroom)}"
    for bank in plan.seats.banks:
        for room in room_to_grow(plan, bank.id):
            yield f"room {room.bank} | {room.limit} | {room.more} | {room.why}"
        yield f"power {bank.id} | {helps_power(plan, bank.id)}"
    for place in places(plan.job):
        for offer in offers(plan, shelf(), place.path, place.role):
            yield f"offer {place.path} | {offer.fit.card.id} | {offer.fit.ratings} | {offer.against} | {[f.key for f in offer.then]}"
