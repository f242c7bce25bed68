"""Is room kept for the units that a bank may grow by?"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from gumboot.core.plan.bank import OneBank, banks_of
from gumboot.core.plan.wall.parts import At, Box, Growth
from gumboot.core.plan.wall.shapes import Rect
from gumboot.core.plan.wall.stands import clearance_of, outline
from gumboot.core.rules import place as rules


def _gap_mm(at: At, bank: OneBank) -> float:
    """How far a further unit stands from the next: its card's clearance, and its spacing as tested or as the book has it."""
    body = bank.card.body
    between = bank.card.spacing_mm if bank.card.spacing_mm is not None else at.ledger.book.place.between_units_mm or 0.0
    return max(body.clear_left_mm, body.clear_right_mm, between)


def _tried(at: At, bank: OneBank, own: Sequence[Box]) -> Iterator[Rect]:
    """Where a further unit could stand: on a stack, or beside one of its kind."""
    if bank.card.arrangement == "stack":
        for box in own:
            yield Rect(box.rect.x, box.rect.y + box.rect.h, box.rect.w, bank.card.stack_pitch_mm)
        return
    gap = _gap_mm(at, bank)
    for box in own:
        yield Rect(box.rect.x + box.rect.w + gap, box.rect.y, box.rect.w, box.rect.h)
        yield Rect(box.rect.x - box.rect.w - gap, box.rect.y, box.rect.w, box.rect.h)


def _is_free(at: At, rect: Rect, around: Rect, boxes: Sequence[Box], wall: Rect) -> bool:
    """Whether a thing of these outlines meets no other, no opening and no edge, and stands in nobody's clearance."""
    taken = any(around.meets(box.rect) or rect.meets(box.clear) for box in boxes)
    return not taken and around.inside(wall) and not any(around.meets(outline(opening)) for opening in at.wall.openings)


def _around(bank: OneBank, rect: Rect) -> Rect:
    """A unit with its clearance; on a stack it has that of the stack, but above."""
    around = clearance_of(rect, bank.card.body)
    return around._replace(y=rect.y, h=around.y + around.h - rect.y) if bank.card.arrangement == "stack" else around


def growth_of(at: At, boxes: Sequence[Box], wall: Rect) -> tuple[Growth, ...]:
    """Room for one more unit of each bank that stands on a wall and may grow; a bank without any is told."""
    found = []
    for bank in banks_of(at.ledger):
        own = [box for box in boxes if box.id in {unit.id for unit in bank.heads}]
        if not own or bank.is_docked or bank.card.arrangement == "blocks" or len(bank.units) >= bank.card.units_max:
            continue
        stack = bank.card.arrangement == "stack"
        free = (
            rect
            for rect in _tried(at, bank, own)
            if _is_free(at, rect, _around(bank, rect), [b for b in boxes if not (stack and b in own)], wall)
        )
        rect = next(free, None)
        facts = rules.Grows(
            bank=bank.id,
            title=f"Bank {bank.id}" if bank.is_named else "The bank",
            units=len(bank.units),
            most=bank.card.units_max,
            has_room=rect is not None,
            where=at.wall.title,
        )
        at.ask(rules.room_to_grow, facts)
        if rect is not None:
            found.append(Growth(bank=bank.id, rect=rect))
    return tuple(found)
