"""How is each box fitted up beside its landings: entries used and blanked, joints from the factory, ferrites, bridges, its cover?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.card.base import EnclosureCard
from gumboot.core.card.fitting_up import Cover, Entries, Ferrite, Joint
from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.plan.leads import LeadKind, LeadsPlan
from gumboot.core.plan.terminations import Termination
from gumboot.core.rules import fitting_up as rules
from gumboot.core.seats import Enclosed
from gumboot.core.values import Values


class FactoryJoint(Values):
    """A joint from the factory with its torque and band."""

    joint: Joint
    torque: Figure
    low: Figure
    high: Figure


class FittedBox(Values):
    """One box as it is fitted up. ``used`` is how many of its entries are, None where its card does not say how many it has."""

    place: str
    title: str
    entries: Entries | None
    used: Figure | None
    joints: tuple[FactoryJoint, ...]
    ferrites: tuple[Ferrite, ...]
    cover: Cover | None
    cover_torque: Figure | None = None

    @property
    def blanks(self) -> int:
        """Entries that are blanked."""
        return max(0, self.entries.count - int(self.used.value)) if self.entries is not None and self.used is not None else 0


class Bridged(Values):
    """The maker's bridge of a string: which input it takes beside its own; empty: a second terminal of its own."""

    string: str
    place: str
    tracker: str
    partner: str


class FittingPlan(Values):
    """All boxes in which something lands, and the bridges."""

    boxes: tuple[FittedBox, ...]
    bridges: tuple[Bridged, ...] = ()

    def box(self, place: str) -> FittedBox | None:
        """The box of a place."""
        return next((box for box in self.boxes if box.place == place), None)


def _entering(ledger: Ledger, plan: CircuitsPlan, leads: LeadsPlan, place: str) -> int:
    """Raceways and cables that come into a box, one more for all its signal leads together."""
    raceways = {run: n for n, raceway in enumerate(ledger.house.raceways) for run in raceway.runs}
    own = [z for z in plan.sized.values() if place in {end.place for core in z.circuit.cores for end in core.ends}]
    ways = {f"raceway {raceways[z.circuit.id]}" if z.circuit.id in raceways else z.circuit.id for z in own if z.circuit.kind != "interlink"}
    signals = any(end.place == place for lead in leads.leads for end in lead.ends if lead.kind is not LeadKind.NETWORK or lead.wires)
    return len(ways) + signals


def _joint(ledger: Ledger, place: str, card: Enclosed, joint: Joint) -> FactoryJoint:
    torque = ledger.read(card, f"joints.{joint.id}.torque_nm")
    band = ledger.read(card, f"joints.{joint.id}.torque_tolerance_pct")
    key, source = f"joint.{place}.{joint.id}", ledger.book.torque_source
    low = ledger.work(
        f"{key}.low", "M_low", f"Lowest torque in band, {joint.title} of {place}", torque * (1 - band / 100), "N m", source=source
    )
    high = ledger.work(
        f"{key}.high", "M_high", f"Highest torque in band, {joint.title} of {place}", torque * (1 + band / 100), "N m", source=source
    )
    return FactoryJoint(joint=joint, torque=torque, low=low, high=high)


def _box(ledger: Ledger, place: str, title: str, entering: int) -> FittedBox | None:
    card = ledger.house.cards[place]
    if not isinstance(card, EnclosureCard):
        return None
    used, cover = None, card.cover
    if card.entries is not None:
        limits = "One for each raceway or cable, one for all signal leads together."
        used = ledger.work(
            f"fitting.{place}.entries", "n_e", f"Entries of {place} in use", float(entering), "", source="arith", limits=limits
        )
        ledger.ask(rules.entries_suffice, rules.Entered(where=place, title=title, used=used, count=card.entries.count))
    return FittedBox(
        place=place,
        title=title,
        entries=card.entries,
        used=used,
        joints=tuple(_joint(ledger, place, card, joint) for joint in card.joints),
        ferrites=tuple(card.ferrites),
        cover=cover,
        cover_torque=ledger.read(card, "cover.torque_nm") if cover is not None and cover.torque_nm is not None else None,
    )


def _bridges(ledger: Ledger) -> tuple[Bridged, ...]:
    found = []
    for string in ledger.job.strings:
        at = next((i for i in ledger.house.inputs if i.tracker.id == string.tracker and string.inverter in (None, i.place)), None)
        if string.bridge and at is not None:
            found.append(Bridged(string=string.id, place=at.place, tracker=at.tracker.id, partner=at.tracker.bridge_with))
    return tuple(found)


def plan_fitting(ledger: Ledger, plan: CircuitsPlan, leads: LeadsPlan, landings: Sequence[Termination]) -> FittingPlan:
    """Work out every box in which a conductor lands."""
    titles = {t.place: t.place_title for t in landings}
    boxes = [_box(ledger, place, title, _entering(ledger, plan, leads, place)) for place, title in titles.items()]
    return FittingPlan(boxes=tuple(box for box in boxes if box is not None), bridges=_bridges(ledger))
