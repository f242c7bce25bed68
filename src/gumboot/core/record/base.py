"""What every record says: which act, who, when, with what, under which plan."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import UTC, datetime
from typing import Annotated, Literal

from pydantic import AfterValidator, AwareDatetime, Field

from gumboot.core.card.parts import Frozen

FORMAT = "gumboot.record/1"
IDENTITY = r"^[A-Za-z0-9-]{1,36}$"
ACT = r"^[a-z-]+:.{1,160}$"
HASH = r"^[0-9a-f]{64}$"
Role = Literal["planner", "installer", "licence holder", "apprentice"]
MOST_WORDS = 500


def _in_utc(at: datetime) -> datetime:
    try:
        return at.astimezone(UTC)
    except OverflowError:
        raise ValueError("a time of another age") from None


# One moment reads the same whatever clock it was written by.
Moment = Annotated[AwareDatetime, AfterValidator(_in_utc)]


class ToolUsed(Frozen):
    """The tool or meter in hand, with what it was good for on that day."""

    id: str = Field("", max_length=60)
    title: str = Field("", max_length=80)
    calibrated_to: str | None = Field(None, description="Last day of its calibration, ISO date", pattern=r"^\d{4}-\d{2}-\d{2}$")
    low: float | None = Field(None, description="Least value it reads, in the unit of the record")
    high: float | None = Field(None, description="Largest value it reads, in the unit of the record")


class Stood(Frozen):
    """What was expected as the record was made: the band, the words asked, what of the plan it rests on; and what was wrong with it then."""

    title: str = Field("", max_length=200, description="What the act was called")
    wrong: str | None = Field(None, max_length=2000, description="What was wrong, empty where nothing was; none in rows that do not say")
    unit: str = ""
    low: float | None = None
    high: float | None = None
    expected: float | None = None
    words: str = Field("", max_length=MOST_WORDS)
    rests: str = Field("", max_length=MOST_WORDS)
    cards: Mapping[str, str] = Field({}, description="The card at each place that it was done on")


class RecordBase(Frozen):
    """What every record says. ``done_at`` is the device's time, put right by its offset; ``received_at`` the server's."""

    format: Literal["gumboot.record/1"] = FORMAT  # type: ignore[assignment]
    id: str = Field(pattern=IDENTITY, description="Made where it was done")
    act: str = Field(pattern=ACT, description="The act that it records")
    done_at: Moment
    received_at: Moment | None = None
    by: str = Field(max_length=80, description="The doer's name, as it is shown")
    doer: str = Field("", max_length=60, description="The doer's account; empty in rows of earlier versions")
    role: Role
    device: str = Field("", max_length=80, description="The phone or laptop that it was made on")
    clock_ahead_s: float | None = Field(
        None, description="How far the device's clock was ahead of the server's as it was sent; none where it did not say"
    )
    knew: str | None = Field(
        None,
        pattern=r"^([A-Za-z0-9-]{8,36})?$",
        description="The record of the act that its doer knew of; empty: of none; none where it does not say",
    )
    revision: int | None = Field(None, ge=0, description="Revision of the job that it was made under; none in rows of earlier versions")
    note: str = Field("", max_length=MOST_WORDS)
    photo: str | None = Field(None, pattern=HASH, description="SHA-256 of the picture")
    corrects: str | None = Field(None, pattern=IDENTITY, description="The record that it takes the place of")
    reason: str = Field("", max_length=MOST_WORDS, description="Why it corrects, differs or clears")
    stood: Stood | None = None
    defects: tuple[str, ...] = Field((), description="What is wrong with how it was made, as the server found: it then opens nothing")

    @property
    def at(self) -> datetime:
        """When it was done."""
        return self.done_at

    @property
    def name(self) -> str:
        """What it is about, without the word before."""
        return self.act.partition(":")[2]
