"""The tasks of the programming ritual."""

from __future__ import annotations

from gumboot.core.plan.derive import Plan
from gumboot.core.plan.links import BatteryBus, places_told

LINK_TASKS = (
    ("off", "Every battery breaker off, every BMS off"),
    ("program", "Switches set, protocol chosen, one unit at a time"),
    ("cycle", "Each unit power-cycled and its setting read back"),
    ("lead", "Lead made to the pin-out and checked end to end"),
)


GROUP_TASKS = (
    ("group-set", "Role, address and phase set in each inverter, one at a time, the link unplugged"),
    ("group-lead", "Link between the inverters laid, terminators at its two ends"),
)


def _told(bus: BatteryBus, key: str, title: str) -> str:
    """A task in words; where the maker asks for it, how the switches stand while a protocol is chosen."""
    if key != "program" or not bus.programming:
        return title
    told = places_told(bus.programming)
    return f"One unit at a time, the others off: {told} (programming), protocol chosen, then the switches of its address"


def link_tasks(plan: Plan) -> tuple[tuple[str, str], ...]:
    """The tasks of the programming ritual; none where there is no battery bus to program."""
    own = tuple((f"{key}{bus.mark}", f"{_told(bus, key, title)}{bus.of}") for bus in plan.links.wired for key, title in LINK_TASKS)
    return own + tuple((f"{key}{group.mark}", f"{title}{group.of}") for group in plan.links.groups for key, title in GROUP_TASKS)
