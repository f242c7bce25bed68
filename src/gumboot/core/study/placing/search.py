"""Where could everything hang? Boxes are set one after another where the cable is shortest and the wall's rules say nothing, then moved while that helps."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Iterator

from gumboot.core.figure import Figure
from gumboot.core.finding import Finding
from gumboot.core.installation import House
from gumboot.core.ledger import Ledger
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.wall import Rect, plan_walls
from gumboot.core.plan.wall.stands import clearance_of
from gumboot.core.study.placing.parts import Proposal, Spot, Spots, Why, Worth, with_spots
from gumboot.core.study.placing.pieces import pieces_of
from gumboot.core.study.placing.spots import all_hit, is_free, spots_of

# How many spots of a box are judged by the rules before the next is taken, and how often all boxes are gone through.
LOOKS, ROUNDS = 40, 3
# More judgements than this no proposal waits for.
MOST_TRIED = 700
# What a cable from wall to wall is taken for where nothing says it, m.
TO_ANOTHER_WALL_M = 5.0
# Said of a box wherever it hangs.
ANYWHERE = frozenset({"LIFT-TWO"})


class Search:
    """One search for a house: its boxes, what joins them, and what the rules said of what was tried."""

    def __init__(self, plan: Plan, most: int = MOST_TRIED) -> None:
        self.plan, self.job, self.tried, self.most = plan, plan.job, 0, most
        self.walls = [
            wall for wall in plan.job.walls if wall.width_mm is not None and wall.height_mm is not None and wall.surface is not None
        ]
        self.studs = {wall.id: wall.studs_mm for wall in plan.walls}
        # What stands at a wall that nobody measured yet stays there: no rule could say what it leaves.
        elsewhere = {p.id for wall in plan.job.walls if wall not in self.walls for p in wall.placements}
        self.pieces = {piece.id: piece for piece in pieces_of(plan) if piece.id not in elsewhere}
        self.joined = list(self._joined())
        self.today: dict[str, Spot] = {
            p.id: Spot(wall.id, p.x_mm, p.y_mm) for wall in self.walls for p in wall.placements if p.id in self.pieces
        }
        self.pinned = {p.id for wall in self.walls for p in wall.placements if p.pinned}
        self._judged: dict[tuple[tuple[str, Spot], ...], tuple[Finding, ...]] = {}

    def _joined(self) -> Iterator[tuple[str, str]]:
        """Pairs of boxes between which a conductor runs, once for each run."""
        for circuit in self.plan.circuits.all:
            ends = list(dict.fromkeys(end.place for core in circuit.cores if core.role != "earth" for end in core.ends))
            if circuit.kind != "interlink":
                yield from ((a, b) for a, b in itertools.pairwise(ends) if a in self.pieces and b in self.pieces)

    def rect(self, box: str, spot: Spot) -> Rect:
        """The outline of a box at a spot."""
        return self.pieces[box].at(spot.x_mm, spot.y_mm)

    def _away_m(self, one: str, other: str, spots: Spots) -> float:
        a, b = spots[one], spots[other]
        return self.rect(one, a).along_to_m(self.rect(other, b)) if a.wall == b.wall else TO_ANOTHER_WALL_M

    def cable_m(self, spots: Spots, of: str = "") -> float:
        """Cable along the walls between what stands, of one box or of all."""
        pairs = (pair for pair in self.joined if not of or of in pair)
        return sum(self._away_m(a, b, spots) for a, b in pairs if a in spots and b in spots)

    def says(self, spots: Spots) -> tuple[Finding, ...]:
        """What the rules of the wall say of a placement, each placement asked once."""
        key = tuple(sorted(spots.items()))
        if key not in self._judged:
            self.tried += 1
            ledger = Ledger(House(with_spots(self.job, spots, self.pieces), self.plan.seats))
            plan_walls(ledger)
            self._judged[key] = tuple(f for f in ledger.findings if f.code not in ANYWHERE)
        return self._judged[key]

    def worth(self, spots: Spots) -> Worth:
        """How good a placement is."""
        said = self.says(spots)
        count = {level: sum(f.level == level for f in said) for level in ("stop", "caution", "note")}
        missing = sum(name not in spots for name in self.pieces)
        return Worth(missing, count["stop"], count["caution"], round(self.cable_m(spots), 6), count["note"])

    def taken(self, spots: Spots, wall: str) -> dict[str, tuple[Rect, Rect]]:
        """Outline and clearance of what stands on a wall."""
        rects = {box: self.rect(box, spot) for box, spot in spots.items() if spot.wall == wall}
        return {box: (rect, clearance_of(rect, self.pieces[box].body)) for box, rect in rects.items()}

    def options(self, box: str, spots: Spots, near: float | None = None) -> Iterator[Spot]:
        """Free spots of a box beside the others, the least cable first; ``near``: a share of the wall's width, for a box that is joined to none."""
        rest = {name: spot for name, spot in spots.items() if name != box}
        piece, far = self.pieces[box], 1000 * TO_ANOTHER_WALL_M
        partners = [(spots[other].wall, *self.rect(other, spots[other]).middle) for other in self._partners(box) if other in rest]
        home = {wall.id: n for n, wall in enumerate(self.walls)}
        taken = {wall.id: self.taken(rest, wall.id) for wall in self.walls}

        def worth(spot: Spot) -> tuple[float, int, float, Spot]:
            x, y = spot.x_mm + piece.width_mm / 2, spot.y_mm + piece.height_mm / 2
            cable = sum(abs(x - px) + abs(y - py) if wall == spot.wall else far for wall, px, py in partners)
            aside = abs(x - near * (self.walls[home[spot.wall]].width_mm or 0.0)) if near is not None and not partners else 0.0
            # Banks low, what is read high: each leaves the other its room.
            return cable + aside, home[spot.wall], spot.y_mm if piece.kin else -spot.y_mm, spot

        found = False
        for in_row in (True, False):
            if found or (not in_row and not any(name in rest for name in piece.kin)):
                return
            every = [s for wall in self.walls for s in spots_of(wall, piece, self.studs.get(wall.id, ()), taken[wall.id], in_row=in_row)]
            for spot in sorted(every, key=worth):
                if is_free(self.walls[home[spot.wall]], piece, spot, taken[spot.wall]):
                    found = True
                    yield spot

    def _partners(self, box: str) -> list[str]:
        """The other end of each run that a box has."""
        return [b if a == box else a for a, b in self.joined if box in (a, b)]

    def settle(self, box: str, spots: dict[str, Spot], options: Iterable[Spot]) -> None:
        """Set a box on the first spot of which the rules say nothing new; where there is none, on the best that was looked at."""
        rest = {name: spot for name, spot in spots.items() if name != box}
        least = self.worth(rest)
        best: tuple[Worth, Spot] | None = None
        for spot in itertools.islice(options, LOOKS):
            if self.tried >= self.most:
                break
            worth = self.worth({**rest, box: spot})
            if worth.stops <= least.stops and worth.cautions <= least.cautions:
                best = (worth, spot)
                break
            if best is None or worth < best[0]:
                best = (worth, spot)
        if best is not None:
            spots[box] = best[1]

    def improve(self, spots: dict[str, Spot]) -> dict[str, Spot]:
        """Move one box at a time while that is better."""
        for _ in range(ROUNDS):
            before = self.worth(spots)
            for box in [name for name in spots if name not in self.pinned]:
                other = dict(spots)
                self.settle(box, other, self.options(box, spots))
                if self.worth(other) < self.worth(spots):
                    spots = other
            if self.worth(spots) >= before or self.tried >= self.most:
                break
        return spots


