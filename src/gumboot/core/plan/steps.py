"""The derivation as a table: every step with what it needs, and the rule modules that it runs."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import plan_banks, plan_supply
from gumboot.core.plan.circuits import plan_circuits
from gumboot.core.plan.circuits.station import Known
from gumboot.core.plan.connection import plan_connection
from gumboot.core.plan.coupling import plan_coupling
from gumboot.core.plan.faults import plan_faults
from gumboot.core.plan.fitting_up import plan_fitting
from gumboot.core.plan.labels import plan_labels
from gumboot.core.plan.leads import plan_leads
from gumboot.core.plan.links import plan_links
from gumboot.core.plan.live_checks import plan_live_checks
from gumboot.core.plan.loads import plan_loads
from gumboot.core.plan.parts import Parts
from gumboot.core.plan.power_up import PowerUpPlan, plan_power_up
from gumboot.core.plan.power_up.parts import Ready
from gumboot.core.plan.prove import Check, plan_prove
from gumboot.core.plan.raceways import plan_raceways
from gumboot.core.plan.sensing import plan_sensing
from gumboot.core.plan.settings import SettingsPlan, plan_settings
from gumboot.core.plan.several import check_group
from gumboot.core.plan.shock import plan_shock
from gumboot.core.plan.strings import plan_strings
from gumboot.core.plan.survey import check_survey
from gumboot.core.plan.terminations import plan_terminations
from gumboot.core.plan.wall import plan_walls


@dataclass(frozen=True, slots=True)
class Step:
    """One step: its name, which is also the name of what it gives, what it works out in words, and the steps it needs.

    A need may name one value of a part, as ``loads.running``: then a change of its other values does not count.
    ``gives`` is False for a step that only judges. ``holds`` are the paths of the parts of the job document that its value holds: it
    runs again on any change there, not only on a change of what it read.
    """

    name: str
    title: str
    needs: tuple[str, ...]
    run: Callable[[Ledger, Parts], object]
    gives: bool = True
    holds: tuple[str, ...] = ()


def _opened(ledger: Ledger, checks: tuple[Check, ...]) -> tuple[Check, ...]:
    """The checks, with the ends of their bands made openable."""
    for check in checks:
        ledger.open(check.low, check.high, check.expected)
    return checks


def _prove(w: Ledger, p: Parts) -> tuple[Check, ...]:
    return _opened(w, plan_prove(w, p.strings, p.circuits, p.links))


def _power_up(w: Ledger, p: Parts) -> PowerUpPlan:
    dead = tuple(check for check in p.prove if not check.is_before_landing)
    plan = plan_power_up(Ready(ledger=w, banks=p.banks, checks=dead, plan=p.circuits))
    _opened(w, tuple(s.measure for s in plan.steps if s.measure))
    return plan


def _settings(w: Ledger, p: Parts) -> SettingsPlan:
    return plan_settings(w, p.banks, p.loads.profile_w, p.links)


STEPS = (
    Step("survey", "Which answers are missing, and whether the place suits", (), lambda w, _: check_survey(w), gives=False),
    Step("supply", "What the bank holds and gives", (), lambda w, _: plan_supply(w)),
    Step("strings", "Voltage and current at every PV input", (), lambda w, _: plan_strings(w), holds=("strings", "faces")),
    Step(
        "loads",
        "What the backed-up loads ask",
        ("supply.delivered", "supply.power_w", "supply.peak_w"),
        lambda w, p: plan_loads(w, p.supply),
    ),
    Step(
        "sizes",
        "Conductors and devices of every circuit",
        ("strings", "supply", "loads.running"),
        lambda w, p: plan_circuits(w, Known(strings=p.strings, supply=p.supply, running=p.loads.running)),
        holds=("runs",),
    ),
    Step(
        "circuits",
        "Boards, drop and rise, the neutral's bond",
        ("sizes", "loads.running", "loads.running_total"),
        lambda w, p: plan_connection(w, p.sizes, p.loads.running, p.loads.running_total),
        holds=("runs",),
    ),
    Step("group", "Whether inverters work as one", ("supply", "circuits"), lambda w, p: check_group(w, p.supply, p.circuits), gives=False),
    Step("shock", "Earths, loops, residual currents", ("circuits",), lambda w, p: plan_shock(w, p.circuits), gives=False),
    Step("raceways", "Fill, and what may lie together", ("circuits",), lambda w, p: plan_raceways(w, p.circuits), gives=False),
    Step("coupling", "PV on the AC side of the island", ("supply",), lambda w, p: plan_coupling(w, p.supply), gives=False),
    Step(
        "banks",
        "Leads, shares, precharge, the main fuse",
        ("supply", "circuits.sized"),
        lambda w, p: plan_banks(w, p.supply, p.circuits.sized),
    ),
    Step(
        "faults",
        "Fault current at each place, and what breaks it",
        ("strings", "circuits", "banks"),
        lambda w, p: plan_faults(w, p.strings, p.banks, p.circuits),
    ),
    Step("walls", "What hangs where, on which screws", (), lambda w, _: plan_walls(w)),
    Step("terminations", "Every landing with its torque", ("circuits",), lambda w, p: plan_terminations(w, p.circuits)),
    Step("links", "BMS and inverter links, addresses", (), lambda w, _: plan_links(w), holds=("things", "banks", "modbus")),
    Step("sensing", "Current transformers", (), lambda w, _: plan_sensing(w), holds=("sensing",)),
    Step(
        "leads",
        "Every signal lead, core by core",
        ("links", "sensing", "walls"),
        lambda w, p: plan_leads(w, p.links, p.sensing, p.walls),
        holds=("things", "banks", "modbus", "sensing"),
    ),
    Step(
        "fitting",
        "Entries, factory joints, ferrites, covers",
        ("circuits", "leads", "terminations"),
        lambda w, p: plan_fitting(w, p.circuits, p.leads, p.terminations),
    ),
    Step("prove", "Dead checks with their bands", ("strings", "circuits", "links"), _prove),
    Step("power_up", "First power, step by step", ("banks", "prove", "circuits"), _power_up),
    Step("settings", "The charge and grid settings", ("banks", "loads.profile_w", "links"), _settings, holds=("settings",)),
    Step("live_checks", "What is measured while it runs", ("power_up",), lambda w, p: _opened(w, plan_live_checks(w, p.power_up))),
    Step(
        "labels",
        "What each label says",
        ("strings", "supply", "power_up"),
        lambda w, p: plan_labels(w, p.strings, p.supply, p.power_up.off_order),
    ),
)
