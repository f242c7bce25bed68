"""The tasks of the programming ritual."""

from __future__ import annotations

from gumboot.core.plan.derive import Plan

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


def link_tasks(plan: Plan) -> tuple[tuple[str, str], ...]:
    """The tasks of the programming ritual; none where there is no battery bus to program."""
    own = tuple((f"{key}{bus.mark}", f"{title}{bus.of}") for bus in plan.links.wired for key, title in LINK_TASKS)
    return own + tuple((f"{key}{group.mark}", f"{title}{group.of}") for group in plan.links.groups for key, title in GROUP_TASKS)
