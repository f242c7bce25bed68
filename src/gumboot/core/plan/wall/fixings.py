"""What goes into the holes of a wall: bit, depth, embedment, distances, washer, torque, and how many."""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.card.boxes import AnchorCard, ScrewCard
from gumboot.core.expression import largest
from gumboot.core.figure import Figure, constant
from gumboot.core.plan.wall.holes import EDGE_DIAMETERS
from gumboot.core.plan.wall.parts import At, Box, FixingList

# Spacing of lag screws along the grain, in diameters (NDS Table 12.5.1B), from memory.
SPACING_DIAMETERS = 4.0


def _count(at: At, boxes: Sequence[Box]) -> Figure:
    own = sum(len(box.holes) for box in boxes)
    return at.ledger.work(f"{at.key}.fixings", "n_f", f"Fixings of {at.wall.title}", float(own), "", source="arith")


def _torque(at: At, card: AnchorCard | ScrewCard | None, called: str) -> tuple[Figure, Figure, Figure] | None:
    """Torque that a maker gives: least, asked and most; None where the card gives none."""
    ledger = at.ledger
    torque = ledger.stated(card, "torque_nm") if card is not None else None
    band = ledger.read(card, "torque_tolerance_pct") if card is not None and torque is not None else None
    if torque is None or band is None:
        return None
    key, name = f"{at.key}.{called.removesuffix('s')}_torque", f"Torque of the {called} of {at.wall.title}"
    low = ledger.work(f"{key}_low", "M_lo", f"{name} at least", torque * (1 - band / 100), "N m", source="arith")
    high = ledger.work(f"{key}_high", "M_hi", f"{name} at most", torque * (1 + band / 100), "N m", source="arith")
    return low, torque, high


def _anchors(at: At, card: AnchorCard, boxes: Sequence[Box]) -> FixingList:
    ledger = at.ledger
    base = next((b for b in card.bases if b.base == at.wall.masonry), None)
    values = f"bases.{base.base}" if base is not None else ""
    return FixingList(
        called="anchors",
        tip="socket of its nut",
        title=card.title,
        bit=ledger.read(card, "hole_mm"),
        depth=ledger.read(card, "hole_depth_mm"),
        embedment=ledger.read(card, "embedment_mm"),
        edge=ledger.stated(card, f"{values}.edge_mm") if values else None,
        spacing=ledger.stated(card, f"{values}.spacing_mm") if values else None,
        washer="a washer under each" if card.washer else "none asked",
        torque=_torque(at, card, "anchors"),
        count=_count(at, boxes),
    )


def _screws(at: At, pilot: Figure | None, boxes: Sequence[Box]) -> FixingList | None:
    ledger, key = at.ledger, at.key
    if pilot is None:
        return None
    diameter, length, through = at.screw("diameter_mm"), at.screw("length_mm"), ledger.figures.get(f"{key}.through")
    card, depth = ledger.seats.screw, None
    if through is not None:
        name, limits = "Depth of the pilot holes in the stud", "Board and bracket are drilled through at the screw's own diameter."
        depth = ledger.work(f"{key}.pilot_depth", "h_p", name, largest(0.0, length - through), "mm", source="arith", limits=limits)
    edge, spacing = (constant(s, n, v, "", "nds.12.5") for s, n, v in (
        ("k_e", "Edge of a stud, in diameters", EDGE_DIAMETERS), ("k_s", "Lag screws apart, in diameters", SPACING_DIAMETERS)
    ))  # fmt: skip
    return FixingList(
        called="screws",
        tip=card.tip.words if card is not None and card.tip is not None else "socket of its head",
        title=card.title if card is not None else f"{diameter.value:g} × {length.value:g} mm lag screws",
        bit=pilot,
        depth=depth,
        embedment=ledger.figures.get(f"{key}.thread"),
        edge=ledger.work(
            f"{key}.screw_edge", "c_e", "Screw from the edge of its stud", ledger.keep(edge) * diameter, "mm", source="nds.12.5"
        ),
        spacing=ledger.work(
            f"{key}.screw_spacing", "s_s", "Screws apart in one stud", ledger.keep(spacing) * diameter, "mm", source="nds.12.5"
        ),
        washer="a washer under each" if card is not None and card.washer else "a washer where the head meets no steel",
        torque=_torque(at, card, "screws"),
        count=_count(at, boxes),
    )


def fixings_of(at: At, pilot: Figure | None, boxes: Sequence[Box]) -> FixingList | None:
    """What goes into the holes of a wall; None where nothing hangs, or while it is not decided."""
    if not any(box.holes for box in boxes):
        return None
    if at.wall.surface != "masonry":
        return _screws(at, pilot, boxes)
    card = at.ledger.seats.anchor
    return _anchors(at, card, boxes) if card is not None else None
