"""One act: what a person does, what it must show, what it guards, what comes before it and until when it is true."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from enum import StrEnum
from typing import Literal

from gumboot.core.figure import Figure
from gumboot.core.plan.prove import Lasts
from gumboot.core.rules.readings import Measures
from gumboot.core.values import Values


class Kind(StrEnum):
    """What sort of act it is; the first word of its id tells it too."""

    PLAN = "plan"
    PACK = "pack"
    UNPACK = "unpack"
    FIND = "find"
    BOARD = "board"
    MARKED = "marked"
    HOLE = "hole"
    FIXED = "fixed"
    INSIDE = "inside"
    LIFT = "lift"
    TORQUE = "torque"
    RECHECK = "recheck"
    RITUAL = "ritual"
    READ_BACK = "read back"
    BRIDGE = "bridge"
    JOINT = "joint"
    FERRITE = "ferrite"
    BRIDGED = "bridged"
    ENTRIES = "entries"
    LEAD = "lead"
    RING = "ring"
    CORE = "core"
    METER = "meter"
    LOOK = "look"
    MEASUREMENT = "measurement"
    DISPLAYS = "two displays"
    STEP = "step"
    OFF = "off"
    SETTING = "setting"
    COVER = "cover"
    LABEL = "label"
    SERIAL = "serial"
    FIRMWARE = "firmware"
    PHOTO = "photo"
    CLEARANCE = "clearance"
    SIGN_OFF = "sign-off"


Guards = Literal["life", "equipment", "paper", "licence", "grid"]
Who = Literal["installer", "licence holder"]
CREW: tuple[Who, ...] = ("installer", "licence holder")
LICENSED: tuple[Who, ...] = ("licence holder",)


# What is answered with yes or no.
YES_OR_NO = (
    *(Kind.UNPACK, Kind.INSIDE, Kind.FIND, Kind.BOARD, Kind.MARKED),
    *(Kind.BRIDGED, Kind.FERRITE, Kind.ENTRIES, Kind.BRIDGE, Kind.RECHECK),
    *(Kind.LABEL, Kind.COVER, Kind.LOOK),
)


def ident(word: str, name: str) -> str:
    """The id of an act: made of names only, so that edits elsewhere never change it."""
    return f"{word}:{name}"


def names_in(acts: Iterable[str]) -> set[str]:
    """Every name that the ids of some acts are made of."""
    return {name for act in acts for name in re.split(r"[:.]", act)}


NONE: Mapping[str, int] = {}


class Band(Values):
    """What an act must show: a value between two figures, an answer, a text, or one of several.

    ``measures`` says whether a value is read by its size or its sign; ``shows`` names two displays, whose difference is judged;
    ``words`` is what is asked in words, ``choices`` all that a device offers; ``wants`` are whole numbers that a display shows, each by what
    it is called; ``lines`` are what is ticked one by one.
    """

    unit: str = ""
    low: Figure | None = None
    high: Figure | None = None
    expected: Figure | None = None
    measures: Measures = "never negative"
    shows: tuple[str, ...] = ()
    words: str = ""
    choices: tuple[str, ...] = ()
    wants: Mapping[str, int] = NONE
    lines: tuple[str, ...] = ()


class Act(Values):
    """One thing that a person does on site.

    ``thing`` is the place, circuit, string or setting that it is about. ``needs`` are the acts that must stand before it, ``heeds`` those
    that must not have failed. ``makes_safe`` is one that nothing holds back: switching off, opening. ``is_derived`` is one that follows
    from others and is never recorded, ``is_optional`` one that nobody waits for. ``hours_after`` is how long it comes after the first it
    needs. ``moves`` are the switches that it moves, ``undoes`` the acts that it takes back.
    """

    id: str
    kind: Kind
    station: str
    title: str
    thing: str = ""
    prepare: str = ""
    see: str = ""
    caution: str = ""
    band: Band = Band()
    guards: Guards = "equipment"
    who: tuple[Who, ...] = CREW
    needs: tuple[str, ...] = ()
    heeds: tuple[str, ...] = ()
    lasts: Lasts = Lasts()
    hours_after: float = 0.0
    moves: tuple[str, ...] = ()
    undoes: tuple[str, ...] = ()
    makes_safe: bool = False
    is_derived: bool = False
    is_optional: bool = False

    @property
    def is_torqued(self) -> bool:
        """Whether it is tightened to a value with a torque tool."""
        return self.kind in (Kind.TORQUE, Kind.JOINT, Kind.FIXED)

    @property
    def name(self) -> str:
        """Its id without the word before: how it is called among its kind."""
        return self.id.partition(":")[2]
