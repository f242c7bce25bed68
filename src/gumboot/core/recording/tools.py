"""What speaks against a tool for an act, before it is used."""

from __future__ import annotations

from datetime import date

from gumboot.core.acts import Act
from gumboot.core.job.model import ToolItem


def against(act: Act, tool: ToolItem, day: date) -> tuple[str, ...]:
    """In words: a calibration that is over on that day, and what the act asks for that is outside the tool's range or rating."""
    band, found = act.band, list[str]()
    if tool.calibrated_to < day.isoformat():
        found.append(f"calibration over since {tool.calibrated_to}")
    ends = [end.value for end in (band.low, band.high, band.expected) if end is not None]
    if band.unit == "V" and tool.rated_v is not None and max(ends, default=0.0) > tool.rated_v:
        found.append(f"only to {tool.rated_v:g} V")
    wanted = band.expected.value if band.expected is not None else None
    if act.is_torqued and wanted is not None and not (tool.low_nm or 0) <= wanted <= (tool.high_nm or wanted):
        found.append("not in its range")
    return tuple(found)
