"""Which labels does this system need, where, and with what words?"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import NamedTuple

from gumboot.core.figure import BY_VALUE, Figure, constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import OneBank, Supplies, banks_of
from gumboot.core.plan.loads.school import is_single_line
from gumboot.core.plan.strings import StringsPlan
from gumboot.core.rulebook.loader import read_table
from gumboot.core.seats import AnySeat, PvInverterSeat
from gumboot.core.wording import within

# Read at arm's length: what no clause asks more of.
LETTERS = constant("h_l", "Letters at least", 3.0, "mm", "cp.letters")


class Label(NamedTuple):
    """One label: where it goes, its words, and the figures printed in them.

    ``at`` is the thing that carries it, empty where the house as a whole does; ``letters`` is how high its capitals are at least, ``stock``
    what it is printed on where the clause says.
    """

    place: str
    text: str
    source: str
    figures: tuple[Figure, ...] = ()
    at: str = ""
    letters: Figure = LETTERS
    stock: str = ""


def _letters(row: Mapping[str, str]) -> Figure:
    """How high the capitals of a row are at least."""
    return constant("h_l", "Letters at least", float(row["letters_mm"]), "mm", row["source"]) if row["letters_mm"] else LETTERS


# By family: each row with the values that its words ask for, and its label where one thing carries it and its words ask for none.
_ROWS: dict[str, list[tuple[dict[str, str], tuple[str, ...], Label]]] = {}
for _row in read_table("common/tables/labels.csv"):
    _asked = tuple(key for key in ("pv_v", "bank_v", "fault_a", "bond", "off", "sources") if f"{{{key}}}" in _row["text"])
    _plain = Label(_row["place"], _row["text"], _row["source"], letters=_letters(_row), stock=_row["stock"])
    _ROWS.setdefault(_row["family"], []).append((_row, _asked, _plain))


class Said(NamedTuple):
    """A value as a label prints it."""

    words: str
    figure: Figure | None = None


class Carries(NamedTuple):
    """One of several things that carry a label alike, and the values of its own; no thing where the house as a whole carries it."""

    seat: AnySeat | None
    says: Mapping[str, Said] = {}


class Known(NamedTuple):
    """What is worked out before the labels are written."""

    ledger: Ledger
    strings: StringsPlan | None
    banks: Sequence[tuple[OneBank, Mapping[str, Said]]]
    off_order: Sequence[str]


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
        *(("coupled",) if _pv_inverters(ledger, on_main=False) else ()),
        *(("main-pv",) if _pv_inverters(ledger, on_main=True) else ()),
        *(("panel",) if ledger.house.panels else ()),
        *(("earth",) if job.site.island_electrode else ()),
        *(("single line",) if any(is_single_line(part.house) for part in ledger.islands) else ()),
    }


def _pv_inverters(ledger: Ledger, *, on_main: bool) -> list[PvInverterSeat]:
    """The PV inverters on a main board, or those on the side that is backed up."""
    mains = {b.id for b in ledger.seats.mains}
    return [pv for pv in ledger.seats.pv_inverters if (pv.thing.feeds in mains) is on_main]


def _converters(k: Known) -> Iterator[Carries]:
    """Everything that strings come down to, with the highest voltage of its own."""
    trackers = k.strings.trackers if k.strings else ()
    every: tuple[AnySeat, ...] = (*k.ledger.seats.inverters, *k.ledger.seats.pv_inverters)
    for seat in every:
        own = [t.cold_v for t in trackers if t.place == seat.id]
        if own:
            coldest = max(own, key=BY_VALUE)
            yield Carries(seat, {"pv_v": Said(f"{coldest.value:.0f} V DC", coldest)})


def _of_bank(bank: OneBank, supplies: Supplies) -> Mapping[str, Said]:
    nominal, fault = bank.volts("nominal_v"), supplies.of(bank.id).fault_a
    return {"bank_v": Said(f"{nominal.value:g} V DC", nominal), "fault_a": Said(f"{fault.value:.0f} A", fault)}


def _banks(k: Known) -> Iterator[Carries]:
    for bank, says in k.banks:
        yield Carries(bank.seat, says)


def _disconnects(k: Known) -> Iterator[Carries]:
    """Switch and fuse in each main of a bank; where there is none, the bank's own switch."""
    for bank, says in k.banks:
        switches: tuple[AnySeat, ...] = bank.switch_fuses
        for seat in switches or (bank.seat,):
            yield Carries(seat, says)


