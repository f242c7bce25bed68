"""What a step of first power is, what steps are made from, and how an inverter's island output is measured."""

from __future__ import annotations

from gumboot.core.card import InverterCard
from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.once import once
from gumboot.core.plan.bank import BankPlan, OneBank, bank_of, banks_of
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.plan.power_up.board import mark, of
from gumboot.core.plan.prove import Check
from gumboot.core.plan.sensing import is_metered
from gumboot.core.seats import BoardSeat, InverterSeat
from gumboot.core.values import Values

# The link ritual, the settings as left; the meter test with PV off of a set of CTs is "meter" and what the ids of its island end in.
Need = str
METER = "meter"


class Step(Values):
    """One act with what must be seen, what it makes live, and what it waits for.

    ``lands`` are the circuits that it makes live: each of their terminations waits on record. ``needs`` names what else must be done:
    the link ritual, the settings as left, the meter test with PV off. ``opens`` where the move opens what an earlier step closed,
    ``back`` where the move is taken back before the step ends.
    """

    id: str
    title: str
    see: str
    move: str = ""
    opens: bool = False
    back: bool = False
    holds: tuple[str, ...] = ()
    figure: Figure | None = None
    caution: str = ""
    measure: Check | None = None
    lands: tuple[str, ...] = ()
    needs: tuple[Need, ...] = ()


class Ready(Values):
    """What the steps are made from: the banks, the dead checks, what each kind of step makes live, and what there is."""

    ledger: Ledger
    banks: tuple[BankPlan, ...]
    checks: tuple[Check, ...]
    plan: CircuitsPlan

    @property
    def islands(self) -> tuple[Ready, ...]:
        """The same, for each island by itself."""
        parts = self.ledger.islands
        return (self,) if parts[0] is self.ledger else tuple([self.but(ledger=part) for part in parts])

    @property
    def mark(self) -> str:
        """What ids of the island's steps end in: nothing for the first."""
        return self.ledger.house.mark

    def live(self, *kinds: str) -> tuple[str, ...]:
        """Circuits of these kinds."""
        live = self._live
        if len(kinds) == 1:
            return tuple(live.get(kinds[0], ()))
        found = {cid for kind in kinds for cid in live.get(kind, ())}
        return tuple([cid for cid in self.plan.sized if cid in found])

    @once
    def _live(self) -> dict[str, list[str]]:
        """Circuits by kind."""
        own, found = self.ledger.house.by_id, dict[str, list[str]]()
        for cid, sized in self.plan.sized.items():
            if cid in own:
                found.setdefault(sized.circuit.kind, []).append(cid)
        return found

    def live_of(self, inverter: InverterSeat, *kinds: str) -> tuple[str, ...]:
        """Circuits of these kinds that belong to one inverter."""
        found, own = self.plan.sized.items(), inverter.id
        return tuple([cid for cid, sized in found if sized.circuit.kind in kinds and sized.circuit.owner == own])

    def feeders_of(self, board: BoardSeat) -> tuple[str, ...]:
        """The circuit that feeds a board from the board ahead of it."""
        return tuple(cid for cid in self.live("feeder") if self.plan.sized[cid].circuit.load == board.id)

    def battery(self, bank: OneBank) -> tuple[str, ...]:
        """Circuits that the batteries of a bank make live."""
        known = self._batteries
        if bank.id not in known:
            mains, sized = {c.id for c in self.ledger.house.mains_of(bank.id)}, self.plan.sized
            mains.update([c for c in self.live("battery-unit", "interlink") if sized[c].circuit.owner == bank.id])
            known[bank.id] = tuple([c for c in sized if c in mains])
        return known[bank.id]

    @once
    def _batteries(self) -> dict[str, tuple[str, ...]]:
        """Circuits that the batteries of each bank make live, as far as they were asked for."""
        return {}

    def battery_at(self, inverter: InverterSeat) -> tuple[str, ...]:
        """Circuits that the batteries of an inverter's bank make live."""
        return self.battery(bank_of(self.ledger, inverter))

    def bank_at(self, inverter: InverterSeat) -> BankPlan:
        """The plan of an inverter's bank."""
        return next(bank for bank in self.banks if bank.id == inverter.thing.bank)

    def proving(self, of: str) -> tuple[str, ...]:
        """Checks that prove the batteries or the array; with nothing named, what guards life beside them."""
        return tuple([c.id for c in self.checks if c.of == of and (of or c.life)])

    @property
    def linked(self) -> tuple[OneBank, ...]:
        """The banks with a battery bus to prove."""
        proved = {c.id for c in self.checks}
        return tuple(bank for bank in banks_of(self.ledger) if f"bus-pair{bank.mark}" in proved)

    @property
    def needs_links(self) -> tuple[Need, ...]:
        """The link ritual, where there is a bus between inverter and batteries or between inverters."""
        return ("links",) if "READ-BUS" in [c.code for c in self.checks] else ()

    @property
    def grid(self) -> bool:
        """Whether there is a grid."""
        return self.ledger.job.site.supply != "none"

    @property
    def metered(self) -> tuple[Need, ...]:
        """The meter test of every set of CTs through which an inverter looks at the grid: all are made with all PV off."""
        return tuple([f"{METER}{part.house.mark}" for part in self.ledger.islands if is_metered(part)])


def seen_volts(inverter: InverterCard) -> str:
    """What a meter shows at the island's terminals."""
    leg, whole = f"{inverter.leg_v:g}", f"{inverter.output_v:g}"
    if inverter.output == "split phase":
        return f"{leg} / {leg} / {whole} V at the LOAD terminals."
    return f"{whole} V at the LOAD terminals." if inverter.output == "single phase" else f"{leg} V to neutral and {whole} V between lines."


def output_check(ledger: Ledger, inverter: InverterSeat, place: str = "terminals") -> Check:
    """An inverter's island output before it may feed the house."""
    card, m, whose = inverter.card, mark(ledger, inverter), of(ledger, inverter)
    volts = ledger.read(card, "output_v")
    low = ledger.work(ledger.key("power.out.low"), "V_lo", ledger.titled("Island output at least"), 0.95 * volts, "V", source="cp.voltage")
    high = ledger.work(ledger.key("power.out.high"), "V_hi", ledger.titled("Island output at most"), 1.05 * volts, "V", source="cp.voltage")
    between = {"single phase": "L to N", "split phase": "L1 to L2", "three phase": "each line to the next"}[card.output]
    each = f"Live AC: {card.leg_v:g} V from each line to neutral as well."
    return Check(
        id=f"island-volts{m}",
        station="power-up",
        title=f"Island output{whose}, {between}",
        unit="V",
        why=f"Measured at the {place} before it may feed the house.",
        low=low,
        high=high,
        expected=volts,
        life=True,
        caution="Live AC." if card.output == "single phase" else each,
        code="READ-ISLAND",
        places=(inverter.id,) if place == "terminals" else tuple(sorted(ledger.house.panels)),
    )
