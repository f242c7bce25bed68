"""What is proved with the system live, before it is handed over?"""

from __future__ import annotations

from gumboot.core.figure import constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.power_up import PowerUpPlan
from gumboot.core.plan.prove import Check

# The step of an order that is not planned: nothing live is checked before a licence holder and the maker's manual were there.
NEVER = "order not planned"

THERMAL = constant("T_max", "Lug or breaker at full power at most", 75, "°C", "cp.thermal", "The terminals' temperature rating.")
SOC = constant("dS", "Difference between the two displays at most", 1, "%", "cp.soc")


def plan_live_checks(ledger: Ledger, power_up: PowerUpPlan) -> tuple[Check, ...]:
    """Live checks in order, each after the step of first power that makes it possible."""
    steps = [s.id for s in power_up.steps]
    last = steps[-1] if steps else NEVER
    grid = "grid-breaker" if "grid-breaker" in steps else last
    off_grid = ledger.job.site.supply == "none"
    linked = bool(ledger.card("battery").data_ports) and ledger.card("battery").arrangement != "docked"
    soc = [
        Check(
            "soc-agree",
            "live-checks",
            "State of charge at inverter and battery",
            "%",
            "A zero or a blank means no link; displays lag 5 to 10 s. Read both; the difference is worked out.",
            None,
            SOC,
            code="READ-SOC",
            shows=("inverter shows", "battery shows"),
            after="inverter-on" if steps else NEVER,
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
            measures="signed",
            after=last,
        ),
    ]
    outage = [
        Check(
            "outage", "live-checks", "Main switch opened: the backed-up side held", "", "Which loads dropped, and for how long?", after=grid
        ),
        Check("return", "live-checks", "Grid returned and was taken back", "", "The inverter waits its reconnection time.", after=grid),
    ]
    rows = [*(soc if linked else []), *thermal, *([] if off_grid else outage)]
    if not off_grid and ledger.job.site.export_limit_w is not None:
        limit = ledger.decided("site.export_limit_w", "P_exp", "Export the utility permits", "W")
        rows.append(
            Check(
                "export",
                "live-checks",
                "Export at full sun",
                "W",
                "Never above the permit, whichever sign the display gives to export.",
                None,
                limit,
                code="READ-EXPORT",
                measures="magnitude",
                after=last,
            )
        )
    rows += [
        Check(
            "alarms",
            "live-checks",
            "Alarm list empty, fault log read, firmware noted",
            "",
            "A fault today is a call-out tomorrow.",
            after=last,
        ),
        Check("serials", "live-checks", "Serial numbers written down", "", "Warranty needs them."),
        Check("owner", "live-checks", "Owner shown how to shut down", "", f"Off order: {', '.join(power_up.off_order).lower()}."),
    ]
    return tuple(rows)
