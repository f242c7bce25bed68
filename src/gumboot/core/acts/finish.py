"""The acts of the end: covers, labels, numbers, live checks, signatures."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from gumboot.core.acts.act import LICENSED, Act, Band, Kind, ident
from gumboot.core.acts.fit import YEAR_AFTER_H
from gumboot.core.acts.fitting_up import YES_NO, closing_words
from gumboot.core.acts.graph import PLAN
from gumboot.core.acts.start import check_act
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.fitting_up import FittedBox

ANSWERED = ident("plan", "answered")
VISIT = ident("yearly", "house")
SIGNED, PROVISIONAL = ident("sign-off", "job"), ident("sign-off", "provisional")


def live_acts(plan: Plan) -> Iterator[Act]:
    """Live checks, each after its step; where no order is planned, none before the plan has no stop."""
    steps = {step.id for step in plan.power_up.steps}
    for check in plan.live_checks:
        after = (ident("step", check.after) if check.after in steps else PLAN,) if check.after else ()
        yield check_act(check, after)


def _fitted(box: FittedBox | None) -> tuple[str, ...]:
    """What of a box's fitting up stands before its cover."""
    if box is None:
        return ()
    entries = (ident("entries", box.place),) if box.used is not None else ()
    return (*(ident("joint", f"{box.place}.{own.joint.id}") for own in box.joints), *entries)


def _closed(box: FittedBox | None) -> Band:
    """What a closed box must show: yes, its screws at their torque."""
    torque = box.cover_torque if box is not None else None
    return YES_NO if torque is None else Band(unit="N m", expected=torque, choices=YES_NO.choices)


def cover_acts(plan: Plan) -> Iterator[Act]:
    """Each box closed, after the last thing that is measured in it."""
    titles = {t.place: t.place_title for t in plan.terminations}
    for place, title in titles.items():
        box = plan.fitting.box(place)
        inside = tuple(ident("check", c.id) for c in plan.all_checks() if place in c.places)
        yield Act(
            id=ident("cover", place),
            kind=Kind.COVER,
            station="live-checks",
            title=f"{title} closed",
            thing=place,
            see=closing_words(box),
            band=_closed(box),
            needs=(*(ident("torque", t.id) for t in plan.terminations if t.place == place), *_fitted(box), *inside),
        )
        yield Act(
            id=ident("photo", place),
            kind=Kind.PHOTO,
            station="live-checks",
            title=f"Photo inside {title}, before its cover",
            thing=place,
            guards="paper",
            is_optional=True,
        )


def firmware_acts(plan: Plan) -> Iterator[Act]:
    """The firmware of what speaks."""
    for unit in plan.seats.inverters:
        asked = [p.firmware_min for bus in plan.links.wired for p in (bus.protocol,) if p is not None and bus.inverter.id == unit.id]
        least = max(asked, default="")
        yield Act(
            id=ident("firmware", unit.id), kind=Kind.FIRMWARE, station="live-checks", title=f"Firmware of {unit.name}", thing=unit.id,
            see=f"{least} or newer" if least else "As its screen shows it.", band=Band(words=least), guards="paper",
        )  # fmt: skip


def visit_acts() -> Iterator[Act]:
    """The visit a year after the signature: nobody waits for it, and it comes due."""
    yield Act(
        id=VISIT, kind=Kind.RECHECK, station="hand-over", title="Yearly look: marks, dust, fans, alarm list, spread of the batteries",
        see="As it was handed over.", band=Band(choices=("yes", "no")), guards="paper", needs=(SIGNED,), hours_after=YEAR_AFTER_H, is_optional=True,
    )  # fmt: skip


def signing_acts(every: Iterable[Act]) -> Iterator[Act]:
    """The signatures: for good, after everything; and with what comes a day later promised."""
    asked = [act for act in every if not act.is_optional]
    for name, title, late in (
        (PROVISIONAL, "Handed over, with what is promised", (Kind.RECHECK,)),
        (SIGNED, "Signed and handed over", ()),
    ):
        yield Act(
            id=name, kind=Kind.SIGN_OFF, station="hand-over", title=title, guards="paper", who=LICENSED,
            needs=tuple(act.id for act in asked if act.kind not in late), is_optional=name == PROVISIONAL,
        )  # fmt: skip
