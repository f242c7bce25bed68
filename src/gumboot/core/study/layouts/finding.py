"""Every layout that breaks no rule."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import replace

from gumboot.core.card.boxes import BoardCard
from gumboot.core.card.inverter import Tracker
from gumboot.core.plan.derive import Plan
from gumboot.core.seats import Converter
from gumboot.core.study.layouts.judging import broken_by
from gumboot.core.study.layouts.parts import Finder, Lay


def lays_of(f: Finder, tracker: Tracker) -> list[Lay]:
    """Every admissible lay of one tracker."""
    found = []
    for face in f.faces:
        top = f.holds[face.id]
        for modules in range(1, top + 1):
            for count in range(1, top // modules + 1):
                plain = Lay(tracker.id, face.id, modules, count)
                broken = broken_by(f, plain)
                if not broken:
                    found.append(plain)
                elif tracker.bridge_max_a is not None and {b.code for b in broken} == {"PV-TERMINAL-CURRENT"}:
                    bridged = Lay(tracker.id, face.id, modules, count, True)
                    if not broken_by(f, bridged):
                        found.append(bridged)
    return found


def _alike(a: Tracker, b: Tracker) -> bool:
    return a.model_copy(update={"id": "", "port": "", "bridge_with": ""}) == b.model_copy(update={"id": "", "port": "", "bridge_with": ""})


def _lays(f: Finder) -> list[list[Lay]]:
    """Every admissible lay of each tracker; of alike ones of one inverter, behind one box at the roof, the first is asked for all."""
    found: list[list[Lay]] = []
    for k, tracker in enumerate(f.trackers):
        at = f.owners[k], f.roof_boxes.get(tracker.id)
        for n, other in enumerate(f.trackers[:k]):
            if (f.owners[n], f.roof_boxes.get(other.id)) == at and _alike(other, tracker):
                found.append([replace(lay, tracker=tracker.id) for lay in found[n]])
                break
        else:
            found.append(lays_of(f, tracker))
    return found


def _holds_the_bridge(f: Finder, tracker: Tracker) -> bool:
    """Of two inputs that the maker's bridge joins, the first holds the string: the other way round is the same layout."""
    order = [t.id for t in f.trackers]
    return tracker.bridge_with not in order or order.index(tracker.id) < order.index(tracker.bridge_with)


# What a sum of powers may be off by, W.
HAIR_W = 1e-6
# The option of an input that stays empty.
NOTHING = 10**9


def _twins(f: Finder) -> dict[int, range]:
    """The inputs of each inverter that is like the one before it, by the place of the input behind them."""
    found, start = {}, 0
    for nth, converter in enumerate(f.converters):
        stop = start + len(converter.trackers)
        if nth and _are_twins(f.converters[nth - 1], converter, f.roof_boxes):
            found[stop] = range(start, stop)
        start = stop
    return found


def _are_twins(a: Converter, b: Converter, boxes: Mapping[str, BoardCard]) -> bool:
    if a.pv_max_w != b.pv_max_w or len(a.trackers) != len(b.trackers):
        return False
    pairs = zip(a.trackers, b.trackers, strict=True)
    return all(_alike(x, y) and boxes.get(x.id) == boxes.get(y.id) for x, y in pairs)


def assignments(f: Finder) -> Iterator[tuple[Lay, ...]]:
    """Every admissible assignment, each once: trackers that are alike are not told apart. The empty one is left out.

    A bridge that takes the terminal of another input leaves that input empty.
    """
    options = [[x for x in rows if not x.bridge or _holds_the_bridge(f, t)] for t, rows in zip(f.trackers, _lays(f), strict=True)]
    partner = {t.id: t.bridge_with for t in f.trackers if t.bridge_with}
    paired = any(x.bridge and x.tracker in partner for rows in options for x in rows)
    own = f.owners
    most = [c.pv_max_w + HAIR_W for c in f.converters]
    watts = {face: card.power_w for face, card in f.modules.items()}
    alike = [k > 0 and not paired and own[k] == own[k - 1] and _alike(f.trackers[k - 1], f.trackers[k]) for k in range(len(own))]
    twins = _twins(f)
    numbered = [list(enumerate(rows)) for rows in options]

    def further(k: int, free: dict[str, int], chosen: tuple[int, ...], left: float, taken: frozenset[str]) -> Iterator[tuple[Lay, ...]]:
        if k in twins and chosen[twins[k].start : twins[k].stop] < chosen[2 * twins[k].start - twins[k].stop : twins[k].start]:
            # Of alike inverters the later one never takes options before the earlier one's.
            return
        if k == len(own):
            yield ()
            return
        if k and own[k] != own[k - 1]:
            left = most[own[k]]
        # Of alike trackers the later one never takes an option before the earlier one's: each set comes once.
        floor = chosen[-1] if alike[k] else -1
        for n, lay in numbered[k] if f.trackers[k].id not in taken else ():
            if n < floor or lay.total > free[lay.face] or lay.total * watts[lay.face] > left:
                continue
            free[lay.face] -= lay.total
            more = taken | {partner[lay.tracker]} if lay.bridge and lay.tracker in partner else taken
            for rest in further(k + 1, free, (*chosen, n), left - lay.total * watts[lay.face], more):
                yield (lay, *rest)
            free[lay.face] += lay.total
        # An empty tracker comes after every option, so the alike one behind it stays empty too.
        yield from further(k + 1, free, (*chosen, NOTHING), left, taken)

    found = further(0, dict(f.holds), (), most[own[0]] if own else 0, frozenset())
    mixed = (lays for lays in found if lays and not (f.parallel_only and len({(x.face, x.modules) for x in lays}) > 1))
    yield from _each_pairing_once(f, mixed) if paired else mixed


def _each_pairing_once(f: Finder, found: Iterable[tuple[Lay, ...]]) -> Iterator[tuple[Lay, ...]]:
    """Pairs are alike as pairs, which the order of single trackers does not see: they are told by what lies on them."""
    kind = {t.id: next(k for k, other in enumerate(f.trackers) if _alike(other, t)) for t in f.trackers}
    seen: set[tuple[tuple[int, str, int, int, bool], ...]] = set()
    for lays in found:
        same = tuple(sorted((kind[x.tracker], x.face, x.modules, x.count, x.bridge) for x in lays))
        if same not in seen:
            seen.add(same)
            yield lays


def strings_of(plan: Plan, lays: tuple[Lay, ...]) -> list[dict[str, object]]:
    """The strings of a layout, each on its inverter where several have inputs, labelled alike at both ends; names follow the faces."""
    letters: dict[str, str] = {}
    for face in plan.job.faces:
        stem = (face.id[:1] or "S").upper()
        letters[face.id] = stem if stem not in letters.values() else face.id[:2].upper()
    inputs, numbers = {at.name: at for at in plan.house.inputs}, dict[str, int]()
    several = len({at.place for at in plan.house.inputs}) > 1
    rows: list[dict[str, object]] = []
    for lay in lays:
        for _ in range(lay.count):
            numbers[lay.face] = numbers.get(lay.face, 0) + 1
            name, at = f"{letters[lay.face]}{numbers[lay.face]}", inputs.get(lay.tracker)
            rows.append(
                {
                    "id": name,
                    "tracker": at.tracker.id if at else lay.tracker,
                    "inverter": at.place if at and several else None,
                    "face": lay.face,
                    "modules": lay.modules,
                    "bridge": lay.bridge,
                    "label_top": name,
                    "label_bottom": name,
                }
            )
    return rows
