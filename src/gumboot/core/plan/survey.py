"""Which answers does this system need, and what waits for each?"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from gumboot.core.finding import Gap
from gumboot.core.job import Job
from gumboot.core.ledger import Ledger
from gumboot.core.rulebook.books import book


@dataclass(frozen=True)
class Question:
    """A survey question with what it unlocks. ``options`` is empty for a number or a text."""

    path: str
    group: str
    text: str
    unit: str
    unlocks: str
    options: tuple[str, ...] = ()
    asks: Literal["", "pv", "grid", "iec", "iec grid", "nec grid", "nec pv", "tt", "own earth", "timber", "masonry"] = ""


def asked_of(question: Question, job: Job) -> bool:
    """Whether a job needs this answer: no PV question without strings, none of the grid where there is none."""
    grid, family = job.site.supply != "none", book(job.rule_book).family
    return {
        "": True,
        "pv": bool(job.strings),
        "grid": grid,
        "iec": family == "iec",
        "iec grid": grid and family == "iec",
        "nec grid": grid and family == "nec",
        "nec pv": bool(job.strings) and family == "nec",
        "tt": family == "iec" and job.site.earthing == "TT",
        "own earth": family == "iec" or not grid,
        "timber": job.wall.surface != "masonry",
        "masonry": job.wall.surface == "masonry",
    }[question.asks]


QUESTIONS: tuple[Question, ...] = (
    Question("site.record_low_c", "Climate", "Record low air temperature", "°C", "string voltage on the coldest morning", asks="pv"),
    Question("site.summer_high_c", "Climate", "Summer design air temperature", "°C", "string voltage on a hot day", asks="pv"),
    Question("site.room_low_c", "Climate", "Coldest air at the equipment", "°C", "whether the bank may be charged in winter"),
    Question("site.room_high_c", "Climate", "Hottest air at the equipment", "°C", "whether the inverter keeps its rating"),
    Question("site.service_main_a", "Supply", "Main device of the supply", "A", "the busbar rule and the CT rating", asks="grid"),
    Question("site.busbar_a", "Supply", "Busbar rating of the main board", "A", "the busbar rule", asks="grid"),
    Question(
        "site.grid_fault_a",
        "Supply",
        "Prospective fault current at the main board",
        "A",
        "whether the breakers can break a fault",
        asks="grid",
    ),
    Question("site.export_limit_w", "Supply", "Export the utility permits", "W", "the export limit and its live check", asks="grid"),
    Question(
        "site.supply",
        "Supply",
        "What the network brings",
        "",
        "which circuits there are",
        ("split phase", "single phase", "three phase", "none"),
    ),
    Question(
        "site.loop_ohm", "Supply", "Earth-fault loop impedance at the origin", "ohm", "whether a fault trips in time", asks="iec grid"
    ),
    Question(
        "site.neutral_bond", "Supply", "Neutral is bonded to earth at", "", "one bond in every mode", ("main board", "both boards", "none")
    ),
    Question(
        "backup.bypass",
        "Supply",
        "Bypass from the grid to the backed-up board",
        "",
        "first power",
        ("none", "interlocked", "breaker without interlock"),
    ),
    Question(
        "site.connection",
        "Supply",
        "Where the inverter joins the supply",
        "",
        "which connection rule holds",
        ("load side", "supply side", "controlled"),
        asks="nec grid",
    ),
    Question(
        "site.backfed_fastened",
        "Supply",
        "Inverter's breaker is fastened and suitable for back-feed",
        "",
        "whether it can be pulled off live",
        ("yes", "no"),
        asks="nec grid",
    ),
    Question(
        "site.rapid_shutdown",
        "Supply",
        "Rapid shutdown of the array is fitted",
        "",
        "whether a fire crew can make the roof dead",
        ("yes", "no"),
        asks="nec pv",
    ),
    Question(
        "site.earthing",
        "Supply",
        "Earthing arrangement of the supply",
        "",
        "how a fault is cleared",
        ("TN-S", "TN-C-S", "TT", "IT"),
        asks="iec",
    ),
    Question("site.electrode_ohm", "Supply", "Resistance of the earth electrode", "ohm", "residual device and island earth", asks="tt"),
    Question(
        "site.island_electrode",
        "Supply",
        "An earth electrode of the installation's own stands for the island",
        "",
        "the island's earth reference",
        ("yes", "no"),
        asks="own earth",
    ),
    Question("wall.width_mm", "Wall", "Width of the wall", "mm", "the elevation"),
    Question("wall.height_mm", "Wall", "Height of the wall", "mm", "the elevation"),
    Question(
        "wall.surface",
        "Wall",
        "Surface of the wall",
        "",
        "backing board and anchors",
        ("timber cladding", "plasterboard", "masonry", "cement board"),
    ),
    Question(
        "wall.masonry",
        "Wall",
        "What the masonry is",
        "",
        "whether anchors hold in it",
        ("concrete", "solid units", "hollow units"),
        asks="masonry",
    ),
    Question("wall.stud_spacing_mm", "Wall", "Stud spacing, centre to centre", "mm", "where screws hold", asks="timber"),
    Question("wall.stud_first_mm", "Wall", "Middle of the first stud from the datum", "mm", "where screws hold", asks="timber"),
    Question("wall.free_depth_mm", "Wall", "Free floor in front", "mm", "working space"),
    Question(
        "wall.room",
        "Wall",
        "Kind of place",
        "",
        "how much battery may stand here",
        ("garage", "outdoor", "utility room", "undercroft", "habitable room"),
    ),
    Question(
        "site.internet",
        "Permission and network",
        "Internet at the spot",
        "",
        "remote access and alarms",
        ("wired", "wifi", "mobile", "none"),
    ),
    Question("site.utility_approval", "Permission and network", "Utility's approval reference", "", "letting the grid in", asks="grid"),
    Question("site.building_approval", "Permission and network", "Building permit reference", "", "hand-over"),
)


# What most figures wait for, first; then the rest of the site, then the runs.
FIRST_ASKED = (
    "site.record_low_c",
    "site.summer_high_c",
    "site.service_main_a",
    "site.busbar_a",
    "site.room_high_c",
    "site.room_low_c",
    "site.grid_fault_a",
)


def asked_first(gaps: Sequence[Gap]) -> list[Gap]:
    """Unanswered questions in the order in which to ask them."""
    later = (("site.", 1), ("runs.", 2), ("", 3))

    def place(gap: Gap) -> tuple[int, int]:
        if gap.path in FIRST_ASKED:
            return 0, FIRST_ASKED.index(gap.path)
        return next(rank for start, rank in later if gap.path.startswith(start)), 0

    return sorted(gaps, key=place)


def check_survey(ledger: Ledger) -> None:
    """Note a gap for each unanswered question that no plan module asks for itself."""
    for question in QUESTIONS:
        if asked_of(question, ledger.job) and ledger.answer(question.path) in (None, ""):
            ledger.gap(question.path, "survey", f"{question.text}?", question.unlocks)
    high = ledger.job.site.room_high_c
    if high is not None:
        figure = ledger.decided("site.room_high_c", "T_room", "Hottest air at the equipment", "°C")
        most = ledger.read(ledger.card("inverter"), "ambient_max_c", "T_max", "Hottest air the inverter works in", "°C")
        ledger.verdict(
            "SITE-HOT",
            high <= most.value,
            "inverter",
            f"The place reaches {high:g} °C; the inverter works to {most.value:g} °C.",
            "Choose a cooler place.",
            found=figure,
            limit=most,
            field="site.room_high_c",
        )
