"""What holds a step of first power back?"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from gumboot.core.plan.derive import Plan
from gumboot.core.plan.power_up import Step
from gumboot.core.plan.power_up.parts import METER
from gumboot.core.sim.ct_readings import MeterVerdict
from gumboot.core.standing.records import Judged, Left, Record
from gumboot.core.standing.tasks import link_tasks


@dataclass(frozen=True, slots=True, kw_only=True)
class Site:
    """What a step of first power looks at: everything that must be done or stand before it, as it is now."""

    plan: Plan
    torques: dict[str, Judged]
    checks: dict[str, Judged]
    steps: dict[str, Judged]
    settings: dict[str, Left]
    cleared: dict[str, Record]
    links_done: dict[str, Record]
    meters: Mapping[str, MeterVerdict]

    def settled(self, check_id: str) -> bool:
        """Whether a reading is good, or a licence holder has cleared it."""
        return self.checks[check_id].good or f"check:{check_id}" in self.cleared

    def failed(self) -> list[str]:
        """Readings that stand outside their band now, whenever they were made."""
        return [
            f"{c.title}: {'; '.join(self.checks[c.id].faults)}"
            for c in self.plan.all_checks()
            if self.checks[c.id].faults and not self.settled(c.id)
        ]

    def turned_bad(self) -> list[str]:
        """Readings of steps that stand outside their band now: nobody signs over one that turned bad later."""
        on_the_way = [step.measure for step in self.plan.power_up.steps if step.measure is not None]
        return [f"reading outside its band: {c.title}" for c in on_the_way if self.checks[c.id].faults and not self.settled(c.id)]

    def needs(self, need: str) -> list[str]:
        """What of the link ritual, the settings or the meter test is still open."""
        if need == "links":
            return [f"links: {title.lower()}" for key, title in link_tasks(self.plan) if key not in self.links_done]
        if need == "settings":
            left = [row.title.lower() for row in self.plan.settings.sheet if not self.settings[row.key].good]
            return [f"settings as left: {', '.join(left[:3])}{f' and {len(left) - 3} more' if len(left) > 3 else ''}"] if left else []
        return self._proved(need.removeprefix(METER))

    def _proved(self, mark: str) -> list[str]:
        """What the meter test of a set of CTs leaves open."""
        proved = next((each for each in self.plan.sensing.sets if each.mark == mark), None)
        found = self.meters.get(proved.test) if proved else None
        of = proved.of if proved else ""
        if found is None:
            return [f"the meter test{of} with PV off is not recorded"]
        bad = [v for v in found.channels if v.verdict != "right"]
        return [f"meter test{of}: {bad[0].text}"] if bad else []


def holds_of(site: Site, step: Step) -> tuple[str, ...]:
    """Everything that holds a step back, in words; nothing where it may be done."""
    plan, order = site.plan, [s.id for s in site.plan.power_up.steps]
    titles = {c.id: c.title for c in plan.all_checks()}
    at = order.index(step.id)
    held = [f"stop: {f.text}" for f in plan.stops]
    held += [f"failed reading: {words}" for words in site.failed()]
    if at and not site.steps[order[at - 1]].good:
        held.append(f"the step before: {plan.power_up.steps[at - 1].title}")
    held += [titles[c] for c in step.holds if not site.settled(c) and not site.checks[c].faults]
    open_ends = [t for t in plan.terminations if t.circuit in step.lands and not site.torques[t.id].good]
    if open_ends:
        first = f"{open_ends[0].place} {open_ends[0].title}"
        held.append(f"{len(open_ends)} terminations without a good record, the first {first}")
    held += [words for need in step.needs for words in site.needs(need)]
    if step.measure is not None and not site.settled(step.measure.id) and not site.checks[step.measure.id].faults:
        held.append(f"record the reading: {step.measure.title}")
    return tuple(held)
