"""What somebody did or measured on site: typed, never changed, read for ever.

``base`` is what every record says, ``kinds`` which there are, ``upgrade`` reads the rows of earlier versions, ``chain`` binds the records of
a job to each other in the order in which they came in. Whether a record may be made is a question of ``recording``.
"""

from gumboot.core.record import chain as chain
from gumboot.core.record.base import FORMAT, RecordBase, Role, Stood, ToolUsed
from gumboot.core.record.kinds import (
    ADDED,
    BESIDE,
    RECORD,
    Agreement,
    Answer,
    AnyRecord,
    CardNote,
    Clearance,
    CouldNot,
    Done,
    Drilled,
    Landing,
    Left,
    MeterReading,
    Packed,
    Photo,
    ReadBack,
    Reading,
    Rung,
    SetAside,
    SignOff,
    Switching,
    TakenBack,
    Words,
    as_sent,
    parse_record,
)
from gumboot.core.record.upgrade import OldRow, typed

__all__ = [
    "ADDED",
    "BESIDE",
    "FORMAT",
    "RECORD",
    "Agreement",
    "Answer",
    "AnyRecord",
    "CardNote",
    "Clearance",
    "CouldNot",
    "Done",
    "Drilled",
    "Landing",
    "Left",
    "MeterReading",
    "OldRow",
    "Packed",
    "Photo",
    "ReadBack",
    "Reading",
    "RecordBase",
    "Role",
    "Rung",
    "SetAside",
    "SignOff",
    "Stood",
    "Switching",
    "TakenBack",
    "ToolUsed",
    "Words",
    "as_sent",
    "chain",
    "parse_record",
    "typed",
]
