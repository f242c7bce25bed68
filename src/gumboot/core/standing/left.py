"""Are the settings as left those of the sheet, and has somebody agreed to what differs?"""

from __future__ import annotations

from gumboot.core.as_left import as_asked
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.settings import Setting
from gumboot.core.standing.records import Left, Record


def asked_text(row: Setting) -> str:
    """What a line of the sheet asks, as agreements keep it."""
    return f"{row.figure.value:.6g} {row.figure.unit}".strip() if row.figure else row.text


def settings_left(plan: Plan, records: dict[str, Record], agreements: dict[str, Record]) -> dict[str, Left]:
    """Each row of the sheet with its setting as left, and whether it differs."""
    out: dict[str, Left] = {}
    for row in plan.settings.sheet:
        record, agreed = records.get(row.key), agreements.get(row.key)
        if record is None:
            out[row.key] = Left(None, guards=row.guards)
            continue
        same = as_asked(row, str(record.value.get("as_left", "")), record.at, plan.job.site.utc_offset_h)
        # An agreement speaks of one record against one asked value, never of a later one.
        holds = agreed is not None and agreed.value.get("record") == record.id and agreed.value.get("asked") == asked_text(row)
        out[row.key] = Left(record, same, agreed if holds else None, row.guards)
    return out
