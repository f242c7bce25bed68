"""A meter test out of what was typed: what each channel showed before, and with each load on."""

from __future__ import annotations

from gumboot.core.plan.sensing import CtSet
from gumboot.core.record import MeterReading, Switching
from gumboot.core.recording.draft import Draft, quantity_of
from gumboot.core.recording.inputs import inputs_of

LEGS = ("L1", "L2", "L3")


def draft_meter(d: Draft) -> MeterReading:
    """A meter test, each load alone; of cores that are tested again those alone. Raises BadDraft."""
    tested = next(each for each in d.plan.sensing.sets if each.test == d.act.name)
    sensing, loads = d.plan.job.sensing, dict[str, float]()
    for leg in tested.legs:
        field = f"load-{leg.lower()}{tested.mark}"
        loads[leg] = quantity_of(d, field, "W", "") if d.text(field) else getattr(sensing, f"test_{leg.lower()}_w")
    channels = [ct.place.channel for ct in tested.cts]
    if any(d.text(f"reading-{channel}{tested.mark}") for channel in channels):
        return _all_at_once(d, tested, loads)
    read = _channels_read(d, tested)

    def shown(when: str) -> dict[str, float]:
        return {channel: quantity_of(d, f"{when}-{channel}{tested.mark}", "W", "") for channel in channels if channel in read}

    before = shown("before")
    runs = tuple(Switching(loads={leg: loads[leg]}, after=shown(leg.lower())) for leg in tested.legs)
    return MeterReading(**d.said, before=before, runs=runs, power_factor=sensing.test_power_factor)


def _channels_read(d: Draft, tested: CtSet) -> set[str]:
    """The channels of which something was typed, and those that have to be: all that nobody has tested yet; where nothing is typed, what is asked."""
    whens = ("before", *(leg.lower() for leg in tested.legs))
    names = {ct.place.channel: [f"{when}-{ct.place.channel}{tested.mark}" for when in whens] for ct in tested.cts}
    typed = {channel for channel, fields in names.items() if any(d.text(field) for field in fields)}
    if d.typed.get("all") == "yes":
        return set(names)
    if not typed:
        asked = {asked.name for asked in inputs_of(d.plan, d.standing, d.act) if asked.required}
        return {channel for channel, fields in names.items() if asked & set(fields)}
    # What comes in late may have been asked for by another verdict: of a core that was tested before nothing need be said.
    verdict = d.standing.meters.get(d.act.name)
    known = {each.channel for each in verdict.channels if each.causes} if verdict is not None else set()
    return typed | (set(names) - known)


def _all_at_once(d: Draft, tested: CtSet, loads: dict[str, float]) -> MeterReading:
    """As pages of earlier versions sent it: all loads on together."""
    before, after = (
        {ct.place.channel: quantity_of(d, f"{when}-{ct.place.channel}{tested.mark}", "W", "") for ct in tested.cts}
        for when in ("before", "reading")
    )
    factor, unmoved = d.plan.job.sensing.test_power_factor, d.typed.get("unmoved") == "yes"
    # On a line that the test does not ask about nothing is switched on.
    return MeterReading(
        **d.said, before=before, after=after, loads={**dict.fromkeys(LEGS, 0.0), **loads}, power_factor=factor, unmoved=unmoved
    )
