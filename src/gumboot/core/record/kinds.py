"""The kinds of record, each with what it alone says."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import Field, TypeAdapter

from gumboot.core.card.parts import Frozen
from gumboot.core.record.base import IDENTITY, MOST_WORDS, Moment, RecordBase, ToolUsed

Typed = Annotated[str, Field(max_length=64, description="As it was typed")]
Unit = Annotated[str, Field(max_length=20)]
Watts = Mapping[str, float]


class Landing(RecordBase):
    """One conductor end landed: what the tool reached, the pull, and the size that was in hand."""

    kind: Literal["landing"] = "landing"
    reached_nm: float | None = Field(None, gt=0, lt=500, description="Torque, N m; none where no tool was used")
    typed: Typed = ""
    unit: Unit = ""
    tool: ToolUsed | None = None
    tug: bool = False
    pressed: bool = False
    size: str = Field("", max_length=20)


class Reading(RecordBase):
    """One value read, or two displays, under the conditions that move its band."""

    kind: Literal["reading"] = "reading"
    value: float | None = None
    over: bool = Field(False, description="Beyond the instrument's range")
    typed: Typed = ""
    unit: Unit = ""
    shown: tuple[float, ...] | None = Field(None, description="What each display showed; the value is their difference")
    shown_at: tuple[Moment, ...] | None = Field(None, description="When each display was read; none where it was not told")
    cell_c: float | None = Field(None, description="Cell temperature as it was read, °C")
    tool: ToolUsed | None = None


class Packed(RecordBase):
    """What of a load is in the van: its lines, as they stood there."""

    kind: Literal["packed"] = "packed"
    packed: tuple[Annotated[str, Field(max_length=300)], ...] = Field((), max_length=300)


class Answer(RecordBase):
    """A look, answered yes or no."""

    kind: Literal["answer"] = "answer"
    yes: bool


class Done(RecordBase):
    """A step, a task, a box hung, a switch opened: it was done."""

    kind: Literal["done"] = "done"


class Words(RecordBase):
    """What stands on a plate or a screen."""

    kind: Literal["words"] = "words"
    text: str = Field(min_length=1, max_length=120)


class ReadBack(RecordBase):
    """Whole numbers as a display shows them, each by what it is called."""

    kind: Literal["read-back"] = "read-back"
    shown: Mapping[str, int] = Field(min_length=1, max_length=8)


class Rung(RecordBase):
    """A lead rung out: by the pin of its first plug, the pin of the other that beeped; 0 none, -1 the screen, -2 more than one."""

    kind: Literal["rung"] = "rung"
    heard: Mapping[str, int] = Field(min_length=1, max_length=99)


class Drilled(RecordBase):
    """Holes as they were drilled: how far the worst came out to the right of its mark and above it, mm; less than nothing: left, below."""

    kind: Literal["drilled"] = "drilled"
    right_mm: float = Field(ge=-500, le=500)
    up_mm: float = Field(ge=-500, le=500)


class Left(RecordBase):
    """A setting as it was left in the device."""

    kind: Literal["left"] = "left"
    as_left: str = Field(min_length=1, max_length=80)


class Agreement(RecordBase):
    """A licence holder agrees to a setting that differs: to that record against that asked value only."""

    kind: Literal["agreement"] = "agreement"
    of: str = Field(pattern=IDENTITY)
    asked: str = Field(max_length=MOST_WORDS)
    as_left: str = Field("", max_length=80)


class Switching(Frozen):
    """Known loads switched on, and what each channel showed then."""

    loads: Watts = Field({}, description="Known load by leg, W; the others off")
    after: Watts = Field({}, description="What each channel showed then, W")


class MeterReading(RecordBase):
    """What each channel showed before, and with known loads switched on one after another. A channel that is not read was not touched.

    Rows of earlier versions switched all loads on at once (``loads``, ``after``); the earliest have no ``before``.
    """

    kind: Literal["meter"] = "meter"
    before: Watts | None = None
    runs: tuple[Switching, ...] = Field((), max_length=8)
    after: Watts = Field({}, description="What each channel showed with all loads on at once, W")
    loads: Watts = Field({}, description="Known load by leg, all on at once, W")
    power_factor: float = 1.0
    unmoved: bool = Field(False, description="No CT was moved since the test before")

    @property
    def switched(self) -> tuple[Switching, ...]:
        """Every switching of this record."""
        return self.runs or (Switching(loads=self.loads, after=self.after),)


class Clearance(RecordBase):
    """A licence holder clears what stands outside its band, with a reason. ``of`` is the reading; empty: the one that stood then."""

    kind: Literal["clearance"] = "clearance"
    of: str | None = Field(None, pattern=IDENTITY)


class CouldNot(RecordBase):
    """It was tried and not done, or not as asked. A defect that stays until it is done."""

    kind: Literal["could-not"] = "could-not"
    what: Literal["could not be done", "snug only", "no tool", "moved"] = "could not be done"


class TakenBack(RecordBase):
    """A slip of the finger taken back: the record that it names counts no more and stays in sight."""

    kind: Literal["taken-back"] = "taken-back"
    of: str = Field(pattern=IDENTITY)


class SetAside(RecordBase):
    """What somebody recorded that was refused, and that they set aside, with the reason: it stands for nothing and stays in sight."""

    kind: Literal["set-aside"] = "set-aside"
    said: str = Field(min_length=1, max_length=MOST_WORDS, description="What the record said that was set aside")
    refused: str = Field("", max_length=MOST_WORDS, description="Why it was refused")


class CardNote(RecordBase):
    """What a crew wants the next one to know of a card, written at the act where it bit. It stands for nothing."""

    kind: Literal["card-note"] = "card-note"
    card: str = Field(pattern=r"^[a-z0-9-]{1,60}$")
    topic: str = Field("", max_length=20, description="The part of the work that it belongs to")
    text: str = Field(min_length=10, max_length=300)


class Photo(RecordBase):
    """A picture and nothing else; its hash stands in ``photo``."""

    kind: Literal["photo"] = "photo"


class SignOff(RecordBase):
    """A licence holder signs a revision of the job and the records up to ``head``, the last hash of their chain."""

    kind: Literal["sign-off"] = "sign-off"
    licence: str = Field(min_length=1, max_length=40)
    head: str = Field("", pattern=r"^([0-9a-f]{64})?$")
    promised: tuple[str, ...] = Field((), description="Acts that are to follow a handing over with promises")


AnyRecord = (
    Landing
    | Reading
    | Answer
    | Done
    | Words
    | ReadBack
    | Rung
    | Drilled
    | Left
    | Agreement
    | MeterReading
    | Packed
    | Clearance
    | CouldNot
    | TakenBack
    | SetAside
    | CardNote
    | Photo
    | SignOff
)
RECORD: TypeAdapter[AnyRecord] = TypeAdapter(Annotated[AnyRecord, Field(discriminator="kind")])


def parse_record(document: Mapping[str, Any]) -> AnyRecord:
    """A record of this format. Raises ValidationError."""
    return RECORD.validate_python(dict(document))


# Kinds of which each record stands beside those before it and takes the place of none: of a meter test each core has its own latest.
BESIDE = ("photo", "set-aside", "card-note", "meter")


# What the server adds to a record, or knows better.
ADDED: Mapping[str, Any] = {
    "received_at": None,
    "stood": None,
    "defects": (),
    "corrects": None,
    "by": "",
    "revision": None,
    "role": "installer",
    "clock_ahead_s": None,
    "knew": None,
}


def as_sent(record: AnyRecord) -> AnyRecord:
    """A record without what the server adds: two of them are the same where they say the same of what was done."""
    return record.model_copy(update=dict(ADDED))