def _order(search: Search, first: str) -> list[str]:
    """The boxes in the order in which they are set: the first, then banks, whose rows want most room, then always what has most runs to
    what is set, the largest of those.
    """
    done, left = [first], [name for name in search.pieces if name != first]
    while left:
        most = max(left, key=lambda name: (bool(search.pieces[name].kin), _bonds(search, name, done), search.pieces[name].area_mm2, name))
        done.append(most)
        left.remove(most)
    return done


def _bonds(search: Search, box: str, done: Iterable[str]) -> int:
    return sum(box in pair and other in pair for pair in search.joined for other in done if other != box)


def _from_nothing(search: Search, share: float) -> dict[str, Spot]:
    """A placement made from nothing but what is pinned: the inverter first, at a share of what its wall offers."""
    spots = {box: spot for box, spot in search.today.items() if box in search.pinned}
    first = search.plan.house.lead.id
    for box in _order(search, first if first in search.pieces else next(iter(search.pieces))):
        if box in spots:
            continue
        search.settle(box, spots, search.options(box, spots, share))
    return spots


def _in_order(search: Search, spots: Spots) -> dict[str, Spot]:
    """Units that are alike, from left to right as the bank names them, where that is no worse: whoever reads unit 2 looks beside unit 1."""
    found = dict(spots)
    for bank in search.plan.seats.banks:
        alike = [unit.id for unit in bank.thing.units if unit.id in spots and unit.id not in search.pinned]
        found |= dict(zip(alike, sorted(spots[name] for name in alike), strict=True))
    return found if search.worth(found) <= search.worth(spots) else dict(spots)


