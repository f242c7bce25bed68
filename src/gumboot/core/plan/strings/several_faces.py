"""What equal strings on several faces lose on one tracker."""

from __future__ import annotations

from gumboot.core.expression import named
from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.strings.parts import Hanging
from gumboot.core.sim.diode import Panel, lost_share

LITTLE = 0.2


def faces_lost(ledger: Ledger, h: Hanging, air: Figure) -> Figure | None:
    """The most that is lost while one face has full sun and the others a fifth; None on one face."""
    faces = h.faces(ledger.job.faces)
    if len(faces) < 2:
        return None
    card = ledger.seats.module_on(h.face.id)
    fields = ("voc_v", "vmp_v", "isc_a", "imp_a", "vmp_per_k")
    read = [ledger.read(card, field) for field in fields]
    rises = [ledger.decided_of(face, f"faces.{face.id}.cell_rise_k") for face in faces]
    panel = Panel(*(figure.value for figure in read))
    worst = 0.0
    for full in range(len(faces)):
        suns = [(1.0 if n == full else LITTLE, air.value + rise.value * (1.0 if n == full else LITTLE)) for n, rise in enumerate(rises)]
        worst = max(worst, lost_share(panel, suns))
    words = "loss at one voltage of module curves through {0}, {1}, {2} and {3} moved by {4}, one in full sun and the others in a fifth, in air of {5}"
    name, holds = f"Lost by unlike sun, {h.place}", "By one-diode curves; over a day far less."
    return ledger.work(f"{h.key}.faces_lost", "P_lost", name, named(words, 100 * worst, *read, air), "%", source="physics", limits=holds)
