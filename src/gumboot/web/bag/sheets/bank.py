"""Bank in the hand: each bank, its weakest link, what its figures stand against, its batteries."""

from __future__ import annotations

from collections.abc import Iterator

from gumboot.core.figure import Figure
from gumboot.drawing import show
from gumboot.web.bag.pictures import Look
from gumboot.web.bag.sheets.parts import Fact, Field, Sheet, fields
from gumboot.web.stations.bank.view import Answered, BankPart, view_of
from gumboot.web.view import Bench


def _answered(b: Bench, row: Answered) -> Fact:
    """A row of the bank's table: its words say what it stands against, whose figures open as well."""
    text = "".join(show.figure_text(part, b.system) if isinstance(part, Figure) else part for part in row.against)
    return Fact(row.question, row.figure, text, tuple(part for part in row.against if isinstance(part, Figure)))


def _sheets(b: Bench, k: BankPart, mark: str) -> Iterator[Sheet]:
    of = f", {k.id}" if mark else ""
    card = b.plan.house.bank(k.id).card
    # A lead that every battery has one of is asked on that battery's own sheet.
    leads = {f"runs.{unit}.length_m" for unit in k.units}
    asked = tuple(Field(path, words) for path, words in k.questions if b.has(path) and path not in leads)
    yield Sheet(
        name=f"bank{mark}",
        title=f"Bank{of}",
        says=f"{len(k.units)} × {card.title}",
        facts=tuple(_answered(b, row) for row in k.table),
        fields=asked,
        looks=(Look(f"bank{mark}", (k.units[0],)),),
        names=(k.id, "bank", f"bat-main{mark}"),
    )
    yield Sheet(
        name=f"chain{mark}",
        title=f"Weakest link{of}",
        says=f"{k.weakest}, {show.figure_text(k.weakest_a)}",
        facts=(Fact(k.weakest[:1].upper() + k.weakest[1:], k.weakest_a), Fact("Full output draws", k.design_a)),
        looks=(Look(f"chain{mark}", ("weakest",)),),
        names=(k.weakest,),
    )
    for unit in k.units:
        share = b.plan.figures.get(f"bank.share.{unit}")
        length = b.value(f"runs.{unit}.length_m") if b.has(f"runs.{unit}.length_m") else None
        yield Sheet(
            name=unit,
            title=f"Battery {unit}",
            says=f"lead {b.quantity(length, 'm')}" if length is not None else "",
            group="Batteries",
            facts=(Fact("Its share", share),) if share is not None else (),
            fields=fields(b, f"runs.{unit}", (("length_m", "Lead, one way"), ("ambient_c", "Hottest air along it"))),
            looks=(Look(f"bank{mark}", (unit,)),),
            names=(unit,),
        )
    yield Sheet(
        name=f"room{mark}",
        title=f"Room to grow{of}",
        says=k.helps,
        facts=tuple(Fact(room.limit, room.more, room.why) for room in k.room),
        looks=(Look(f"bank{mark}", (k.units[-1],)),),
    )


def sheets(b: Bench) -> Iterator[Sheet]:
    """The sheets of Bank."""
    for part, planned in zip(view_of(b).banks, b.plan.banks, strict=True):
        yield from _sheets(b, part, planned.mark)
