"""CSV and JSON files of a job."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Sequence

from gumboot.core.plan.derive import Plan
from gumboot.core.record import AnyRecord
from gumboot.core.units import lbf_ft_from_nm, lbf_in_from_nm

# What every record says has a column of its own.
SAID = {"id", "done_at", "by", "role", "kind", "act", "corrects", "format"}


def terminations_csv(plan: Plan) -> str:
    """Every termination with conductor, preparation, tool and torque in both unit systems."""
    out = io.StringIO()
    write = csv.writer(out, lineterminator="\n")
    write.writerow(
        [
            "id",
            "place",
            "port",
            "terminal",
            "circuit",
            "size",
            "wire_class",
            "preparation",
            "tool",
            "torque_N_m",
            "torque_lbf_in",
            "torque_lbf_ft",
            "recheck_24h",
            "torque_by",
        ]
    )
    for t in plan.terminations:
        torque = t.torque.value if t.torque else None
        shown = [f"{torque:.2f}", f"{lbf_in_from_nm(torque):.1f}", f"{lbf_ft_from_nm(torque):.2f}"] if torque else ["", "", ""]
        write.writerow(
            [
                t.id,
                t.place,
                t.port_title,
                t.terminal.title,
                t.circuit,
                t.size,
                t.wire_class,
                t.preparation,
                t.terminal.tool,
                *shown,
                "yes" if t.terminal.recheck_24h else "",
                t.tightened_by,
            ]
        )
    return out.getvalue()


def records_csv(records: Sequence[AnyRecord]) -> str:
    """Every record as it was written."""
    out = io.StringIO()
    write = csv.writer(out, lineterminator="\n")
    write.writerow(["id", "at", "by", "role", "kind", "act", "value", "corrects"])
    for r in records:
        # A leading sign or equals would be read as a formula by a spreadsheet.
        value = json.dumps(r.model_dump(mode="json", exclude=SAID, exclude_defaults=True), ensure_ascii=False, sort_keys=True)
        write.writerow([r.id, r.at.isoformat(), r.by, r.role, r.kind, r.act, value, r.corrects or ""])
    return out.getvalue()
