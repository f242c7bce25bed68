"""Which labels does this system need, where, and with what words?"""

from __future__ import annotations

from typing import NamedTuple

from gumboot.core.figure import BY_VALUE, Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import Supplies, banks_of
from gumboot.core.plan.strings import StringsPlan
from gumboot.core.rulebook.loader import read_table

_ROWS = [
    # Each with the values that its words ask for.
    (row, tuple(key for key in ("pv_v", "bank_v", "fault_a", "bond") if f"{{{key}}}" in row["text"]))
    for row in read_table("common/tables/labels.csv")
]


class Label(NamedTuple):
    """One label: where it goes, its words, and the figures printed in them."""

    place: str
    text: str
    source: str
    figures: tuple[Figure, ...] = ()


def kinds_of(ledger: Ledger) -> set[str]:
    """What this system has that asks for labels."""
    job, seats = ledger.job, ledger.seats
    grid = job.site.supply != "none" and any(i.card.role != "off-grid" for i in seats.inverters)
    return {
        "battery",
        "backup",
        *(("pv",) if job.strings else ()),
        *(("grid",) if grid else ()),
        *(("generator",) if seats.generator is not None else ()),
        *(("coupled",) if seats.pv_inverter is not None else ()),
        *(("earth",) if job.site.island_electrode else ()),
    }


def plan_labels(ledger: Ledger, strings: StringsPlan | None, supplies: Supplies) -> tuple[Label, ...]:
    """Every label of the book's family that this system asks for, its figures put in."""
    nominal = max((bank.volts("nominal_v") for bank in banks_of(ledger)), key=BY_VALUE)
    fault, bonded = (
        max((supply.fault_a for supply in supplies.banks), key=BY_VALUE),
        any(i.card.neutral_bond == "relay" for i in ledger.seats.inverters),
    )
    coldest = max((t.cold_v for t in strings.trackers), key=BY_VALUE, default=None) if strings else None
    put = {
        "pv_v": (f"{coldest.value:.0f} V DC" if coldest else "not known yet", coldest),
        "bank_v": (f"{nominal.value:g} V DC", nominal),
        "fault_a": (f"{fault.value:.0f} A", fault),
        "bond": ("bonded by the inverter only" if bonded else "bonded once, at the board", None),
    }
    found, family, kinds = [], ledger.book.family, kinds_of(ledger)
    for row, asked in _ROWS:
        if row["family"] == family and row["when"] in kinds:
            values = [put[key] for key in asked]
            text = row["text"].format(**dict(zip(asked, [text for text, _ in values], strict=True))) if asked else row["text"]
            found.append(Label(row["place"], text, row["source"], tuple([figure for _, figure in values if figure is not None])))
    return tuple(found)