def _mains(k: Known) -> Iterator[Carries]:
    """The main boards that a source feeds, and those ahead of them."""
    house, seats = k.ledger.house, k.ledger.seats
    if len(seats.mains) == 1:
        yield Carries(seats.mains[0])
        return
    joined = {house.main_of(i) for i in house.giving} | {pv.thing.feeds for pv in seats.pv_inverters}
    above = {name for board in joined for name in house.mains_above(board)}
    for board in seats.mains:
        if board.id in above:
            yield Carries(board)


def _grid_feeds(k: Known) -> Iterator[Carries]:
    house = k.ledger.house
    seats = {seat.id: seat for seat in k.ledger.seats.all()}
    for circuit in house.of_kind("grid", "through"):
        if circuit.source in {b.id for b in k.ledger.seats.mains}:
            yield Carries(seats[circuit.load])


def _generators(k: Known) -> Iterator[Carries]:
    for generator in k.ledger.seats.generators:
        bonded = k.ledger.house.inverter(generator.thing.feeds).card.neutral_bond == "relay"
        yield Carries(generator, {"bond": Said("bonded by the inverter only" if bonded else "bonded once, at the board")})


# Who carries a label: each of these things has one of its own.
EACH: dict[str, Callable[[Known], Iterator[Carries]]] = {
    "": lambda _: iter(()),
    "converter": _converters,
    "bank": _banks,
    "disconnect": _disconnects,
    "main board": _mains,
    "grid feed": _grid_feeds,
    "board": lambda k: (Carries(board) for board in k.ledger.house.boards),
    "panel": lambda k: (Carries(b) for b in k.ledger.seats.boards if b.id in k.ledger.house.panels),
    "generator": _generators,
    "coupled PV": lambda k: (Carries(pv) for pv in _pv_inverters(k.ledger, on_main=False)),
    "main PV": lambda k: (Carries(pv) for pv in _pv_inverters(k.ledger, on_main=True)),
}
NOT_KNOWN, ALONE = Said("not known yet"), Carries(None)


# Where each source is switched off, as the labels there call the place.
_SWITCHED_OFF = (
    ("PV", "PV disconnect", _converters),
    ("battery", "battery disconnect", _disconnects),
    ("generator", "generator inlet", _generators),
)


def _sources(k: Known) -> str:
    """Every source of the property, each with the place at which it is switched off."""
    found = ["grid at the service disconnect"] if k.ledger.job.site.supply != "none" else []
    for source, where, each in _SWITCHED_OFF:
        names = [carries.seat.name for carries in each(k) if carries.seat is not None]
        found += [f"{source} at the {where}{f' of {name}' if len(names) > 1 else ''}" for name in names]
    return "; ".join(found)


def _of_the_house(k: Known) -> Mapping[str, Said]:
    """What labels say that is about the house as a whole."""
    off = "; ".join(f"{n} {within(words)}" for n, words in enumerate(k.off_order, 1))
    found = {"off": off, "sources": _sources(k)}
    return {key: Said(words) for key, words in found.items() if words}


def _written(plain: Label, asked: Sequence[str], carrying: Sequence[Carries], of_house: Mapping[str, Said]) -> Iterator[Label]:
    """A label for each thing that carries it; one alone is not named, and stands there before its values are known."""
    several = len(carrying) > 1
    for one in carrying or [ALONE]:
        place = f"{plain.place}, {one.seat.name}" if several and one.seat is not None else plain.place
        values = {key: one.says.get(key) or of_house.get(key, NOT_KNOWN) for key in asked}
        text = plain.text.format(**{key: said.words for key, said in values.items()})
        figures = tuple([said.figure for said in values.values() if said.figure is not None])
        yield plain._replace(place=place, text=text, figures=figures, at=one.seat.id if one.seat is not None else "")


def plan_labels(ledger: Ledger, strings: StringsPlan | None, supplies: Supplies, off_order: Sequence[str]) -> tuple[Label, ...]:
    """Every label of the book's family that this system asks for, on each thing that carries it, its figures put in."""
    known = Known(ledger, strings, [(bank, _of_bank(bank, supplies)) for bank in banks_of(ledger)], off_order)
    of_house = _of_the_house(known)
    kinds, carrying, found = kinds_of(ledger), dict[str, list[Carries]](), list[Label]()
    for row, asked, plain in _ROWS[ledger.book.family]:
        if row["when"] not in kinds:
            continue
        each = row["each"]
        if each not in carrying:
            carrying[each] = list(EACH[each](known))
        kept = plain._replace(letters=ledger.keep(plain.letters))
        found += _written(kept, asked, carrying[each], of_house)
    return tuple(found)
