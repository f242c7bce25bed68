"""The plan as plain data: what ``check --json`` and the API give."""

from __future__ import annotations

from typing import Any

from gumboot.core.figure import Figure
from gumboot.core.finding import Finding
from gumboot.core.plan.derive import Plan


def figure_json(figure: Figure) -> dict[str, Any]:
    """A figure as the JSON report shows it."""
    return {
        "name": figure.name,
        "symbol": figure.symbol,
        "value": figure.value,
        "unit": figure.unit,
        "label": figure.label,
        "source": figure.source,
        "formula": figure.formula,
        "given": {g.symbol: g.key for g in figure.given},
        "limits": figure.limits,
    }


def finding_json(finding: Finding) -> dict[str, Any]:
    """A finding as the JSON report shows it."""
    return {
        "code": finding.code,
        "level": finding.level,
        "station": finding.station,
        "where": finding.where,
        "text": finding.text,
        "act": finding.act,
        "source": finding.source,
        "field": finding.field,
        "found": finding.found and finding.found.key,
        "limit": finding.limit and finding.limit.key,
    }


def plan_json(plan: Plan) -> dict[str, Any]:
    """The whole plan as the JSON report shows it."""
    return {
        "job": plan.job.id,
        "stops": len(plan.stops),
        "figures": {key: figure_json(f) for key, f in plan.figures.items()},
        "findings": [finding_json(f) for f in plan.findings],
        "gaps": [{"path": g.path, "station": g.station, "question": g.question, "holds_up": g.holds_up} for g in plan.gaps],
        "labels": [{"place": x.place, "text": x.text, "source": x.source, "figures": [f.key for f in x.figures]} for x in plan.labels],
        "faults": [
            {
                "place": x.place,
                "side": x.side,
                "current": x.amps and x.amps.key,
                "from": list(x.sources),
                "not_counted": list(x.silent),
            }
            for x in plan.faults.at
        ],
        "terminations": [
            {
                "id": t.id,
                "place": t.place,
                "port": t.port,
                "terminal": t.terminal.id,
                "circuit": t.circuit,
                "size": t.size,
                "torque": t.torque and t.torque.key,
            }
            for t in plan.terminations
        ],
    }
