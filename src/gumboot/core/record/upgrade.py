"""Rows written before records had a format, read as today's records. The rows themselves stay as they are."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any, cast

from gumboot.core.record.base import FORMAT, Role, ToolUsed
from gumboot.core.record.kinds import (
    Agreement,
    Answer,
    AnyRecord,
    Clearance,
    Done,
    Landing,
    Left,
    MeterReading,
    Reading,
    SignOff,
    parse_record,
)

Value = Mapping[str, Any]
LEGS = ("L1", "L2", "L3")


@dataclass(frozen=True, slots=True)
class OldRow:
    """A row as it stands: kind and subject, the value as that version wrote it, who and when."""

    id: str
    kind: str
    subject: str
    value: Value
    by: str
    role: str
    at: datetime
    corrects: str | None = None
    received_at: datetime | None = None

    def said(self, word: str, name: str = "") -> dict[str, Any]:
        """What every record says, of an act that is called by a word and a name, its subject where none is given."""
        return {
            "id": self.id,
            "act": f"{word}:{name or self.subject}",
            "done_at": self.at,
            "received_at": self.received_at,
            "by": self.by,
            "role": cast(Role, self.role),
            "corrects": self.corrects,
        }


def _landing(row: OldRow) -> Landing:
    v = row.value
    tool = ToolUsed(id=v.get("tool") or "", calibrated_to=v.get("calibrated_to")) if v.get("tool") or v.get("calibrated_to") else None
    return Landing(
        **row.said("torque"), reached_nm=v.get("value_nm"), typed=v.get("entered") or "", unit=v.get("unit") or "", tool=tool,
        tug=bool(v.get("tug")), pressed=bool(v.get("pressed")), size=v.get("size") or "", note=v.get("note") or "",
    )  # fmt: skip


def _measured(row: OldRow) -> Reading | Answer:
    v = row.value
    if "ok" in v and "value" not in v:
        return Answer(**row.said("check"), yes=bool(v["ok"]))
    shown = v.get("shown")
    value = v.get("value")
    return Reading(
        **row.said("check"), value=float(value) if isinstance(value, (int, float)) else None, over=bool(v.get("over")),
        typed=v.get("entered") or "", unit=v.get("unit") or "", shown=tuple(shown) if isinstance(shown, list) else None, cell_c=v.get("cell_c"),
    )  # fmt: skip


def _meter(row: OldRow) -> MeterReading:
    v = row.value
    loads = {leg: float(v.get(f"test_{leg.lower()}_w") or 0) for leg in LEGS}
    return MeterReading(
        **row.said("meter"), before=v.get("before"), after=v.get("readings") or {}, loads=loads,
        power_factor=float(v.get("power_factor") or 1), unmoved=bool(v.get("unmoved")),
    )  # fmt: skip


def _agreement(row: OldRow) -> Agreement:
    v = row.value
    return Agreement(**row.said("setting"), of=v.get("record") or "none", asked=v.get("asked") or "", as_left=v.get("as_left") or "")


def _left(row: OldRow) -> Left:
    return Left(**row.said("setting"), as_left=row.value.get("as_left") or "?", reason=row.value.get("reason") or "")


def _clearance(row: OldRow) -> Clearance:
    return Clearance(**row.said("clear", row.subject.removeprefix("check:")), reason=row.value.get("reason") or "")


def _signed(row: OldRow) -> SignOff:
    said = row.said("sign-off")
    return SignOff(**said, licence=row.value.get("licence") or "?", revision=row.value.get("revision"))


READ: Mapping[str, Callable[[OldRow], AnyRecord]] = {
    "torque": _landing,
    "recheck": lambda row: Answer(**row.said("recheck"), yes=bool(row.value.get("ok"))),
    "measurement": _measured,
    "done": lambda row: Done(**row.said("step")),
    "link": lambda row: Done(**row.said("ritual")),
    "ct": _meter,
    "setting": _left,
    "setting-agreed": _agreement,
    "hold-cleared": _clearance,
    "sign-off": _signed,
}


def typed(row: OldRow) -> AnyRecord:
    """A row as a record: one that carries a format is one already, one of an earlier version is read by its kind. Raises ValueError for another."""
    if row.value.get("format") == FORMAT:
        return parse_record({**row.value, "received_at": row.received_at})
    read = READ.get(row.kind)
    if read is None:
        raise ValueError(f"no version ever wrote a record of kind {row.kind}")
    return read(row)
