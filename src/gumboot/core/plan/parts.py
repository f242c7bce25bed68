"""What the steps of a derivation give to one another."""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.plan.bank import BankPlan
from gumboot.core.plan.bank.supply import Supplies
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.plan.faults import FaultsPlan
from gumboot.core.plan.fitting_up import FittingPlan
from gumboot.core.plan.labels import Label
from gumboot.core.plan.leads import LeadsPlan
from gumboot.core.plan.links import LinksPlan
from gumboot.core.plan.loads import IslandLoads
from gumboot.core.plan.power_up import PowerUpPlan
from gumboot.core.plan.prove import Check
from gumboot.core.plan.sensing import SensingPlan
from gumboot.core.plan.settings import SettingsPlan
from gumboot.core.plan.strings import StringsPlan
from gumboot.core.plan.terminations import Termination
from gumboot.core.plan.wall import WallPlan


@dataclass(init=False, slots=True)
class Parts:
    """The value of each step under the step's name, there once the step has run: asking earlier raises AttributeError.

    ``sizes`` is every circuit sized; ``circuits`` the same with drop and rise judged along the way to the street.
    """

    supply: Supplies
    strings: StringsPlan | None
    loads: IslandLoads
    sizes: CircuitsPlan
    circuits: CircuitsPlan
    banks: tuple[BankPlan, ...]
    faults: FaultsPlan
    walls: tuple[WallPlan, ...]
    terminations: tuple[Termination, ...]
    links: LinksPlan
    sensing: SensingPlan
    leads: LeadsPlan
    fitting: FittingPlan
    prove: tuple[Check, ...]
    power_up: PowerUpPlan
    settings: SettingsPlan
    live_checks: tuple[Check, ...]
    labels: tuple[Label, ...]
