"""What is proved with the system live, before it is handed over?"""

from __future__ import annotations

from gumboot.core.figure import constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.prove import Check

THERMAL = constant("T_max", "Lug or breaker at full power at most", 75, "°C", "cp.thermal", "The terminals' temperature rating.")
SOC = constant("dS", "Difference between the two displays at most", 1, "%", "cp.soc")


def plan_live_checks(ledger: Ledger) -> tuple[Check, ...]:
    """Live checks in order."""
    off_grid = ledger.job.site.supply == "none"
    linked = bool(ledger.card("battery").data_ports) and ledger.card("battery").arrangement != "docked"
    soc = [
        Check(
            "soc-agree",
            "live-checks",
            "State of charge: difference between inverter and battery",
            "%",
            "A zero or a blank means no link; displays lag 5 to 10 s.",
            None,
            SOC,
            code="READ-SOC",
        )
    ]
    thermal = [
        Check(
            "thermal",
            "live-checks",
            "Hottest lug or breaker after 10 min at full power",
            "°C",
            "A loose lug shows as heat.",
            None,
            THERMAL,
            caution="Live parts behind covers: look with a camera, do not touch.",
            code="READ-HEAT",
        ),
    ]
    outage = [
        Check("outage", "live-checks", "Main switch opened: the backed-up side held", "", "Which loads dropped, and for how long?"),
        Check("return", "live-checks", "Grid returned and was taken back", "", "The inverter waits its reconnection time."),
    ]
    rows = [*(soc if linked else []), *thermal, *([] if off_grid else outage)]
    if not off_grid and ledger.job.site.export_limit_w is not None:
        limit = ledger.decided("site.export_limit_w", "P_exp", "Export the utility permits", "W")
        rows.append(Check("export", "live-checks", "Export at full sun", "W", "Never above the permit.", None, limit, code="READ-EXPORT"))
    rows += [
        Check("alarms", "live-checks", "Alarm list empty, fault log read, firmware noted", "", "A fault today is a call-out tomorrow."),
        Check("serials", "live-checks", "Serial numbers written down", "", "Warranty needs them."),
        Check("owner", "live-checks", "Owner shown how to shut down", "", "Off order: inverter, grid, backed-up main, PV, battery."),
    ]
    return tuple(rows)
