"""What would another conductor cost and give? Each size is planned whole, so that every rule speaks."""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.errors import GumbootError
from gumboot.core.figure import Figure, constant
from gumboot.core.finding import Finding
from gumboot.core.job.model import Run
from gumboot.core.plan.circuits.parts import Sized
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.rulebook.books import book
from gumboot.core.sizes import area_mm2

# Copper weighs 8.89 g/cm3 (IACS annealed copper, 20 °C).
COPPER = constant("rho", "Copper of a metre of a square millimetre", 8.89e-3, "kg/mm2/m", "physics", limits="IACS annealed copper, 20 °C.")


def _live(plan: Plan, sized: Sized) -> int:
    """Conductors of a circuit but the earth."""
    return len([conductor for conductor in plan.house.conductors(sized.circuit) if conductor.role != "earth"])


@dataclass(frozen=True)
class Alternative:
    """One size for a circuit: how it is sized with it, what it newly breaks, the copper it takes against the pulled one."""

    size: str
    pulled: bool
    sized: Sized | None
    breaks: tuple[Finding, ...]
    copper_kg: float
    plan: Plan | None = None

    def shown(self, figure: Figure) -> Figure:
        """A figure of this size's own plan, under a key that tells it from the pulled one's."""
        return figure.renamed(key=f"alt|{self.sized.circuit.id if self.sized else ''}|{self.size}|{figure.key}")

    @property
    def headroom(self) -> Figure | None:
        """How far the ampacity stands above the design current, as a figure."""
        if self.sized is None or self.headroom_pct is None:
            return None
        above = 100 * (self.sized.ampacity / self.sized.demand.design_a - 1)
        key = f"headroom.{self.sized.circuit.id}"
        return self.shown(Figure(key, "h", "Ampacity above the design current", above, "%", source="arith"))

    @property
    def copper(self) -> Figure | None:
        """The copper it takes, as a figure: all cores but the earth."""
        if self.sized is None or self.plan is None:
            return None
        sized = self.sized
        cores = float(_live(self.plan, sized))
        count = Figure(f"copper.{sized.circuit.id}.cores", "n", "Cores but the earth", cores, "", source="arith")
        kg = count * sized.length * sized.installed * COPPER
        return self.shown(Figure(f"copper.{sized.circuit.id}", "m_cu", "Copper of the run", kg, "kg", source="physics"))

    @property
    def headroom_pct(self) -> float | None:
        """How far its ampacity stands above the design current, %."""
        if self.sized is None:
            return None
        need = self.sized.demand.design_a.value
        return 100 * (self.sized.ampacity.value / need - 1) if need else None


def with_run(plan: Plan, run_id: str, **changes: object) -> Plan:
    """The plan with some answers of one run changed. Raises GumbootError when it cannot be derived."""
    runs = [Run.model_validate({**r.model_dump(), **changes}) if r.id == run_id else r for r in plan.job.runs]
    return derive(plan.job.model_copy(update={"runs": runs}), plan.shelf, plan)


def alternatives(plan: Plan, circuit_id: str, below: int = 1, above: int = 4) -> tuple[Alternative, ...]:
    """The pulled size with its neighbours in the book's table, smallest first; empty while the circuit is not sized."""
    now = plan.circuits.sized.get(circuit_id)
    if now is None:
        return ()
    sizes = sorted(book(plan.job.rule_book).wiring.sizes(), key=area_mm2)
    if now.size not in sizes:
        return ()
    at = sizes.index(now.size)
    required = sizes.index(now.required.label) if now.required.label in sizes else at
    low, high = max(0, min(at, required) - below), min(len(sizes), max(at, required) + above + 1)
    known = {f.key for f in plan.findings}
    found = []
    for size in sizes[low:high]:
        try:
            other = with_run(plan, circuit_id, installed_size=size, installed_earth=None)
        except GumbootError:
            continue
        sized = other.circuits.sized.get(circuit_id)
        new = tuple(f for f in other.findings if f.key not in known and f.level != "note")
        copper = _live(plan, now) * now.length.value * area_mm2(size) * COPPER.value
        found.append(Alternative(size, size == now.size, sized, new, copper, other))
    return tuple(found)
