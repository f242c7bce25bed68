"""Loads in the hand: what each island carries, and each load."""

from __future__ import annotations

from collections.abc import Iterator

from gumboot.core.job.model import Load
from gumboot.core.plan.derive import Plan
from gumboot.web.bag.pictures import Look
from gumboot.web.bag.sheets.parts import Fact, Field, Sheet
from gumboot.web.page_words import island_title, leg_options
from gumboot.web.stations.loads.view import PRIORITIES, view_of
from gumboot.web.view import Bench

ASKED = (
    ("running_w", "Running"),
    ("surge_w", "Starting"),
    ("duty", "Share of its time"),
    ("from_hour", "From hour"),
    ("to_hour", "To hour"),
)


def _of_island(part: Plan, heading: str) -> Iterator[Sheet]:
    p, of = part.loads, f", {island_title(part)}" if part.house.is_apart else ""
    legs = [Fact(f"{leg} running", figure) for leg, figure in p.running.items()] if len(p.running) > 1 else []
    starts = [Fact(f"{leg} starting", p.starting[leg]) for leg in p.starting] if len(p.starting) > 1 else []
    limits = [Fact("One leg, continuous", p.leg_limit), Fact("One leg, starting", p.leg_surge_limit)] if legs else []
    mark = part.house.mark
    yield Sheet(
        name=f"power{mark}",
        title=f"{heading}{of}",
        says="running and starting power against the ratings",
        facts=(
            Fact("Running, all", p.running_total),
            Fact("Rated, continuous", p.total_limit),
            Fact("Starting, at most", p.start_limit),
            *legs,
            *limits,
            *starts,
        ),
        looks=(Look(f"beams{mark}", ("beams",)),),
        names=(*p.running, "all", "both"),
    )
    yield Sheet(
        name=f"dark{mark}",
        title=f"How long it lasts in the dark{of}",
        says="hours by the hour at which the outage begins",
        facts=(Fact("At worst", p.shortest), Fact("Energy delivered", p.energy)),
        fields=(Field("preferences.start_of_autonomy_pct", "Charge when it begins"), Field("settings.reserve_pct", "Reserve")),
        looks=(Look(f"ribbon{mark}", ("shortest",)),),
    )


def _load(b: Bench, load: Load, boards: dict[str, str]) -> Sheet:
    at = f"loads.{load.id}"
    side = "backed up" if load.side == "backed" else "house side"
    return Sheet(
        name=load.id,
        title=load.title,
        says=f"{side}, {load.leg}, {b.quantity(load.running_w, 'W')}",
        group="Circuits",
        facts=(
            *((Fact("On", None, boards[load.board or ""]),) if len(boards) > 1 and (load.board or "") in boards else ()),
            Fact("In an outage it", None, dict(PRIORITIES)[load.priority]),
        ),
        fields=(
            Field(f"{at}.side", "Side"),
            Field(f"{at}.leg", "Leg", leg_options(b)),
            *(Field(f"{at}.{name}", words) for name, words in ASKED),
        ),
        looks=(Look(f"tags-{load.side}", (load.id,)),),
        names=(load.id, load.title),
    )


def sheets(b: Bench) -> Iterator[Sheet]:
    """The sheets of Loads."""
    v = view_of(b)
    for part, island in zip(b.plan.islands, v.islands, strict=True):
        yield from _of_island(part, island.heading)
    yield from (_load(b, load, dict(v.boards)) for load in v.loads)
