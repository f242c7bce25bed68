"""The acts of fitting a box up: joints from the factory, ferrites, the maker's bridge, entries and blanks."""

from __future__ import annotations

from collections.abc import Iterator

from gumboot.core.acts.act import Act, Band, Kind, ident
from gumboot.core.card.fitting_up import Cover, Ferrite
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.fitting_up import Bridged, FactoryJoint, FittedBox
from gumboot.core.plan.prove import Lasts
from gumboot.core.units import lbf_in_from_nm
from gumboot.core.wording import within

YES_NO = Band(choices=("yes", "no"))
WITHOUT_TORQUE = "as tight as its maker says"


def ferrite_act(place: str, port: str) -> str:
    """The id of the act of putting a ferrite on."""
    return ident("ferrite", f"{place}.{port.lower()}")


def _joint(box: FittedBox, own: FactoryJoint) -> Act:
    joint = own.joint
    return Act(
        id=ident("joint", f"{box.place}.{joint.id}"),
        kind=Kind.JOINT,
        station="wire",
        title=f"{box.title}: {within(joint.title)}",
        thing=box.place,
        prepare=f"{joint.tip.words[:1].upper()}{joint.tip.words[1:]}.",
        see=f"{'' if joint.on_site else 'Made in the factory: '}{'T' if joint.on_site else 't'}ighten it to its value, and draw the mark across it.",
        caution=joint.caution,
        band=Band(unit="N m", low=own.low, high=own.high, expected=own.torque),
    )


def _ferrite(box: FittedBox, ferrite: Ferrite) -> Act:
    times = "once, straight through" if ferrite.turns == 1 else f"{ferrite.turns} times through it"
    part = f"{ferrite.part}: " if ferrite.part else ""
    return Act(
        id=ferrite_act(box.place, ferrite.port),
        kind=Kind.FERRITE,
        station="wire",
        title=f"{box.title}: ferrite at {ferrite.port.capitalize()}",
        thing=box.place,
        see=f"{part[:1].upper()}{part[1:]}{ferrite.around}, {times}. It goes on before plug or lug is made.",
        band=YES_NO,
        lasts=Lasts(rests=f"{ferrite.turns} times"),
    )


def _bridged(bridge: Bridged) -> Act:
    beside = f"{bridge.tracker} and {bridge.partner}" if bridge.partner else f"both terminals of {bridge.tracker}"
    empty = f" {bridge.partner} takes no conductor of its own." if bridge.partner else ""
    return Act(
        id=ident("bridged", bridge.string),
        kind=Kind.BRIDGED,
        station="wire",
        title=f"Maker's bridge over {beside}",
        thing=bridge.place,
        see=f"The maker's own bridge, over + and over −, for {bridge.string}.{empty} No other bridge.",
        band=YES_NO,
        lasts=Lasts(rests=beside),
    )


def _entries(box: FittedBox, needs: tuple[str, ...]) -> Act | None:
    if box.entries is None or box.used is None:
        return None
    used, entries = int(box.used.value), box.entries
    blanks = f"blank the other {box.blanks}" if box.blanks else "none is left over"
    return Act(
        id=ident("entries", box.place),
        kind=Kind.ENTRIES,
        station="wire",
        title=f"{box.title}: entries",
        thing=box.place,
        see=f"{used} of {entries.count} in use, {entries.size}; {blanks}. Every fitting and plug keeps {entries.rating}.",
        band=YES_NO,
        needs=needs,
        lasts=Lasts(rests=f"{used} of {entries.count}"),
    )


def fitting_acts(plan: Plan) -> Iterator[Act]:
    """What is done in a box before its landings."""
    for bridge in plan.fitting.bridges:
        yield _bridged(bridge)
    landed = {(t.place, t.port) for t in plan.terminations}
    for box in plan.fitting.boxes:
        for joint in box.joints:
            yield _joint(box, joint)
        for ferrite in box.ferrites:
            if (box.place, ferrite.port) in landed:
                yield _ferrite(box, ferrite)


def entry_acts(plan: Plan) -> Iterator[Act]:
    """Entries of each box, when everything has come in."""
    for box in plan.fitting.boxes:
        own = tuple(ident("torque", t.id) for t in plan.terminations if t.place == box.place)
        entries = _entries(box, own)
        if entries is not None:
            yield entries


def closing_words(box: FittedBox | None) -> str:
    """How a box is closed: debris, shields, then the cover's screws in their order."""
    cover: Cover | None = box.cover if box is not None else None
    if cover is None:
        return "Debris out, unused glands blanked, shields back, cover on with its screws at the torque that stands on it."
    shields = f"{', '.join(cover.shields)} back in place; " if cover.shields else ""
    tip = f", {cover.tip.words}" if cover.tip is not None else ""
    torque = f"at {cover.torque_nm:g} N m ({lbf_in_from_nm(cover.torque_nm):.1f} lbf in)" if cover.torque_nm is not None else WITHOUT_TORQUE
    return f"Debris out; {shields}cover on: {cover.screws} screws {torque}{tip}, {cover.order or 'crosswise'}."
