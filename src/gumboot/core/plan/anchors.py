"""Do the anchors of a box hold in masonry? A first rule: the anchor's card, its embedment in what bears, shear and pull together."""

from __future__ import annotations

from gumboot.core.card.model import AnchorBase
from gumboot.core.card.parts import Body
from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.units import STANDARD_GRAVITY_M_PER_S2

BRACKET_MM = 3.0


def anchor_gaps(ledger: Ledger) -> bool:
    """Ask for what a masonry wall needs before anything on it can be judged; whether anything is missing."""
    wall = ledger.job.wall
    if wall.masonry is None:
        ledger.gap("wall.masonry", "survey", "What is the masonry: concrete, solid units or hollow units?", "Whether anchors hold in it")
    if not ledger.has("anchor"):
        ledger.gap("equipment.anchor", "survey", "Which masonry anchor holds the boxes?", "Whether the wall carries them")
    return wall.masonry is None or not ledger.has("anchor")


def _base(ledger: Ledger, box: str) -> AnchorBase | None:
    card, masonry = ledger.card("anchor"), ledger.job.wall.masonry
    base: AnchorBase | None = next((b for b in card.bases if b.base == masonry), None)
    ledger.verdict(
        "WALL-ANCHOR-BASE",
        base is not None,
        box,
        f"The card of {card.title} gives no values for {masonry}.",
        "Choose an anchor that its maker rates for this masonry.",
        field="equipment.anchor",
    )
    return base


def _long_enough(ledger: Ledger, box: str) -> bool:
    card, wall = ledger.card("anchor"), ledger.job.wall
    length = ledger.read(card, "length_mm", "L_a", "Length of the anchor", "mm")
    wanted = ledger.read(card, "embedment_mm", "h_ef", "Embedment that the anchor's values hold for", "mm")
    render = ledger.decided("wall.render_mm", "t_r", "Render or plaster that bears nothing", "mm")
    board = wall.board.thickness_mm if wall.board else 0.0
    through = ledger.work("wall.anchor_through", "b", "Backing board and 3 mm bracket", board + BRACKET_MM, "mm", "arith")
    depth = ledger.work(
        "wall.anchor_embedment",
        "h",
        "Embedment reached",
        length.value - through.value - render.value,
        "mm",
        "arith",
        "L_a - b - t_r",
        (length, through, render),
    )
    ledger.verdict(
        "WALL-ANCHOR-SHORT",
        depth.value >= wanted.value - 1e-9,
        box,
        f"The anchor reaches {depth.value:.0f} mm into what bears; its values hold from {wanted.value:g} mm.",
        "Choose a longer anchor.",
        found=depth,
        limit=wanted,
        field="equipment.anchor",
    )
    return depth.value >= wanted.value - 1e-9


def anchor_use(ledger: Ledger, box: str, body: Body, n_all: Figure, n_top: Figure, mass: Figure, depth: Figure) -> Figure | None:
    """Use of the top anchors of one box, 1 at most; None while it cannot be judged or the anchor is of no use here."""
    base, long_enough = _base(ledger, box), _long_enough(ledger, box)
    if base is None or not long_enough:
        return None
    card = ledger.card("anchor")
    at = card.bases.index(base)
    pull_most = ledger.from_card(card.id, f"bases.{at}.pull_n", "T_a", f"Allowable pull in {base.base}", base.pull_n, "N")
    shear_most = ledger.from_card(card.id, f"bases.{at}.shear_n", "V_a", f"Allowable shear in {base.base}", base.shear_n, "N")
    arm = ledger.work(
        f"wall.{box}.arm", "h_t", "Top row above the box's lower edge", max(h.y_mm for h in body.holes if h.carries), "mm", "arith"
    )
    weight = mass.value * STANDARD_GRAVITY_M_PER_S2
    shear = ledger.work(
        f"wall.{box}.shear", "V", "Shear on each anchor", weight / n_all.value, "N", "physics", "m * 9.80665 / n", (mass, n_all)
    )
    pull = ledger.work(
        f"wall.{box}.pull",
        "T",
        "Pull on each top anchor",
        weight * depth.value / 2 / arm.value / n_top.value,
        "N",
        "physics",
        "m * 9.80665 * d / 2 / h_t / n_t",
        (mass, depth, arm, n_top),
        limits="Weight acts at half the depth; the box turns about its lower edge.",
    )
    ratio = ledger.work(
        f"wall.{box}.ratio",
        "u",
        "Use of the top anchors",
        shear.value / shear_most.value + pull.value / pull_most.value,
        "",
        "cp.anchor",
        "V / V_a + T / T_a",
        (shear, shear_most, pull, pull_most),
        limits="Linear sum: the safe side of the interaction. Edge distance and spacing by the anchor's maker.",
    )
    ledger.verdict(
        "WALL-ANCHOR-MASONRY",
        ratio.value <= 1 + 1e-9,
        box,
        f"The top anchors of {box} are used to {100 * ratio.value:.0f} % of what they bear in {base.base}.",
        "Use more or larger anchors, or a rail that spreads the load.",
        found=ratio,
        field="equipment.anchor",
    )
    return ratio
