"""Are the settings as left those of the sheet, and has somebody agreed to what differs?"""

from __future__ import annotations

from collections.abc import Mapping

from gumboot.core.as_left import as_asked, is_safer
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.settings import Setting
from gumboot.core.record import Agreement, AnyRecord, Left
from gumboot.core.standing.records import SettingStands


def asked_text(row: Setting) -> str:
    """What a line of the sheet asks, as agreements keep it."""
    return f"{row.figure.value:.6g} {row.figure.unit}".strip() if row.figure else row.text


def settings_left(plan: Plan, records: Mapping[str, AnyRecord], agreements: Mapping[str, Agreement]) -> dict[str, SettingStands]:
    """Each row of the sheet with its setting as left, and whether it differs."""
    out: dict[str, SettingStands] = {}
    for row in plan.settings.sheet:
        record, agreed = records.get(row.key), agreements.get(row.key)
        if not isinstance(record, Left):
            out[row.key] = SettingStands(None, guards=row.guards)
            continue
        same = as_asked(row, record.as_left, record.at, plan.job.site.utc_offset_h)
        # An agreement speaks of one record against one asked value, never of a later one.
        holds = agreed is not None and agreed.of == record.id and agreed.asked == asked_text(row)
        out[row.key] = SettingStands(record, same, agreed if holds else None, row.guards, is_safer(row, record.as_left))
    return out
