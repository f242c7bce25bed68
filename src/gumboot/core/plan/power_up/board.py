"""The switching network of a job: what each switch joins, and where power comes from."""

from __future__ import annotations

from gumboot.core.ledger import Ledger
from gumboot.core.sim.switch_line import Line, Switch

BANK_TITLES = {"stack": "Battery stack", "blocks": "Battery bank"}


def battery_switches(ledger: Ledger) -> list[tuple[str, str]]:
    """What a hand switches on of the bank: each parallel battery, or the stack, the blocks or the cabinet as one."""
    card, units = ledger.seats.battery, ledger.job.banks[0].units
    if card.arrangement == "parallel" and not ledger.seats.inverter.bank_internal:
        return [(u.id, u.id) for u in units]
    return [(units[0].id, BANK_TITLES.get(card.arrangement, "Battery cabinet"))]


def _switches(ledger: Ledger, wired: list[tuple[str, str]]) -> list[Switch]:
    fused = ledger.seats.switch_fuse is not None
    dc = "dc-bus" if fused else "inverter-dc"
    switches = [Switch(uid, f"{title} breaker and power", f"{uid}-cells", dc) for uid, title in wired]
    if fused:
        switches += [
            Switch("precharge", "Pre-charge button", "dc-bus", "inverter-dc"),
            Switch("battery-switch", "Battery switch-fuse", "dc-bus", "inverter-dc"),
        ]
    return [
        *switches,
        Switch("inverter", "Inverter on", "inverter-dc", "inverter-load"),
        Switch("sub-main", "Backed-up board main", "inverter-load", "backed-up-board"),
    ]


def switch_line(ledger: Ledger) -> Line:
    """The switching network of this job, from what it has: battery, inverter, backed-up board, grid, PV, generator."""
    job, wired = ledger.job, battery_switches(ledger)
    switches, sources = _switches(ledger, wired), [(f"{uid}-cells", "battery") for uid, _ in wired]
    if job.site.supply != "none":
        switches.append(Switch("grid-breaker", "Grid breaker in the main board", "main-board", "inverter-grid"))
        sources.append(("main-board", "grid"))
    if job.strings:
        switches.append(Switch("pv-switch", "PV switch", "pv-strings", "inverter-pv"))
        sources.append(("pv-strings", "PV"))
    if ledger.seats.generator is not None:
        switches.append(Switch("generator-breaker", "Generator breaker", "generator", "inverter-generator"))
        sources.append(("generator", "generator"))
    if job.backup.bypass != "none":
        switches.append(Switch("bypass", "Bypass from the main board", "main-board", "backed-up-board"))
    return Line(tuple(switches), tuple(sources), job.backup.bypass == "interlocked")
