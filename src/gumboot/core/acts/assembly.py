"""The acts of hanging: what the wall hides found, board up, holes marked and drilled, what goes in first, the lift, the fixings."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from gumboot.core.acts.act import Act, Band, Kind, ident
from gumboot.core.acts.fitting_up import YES_NO
from gumboot.core.card.base import EnclosureCard
from gumboot.core.job.wall import Wall
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.prove import Lasts
from gumboot.core.plan.wall import Box, FixingList, Span, WallPlan
from gumboot.core.plan.wall.way import way_words
from gumboot.core.wording import length_in_both, weight_in_both

# How near a hole may come to what a detector finds: common practice.
KEEP_OFF_MM = 50.0


def called(plan: Plan, box: Box) -> str:
    """What a box is called: by its card, and by its own name first where several hang that are alike."""
    alike = [b for wall in plan.walls for b in wall.boxes if b.title == box.title]
    return f"{box.id}, {box.title}," if len(alike) > 1 else box.title


def _found(wall: WallPlan) -> Act:
    return Act(
        id=ident("find", wall.id),
        kind=Kind.FIND,
        station="wire",
        title=f"Wires and pipes found in {wall.title}",
        thing=wall.id,
        see=f"Detector over the whole field, deep setting too; what it finds is drawn on the wall. No hole within {length_in_both(KEEP_OFF_MM)} of it.",
        caution="What a detector does not find may be there: switch off what runs in this wall, and drill no deeper than asked.",
        band=YES_NO,
        guards="life",
    )


def _board(own: Wall, wall: WallPlan, before: str) -> Act | None:
    if own.board is None:
        return None
    board = own.board
    size = f"{length_in_both(board.width_mm)} by {length_in_both(board.height_mm)}, {length_in_both(board.thickness_mm)} thick"
    place = f"left edge {length_in_both(board.x_mm)} from datum, lower edge {length_in_both(board.y_mm)} from floor"
    studs = "screwed to every stud behind it" if wall.studs_mm else "fixed as its maker says"
    return Act(
        id=ident("board", wall.id),
        kind=Kind.BOARD,
        station="wire",
        title=f"{board.material[:1].upper()}{board.material[1:]} up on {wall.title}",
        thing=wall.id,
        see=f"{size}; {place}; level, {studs}.",
        caution="Its dust is not breathed: mask and eye protection.",
        band=YES_NO,
        needs=(before,),
        lasts=Lasts(rests=f"{size}, {place}"),
    )


def _distances(spans: Sequence[Span]) -> str:
    """Distances between holes, each length once with the pairs that are so far apart."""
    pairs: dict[str, list[str]] = {}
    for span in spans:
        pairs.setdefault(length_in_both(span.mm.value), []).append(f"{span.first} to {span.second}")
    return ", ".join(f"{' and '.join(names)} {length}" for length, names in pairs.items())


def _marked(box: Box, name: str, needs: tuple[str, ...]) -> Act:
    first = box.holes[0]
    spans = _distances([span for span in box.spans if not span.is_diagonal])
    crossed = _distances([span for span in box.spans if span.is_diagonal])
    place = f"{first.id}: {length_in_both(first.x_mm.value)} from datum, {length_in_both(first.y_mm.value)} from floor"
    said = (place, spans, f"diagonals {crossed}" if crossed else "")
    return Act(
        id=ident("marked", box.id),
        kind=Kind.MARKED,
        station="wire",
        title=f"Holes of {name} marked",
        thing=box.id,
        see=f"{'; '.join(words for words in said if words)}. One level line for the whole field, from the datum.",
        band=YES_NO,
        needs=needs,
        lasts=Lasts(rests=place),
    )


def _bit(fixings: FixingList | None) -> str:
    """The bit and how deep it goes, in words."""
    if fixings is None:
        return ""
    deep = f", {length_in_both(fixings.depth.value)} deep" if fixings.depth is not None else ""
    return f"Bit {length_in_both(fixings.bit.value)}{deep}, for {fixings.title}. "


def _drilled(box: Box, name: str, fixings: FixingList | None, needs: tuple[str, ...]) -> Act:
    count = f"{len(box.holes)} hole{'s' if len(box.holes) > 1 else ''}"
    return Act(
        id=ident("hole", box.id),
        kind=Kind.HOLE,
        station="wire",
        title=f"Holes of {name} drilled",
        thing=box.id,
        see=f"{_bit(fixings)}{count}, dust out. How far the worst of them came out right of its mark and above it is written down.",
        caution="Shield what stands open below from the dust.",
        band=Band(unit="mm", measures="signed"),
        needs=needs,
    )


def _lift_words(box: Box) -> str:
    by = (
        f"{box.lifted_by}: {weight_in_both(box.mass.value)}" if box.lift_needs_two else f"One person lifts {weight_in_both(box.mass.value)}"
    )
    hook = f"; lift it {length_in_both(box.body.hook_mm)} above its bracket, lower it until it sits" if box.body.hook_mm is not None else ""
    return f"{by[:1].upper()}{by[1:]}{hook}. Level before anything is tightened: slotted holes have play."


def _lift(own: Wall, box: Box, name: str, needs: tuple[str, ...]) -> Act:
    by = f", {box.lifted_by}" if box.lift_needs_two else ""
    heavy = "The way is clear, straps on, nobody under it; a foot under a battery does not come out again." if box.lift_needs_two else ""
    return Act(
        id=ident("lift", box.id),
        kind=Kind.LIFT,
        station="wire",
        title=f"{name} in its place, level and fixed{by}",
        thing=box.id,
        prepare=way_words(own, box),
        see=_lift_words(box),
        caution=heavy,
        needs=needs,
    )


def _fixed(box: Box, name: str, fixings: FixingList) -> Act | None:
    """The anchors of a box at the torque that their maker gives."""
    if fixings.torque is None or not box.holes:
        return None
    low, asked, high = fixings.torque
    return Act(
        id=ident("fixed", box.id),
        kind=Kind.FIXED,
        station="wire",
        title=f"{fixings.called.capitalize()} of {name} at their torque",
        thing=box.id,
        prepare=f"{len(box.holes)} of {fixings.title}; {fixings.washer}.",
        see="One after the other crosswise, each with a mark drawn across it and the bracket.",
        band=Band(unit="N m", low=low, high=high, expected=asked),
        needs=(ident("lift", box.id),),
    )


def _hung(plan: Plan, wall: WallPlan, box: Box, first: tuple[str, ...]) -> Iterator[Act]:
    card, before, name = plan.house.cards.get(box.id), list[str](), called(plan, box)
    if isinstance(card, EnclosureCard) and card.in_box:
        before.append(ident("unpack", box.id))
    inside = card.goes_in_first if isinstance(card, EnclosureCard) else []
    if inside:
        before.append(ident("inside", box.id))
        yield Act(
            id=before[-1], kind=Kind.INSIDE, station="wire", title=f"{name.removesuffix(',')}: in before it hangs", thing=box.id, see=f"{', '.join(inside)}.",
            band=YES_NO,
        )  # fmt: skip
    if box.holes:
        yield _marked(box, name, first)
        yield _drilled(box, name, wall.fixings, (ident("marked", box.id),))
        before.append(ident("hole", box.id))
    yield _lift(next(w for w in plan.job.walls if w.id == wall.id), box, name, tuple(before))
    fixed = _fixed(box, name, wall.fixings) if wall.fixings is not None else None
    if fixed is not None:
        yield fixed


def wall_acts(plan: Plan) -> Iterator[Act]:
    """Each wall: what it hides, its board; then each box on it."""
    for wall, own in ((wall, next(w for w in plan.job.walls if w.id == wall.id)) for wall in plan.walls):
        first: tuple[str, ...] = ()
        if any(box.holes for box in wall.boxes):
            found = _found(wall)
            board = _board(own, wall, found.id)
            first = (found.id, *((board.id,) if board is not None else ()))
            yield found
            if board is not None:
                yield board
        for box in wall.boxes:
            yield from _hung(plan, wall, box, first)
