"""Did two people record the same act without knowing of each other? Then both values are shown until somebody who sees them records it anew."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

from gumboot.core.record import AnyRecord, TakenBack
from gumboot.core.standing.records import in_order, stands_for_itself

# What a record says of how it was made; the rest is what it says of the act.
HOW = frozenset(
    (
        "id",
        "done_at",
        "received_at",
        "by",
        "doer",
        "role",
        "device",
        "clock_ahead_s",
        "knew",
        "revision",
        "corrects",
        "stood",
        "defects",
        "note",
        "photo",
        "tool",
        "typed",
        "shown_at",
    )
)


class Two(NamedTuple):
    """Two records of one act, in the order in which they were done: neither doer knew of the other's."""

    first: AnyRecord
    second: AnyRecord


def _says(record: AnyRecord) -> Mapping[str, Any]:
    return record.model_dump(exclude=set(HOW))


def _unknown(rows: Sequence[AnyRecord], at: int) -> AnyRecord | None:
    """The record before one of an act that its doer did not know of, where another made it and it says something else."""
    record, before = rows[at], rows[at - 1]
    if record.knew is None or record.knew == before.id or before.doer == record.doer or _says(record) == _says(before):
        return None
    return before


def two_values(records: Sequence[AnyRecord]) -> dict[str, Two]:
    """Every act of which two values stand beside each other, by its id.

    One who recorded it anew and knew of the later of the two, or of one after it, has seen both: a record is told of by the server, with all before it.
    """
    back = {r.of for r in records if isinstance(r, TakenBack)}
    by_act: dict[str, list[AnyRecord]] = {}
    for record in in_order(r for r in records if r.id not in back and not isinstance(r, TakenBack) and stands_for_itself(r)):
        by_act.setdefault(record.act, []).append(record)
    found = {}
    for act, rows in by_act.items():
        for at in range(1, len(rows)):
            before = _unknown(rows, at)
            seen = {row.id for row in rows[at:]}
            if before is not None and not any(later.knew in seen for later in rows[at + 1 :]):
                found[act] = Two(before, rows[at])
    return found
