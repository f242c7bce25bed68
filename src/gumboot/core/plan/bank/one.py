"""One bank of the house with its inverters and boxes, and how what is worked out for it is called."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple, TypeVar

from gumboot.core.card import InverterCard
from gumboot.core.card.storage import BatteryCard
from gumboot.core.expression import Expression
from gumboot.core.figure import Figure
from gumboot.core.job.air import Told, coldest_air, hottest_air
from gumboot.core.job.bank import BatteryUnit
from gumboot.core.ledger import Ledger
from gumboot.core.plan.group import of_all
from gumboot.core.rules import Asked
from gumboot.core.seats import BankSeat, BusbarSeat, InverterSeat, SwitchFuseSeat

F = TypeVar("F")


def keyed(name: str, bank: str, *, is_first: bool) -> str:
    """The key of a figure of a bank: plain for the first, else with the bank's name behind."""
    return name if is_first else f"{name}.{bank}"


def marked(bank: str, *, is_first: bool) -> str:
    """What ids of a bank's checks, steps, switches and settings end in: nothing for the first."""
    return "" if is_first else f"-{bank}"


class OneBank(NamedTuple):
    """A bank in the ledger of a step. The keys of the first bank's figures are plain, those of another end in its name.

    ``id`` is the job's name of it, ``card`` that of its batteries, ``inverters`` are those that hang on it, ``is_first`` whether it is
    the first that an inverter hangs on, ``is_named`` whether words about it give its name: there are several.
    """

    ledger: Ledger
    seat: BankSeat
    id: str
    card: BatteryCard
    inverters: tuple[InverterSeat, ...]
    is_first: bool
    is_named: bool

    @property
    def units(self) -> Sequence[BatteryUnit]:
        """Its batteries in chain order."""
        return self.seat.thing.units

    @property
    def heads(self) -> tuple[BatteryUnit, ...]:
        """What stands by itself: each parallel battery, each stack by its first unit, else the first."""
        return self.ledger.house.heads(self.id)

    @property
    def of_strings(self) -> bool:
        """Whether it is strings of blocks side by side, each behind a fuse of its own: blocks have no breaker."""
        return self.card.arrangement == "blocks" and len(self.heads) > 1

    @property
    def coldest(self) -> Told:
        """The coldest air at its batteries; those inside an inverter stand where it does."""
        standing = self.inverters if self.is_docked else self.units
        return coldest_air(self.ledger.job, [one.id for one in standing])

    @property
    def hottest(self) -> Told:
        """As ``coldest``, of the hottest."""
        standing = self.inverters if self.is_docked else self.units
        return hottest_air(self.ledger.job, [one.id for one in standing])

    @property
    def inverter(self) -> InverterCard:
        """The card of its first inverter."""
        return self.inverters[0].card

    @property
    def is_docked(self) -> bool:
        """Whether its batteries dock inside their inverter."""
        return self.card.arrangement == "docked" or self.inverter.bank_internal

    @property
    def box(self) -> BusbarSeat | None:
        """Its busbar box."""
        return self.ledger.house.busbar_of(self.id)

    @property
    def switch_fuses(self) -> tuple[SwitchFuseSeat, ...]:
        """Switches and fuses in the mains of its inverters."""
        return self.ledger.house.fuses_of(self.id)

    @property
    def mark(self) -> str:
        """What ids of its checks, steps and settings end in: nothing for the first bank."""
        return marked(self.id, is_first=self.is_first)

    def key(self, name: str) -> str:
        """The key of one of its figures."""
        return name if self.is_first else keyed(name, self.id, is_first=False)

    def of(self, words: str) -> str:
        """Words about it, with its name where there are several."""
        return f"{words}, {self.id}" if self.is_named else words

    def work(self, key: str, symbol: str, name: str, value: float | Expression, unit: str, *, source: str, limits: str = "") -> Figure:
        """As a workbook's, of this bank."""
        return self.ledger.work(self.key(key), symbol, self.of(name), value, unit, source=source, limits=limits)

    def ask(self, rule: Asked[F], facts: F) -> bool:
        """Ask a rule about it."""
        return self.ledger.ask(rule, facts, f"banks.{self.id}")

    def of_inverters(self, field: str, key: str, name: str) -> Figure:
        """A rating of its inverters, added up."""
        return of_all(self.ledger, field, self.key(key), self.of(name), self.inverters)

    def counts(self) -> tuple[Figure, Figure, Figure]:
        """Its batteries: all, in series, and in parallel. Counted once in a ledger: a step asks for them at every voltage."""
        kept = self.ledger.figures
        last = kept.get(self.key("bank.parallel"))
        if last is not None:
            return kept[self.key("bank.units")], kept[self.key("bank.series")], last
        number, thing = float(len(self.units)), self.seat.thing
        series = float(len(thing.stacks()[0])) if self.card.in_series else 1.0
        parallel = float(thing.strings) if self.card.in_series else number
        return (
            self.work("bank.units", "n", "Batteries of the bank", number, "", source="input:bank.units"),
            self.work("bank.series", "n_s", "Units in series", series, "", source="input:bank.units"),
            self.work("bank.parallel", "n_p", "Units in parallel", parallel, "", source="input:bank.units"),
        )

    def volts(self, field: str) -> Figure:
        """A voltage of it in V: the card's own, times the units in series."""
        one = self.ledger.read(self.card, field)
        if not self.card.in_series:
            return one
        if (known := self.ledger.figures.get(self.key(f"bank.{field}"))) is not None:
            return known
        name = one.name.replace("one battery", "the bank")
        return self.work(f"bank.{field}", one.symbol, name, self.counts()[1] * one, "V", source="physics")


def _one(ledger: Ledger, seat: BankSeat) -> OneBank:
    house, bank = ledger.house, seat.id
    return OneBank(ledger, seat, bank, seat.card, house.on_bank(bank), bank == house.first_bank, len(house.whole.seats.banks) > 1)


def banks_of(ledger: Ledger) -> tuple[OneBank, ...]:
    """Every bank of the house that an inverter hangs on, in order: there is one at least, and a rule speaks of the others."""
    return ledger.once(_banks_of)


def _banks_of(ledger: Ledger) -> tuple[OneBank, ...]:
    seats = ledger.seats.banks
    return tuple([_one(ledger, seats[n]) for n in ledger.house.serving])


def bank_of(ledger: Ledger, inverter: InverterSeat) -> OneBank:
    """The bank of an inverter."""
    wanted = inverter.thing.bank
    for bank in banks_of(ledger):
        if bank.id == wanted:
            return bank
    return _one(ledger, ledger.house.bank_of(inverter))