def _cable(search: Search, key: str, name: str, spots: Spots) -> Figure:
    limits = "Along and up between the middles of joined boxes; bends and slack are not in it."
    return Figure(f"placing.{key}", "L_all", name, search.cable_m(spots), "m", source="arith", limits=limits)


def _why(search: Search, box: str, spots: Spots) -> Why:
    piece, spot = search.pieces[box], spots[box]
    studs = search.studs.get(spot.wall, ())
    wall = next(wall for wall in search.walls if wall.id == spot.wall)
    has_carrying = any(hole.carries for hole in piece.body.holes)
    joined = sorted({a if b == box else b for a, b in search.joined if box in (a, b)} & set(spots))
    return Why(
        on_floor=piece.on_floor,
        on_studs=bool(studs) and has_carrying and not piece.on_floor and all_hit(wall, piece, spot.x_mm, studs),
        screen_mm=spot.y_mm + piece.body.screen_up_mm if piece.body.screen_up_mm is not None else None,
        runs_m=search.cable_m(spots, box),
        joined=tuple(joined),
    )


def propose(plan: Plan, most: int = MOST_TRIED) -> Proposal | None:
    """The best placement found: from today's, and from nothing; pinned boxes stay. None while no wall is measured or nothing would hang.

    ``most`` is how many placements are judged at the most.
    """
    search = Search(plan, most)
    if not search.walls or not search.pieces:
        return None
    starts = [search.improve(dict(search.today))] if search.today else []
    for share in (0.5, 0.25, 0.75):
        if search.tried < search.most:
            starts.append(search.improve(_from_nothing(search, share)))
    best = _in_order(search, min(starts, key=search.worth))
    # What is as good as today's is no reason to move anything.
    if search.worth(best) >= search.worth(search.today):
        best = dict(search.today)
    whole = set(search.today) == set(search.pieces)
    return Proposal(
        job=with_spots(plan.job, best, search.pieces),
        spots=best,
        moved=tuple(box for box in search.pieces if box in best and search.today.get(box) != best[box]),
        whys={box: _why(search, box, best) for box in best},
        before=_cable(search, "before", "Cable between the boxes as they stand", search.today) if whole else None,
        after=_cable(search, "after", "Cable between the boxes as proposed", best),
        unmet=tuple(f for f in search.says(best) if f.level in ("stop", "caution")),
        homeless=tuple(box for box in search.pieces if box not in best),
        tried=search.tried,
    )
