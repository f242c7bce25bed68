"""What stands in the house and what belongs to what, from the job's decisions."""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.card.inverter import AcLeg, Output
from gumboot.core.installation.parts import Input
from gumboot.core.job import Job
from gumboot.core.job.bank import BatteryUnit
from gumboot.core.job.model import Load, String
from gumboot.core.job.references import onward, reach
from gumboot.core.once import once
from gumboot.core.seats import BankSeat, BoardSeat, BusbarSeat, Converter, Enclosed, InverterSeat, RoofBoxSeat, Seats, SwitchFuseSeat

DUTIES = ("backed-up", "combining", "main")


def _heads_of(bank: BankSeat) -> tuple[BatteryUnit, ...]:
    if bank.card.arrangement == "parallel":
        return tuple(bank.thing.units)
    if bank.card.arrangement == "stack" or (bank.card.arrangement == "blocks" and bank.thing.strings > 1):
        return tuple([stack[0] for stack in bank.thing.stacks()])
    return (bank.thing.units[0],)


class Places:
    """The things of one job with their cards. Built once. ``leader`` is the id of the inverter that leads the house."""

    def __init__(self, job: Job, seats: Seats) -> None:
        self.job, self.seats, self.leader = job, seats, seats.inverters[0].id

    @property
    def whole(self) -> Places:
        """The house that this is, or is an island of."""
        return self

    @once
    def cards(self) -> dict[str, Enclosed]:
        """The card of every thing with terminals by the thing's id, batteries too, in the order of the way from roof to street."""
        seats = self.seats
        boards = sorted(seats.boards, key=lambda b: DUTIES.index(b.thing.duty))
        groups = (
            *(seats.roof_boxes, seats.inverters, seats.pv_inverters, seats.transfers),
            *(seats.generators, seats.switch_fuses, seats.busbars, boards),
        )
        found: dict[str, Enclosed] = {seat.id: seat.card for group in groups for seat in group}
        found.update({unit.id: bank.card for bank in seats.banks for unit in bank.thing.units})
        return found

    def card_at(self, place: str) -> Enclosed:
        """The card of a thing. Raises KeyError for a name that no thing has."""
        return self.cards[place]

    @once
    def hangable(self) -> list[str]:
        """What hangs or stands on a wall: not what is on the roof, at the supply, or out of doors."""
        seats = self.seats
        away = {b.id for b in seats.roof_boxes} | {g.id for g in seats.generators} | {b.id for b in seats.mains}
        return [place for place in self.cards if place not in away]

    @property
    def lead(self) -> InverterSeat:
        """The inverter that leads its group."""
        return self.seats.inverters[0]

    @once
    def _fed(self) -> dict[str, list[str]]:
        return onward(self.job.things)

    def below(self, thing: str) -> tuple[str, ...]:
        """All that a thing feeds on the way to the loads, near things first."""
        return reach(self._fed, thing)

    def feeding(self, thing: str) -> tuple[InverterSeat, ...]:
        """The inverters that a thing is fed by, the leader first."""
        return tuple(i for i in self.seats.inverters if i.id == thing or thing in self.below(i.id))

    def boards_below(self, thing: str) -> tuple[BoardSeat, ...]:
        """The backed-up boards that are fed by way of a thing, itself too where it is one."""
        below = {thing, *self.below(thing)}
        return tuple(b for b in self.seats.boards if b.thing.duty == "backed-up" and b.id in below)

    @once
    def boards(self) -> tuple[BoardSeat, ...]:
        """The backed-up boards, the first one first."""
        return tuple(b for b in self.seats.boards if b.thing.duty == "backed-up")

    @property
    def first_board(self) -> str:
        """The backed-up board of loads that name none; empty where the house has no such board."""
        return self.whole.boards[0].id if self.whole.boards else ""

    @property
    def backed(self) -> list[Load]:
        """The loads of the backed-up side."""
        return self.loads_on(self.boards)

    def loads_on(self, boards: Sequence[BoardSeat]) -> list[Load]:
        """The backed-up loads of some boards."""
        backed = [x for x in self.job.loads if x.side == "backed"]
        if len(boards) == len(self.whole.boards):
            return backed
        names, first = {b.id for b in boards}, self.first_board
        return [x for x in backed if (x.board or first) in names]

    def inverter(self, place: str) -> InverterSeat:
        """The inverter of an id; for another thing the first that feeds it, or the leader, as for a shared circuit."""
        own = [i for i in self.seats.inverters if i.id == place]
        return (own or self.feeding(place) or self.seats.inverters)[0]

    def on_bank(self, bank: str) -> tuple[InverterSeat, ...]:
        """The inverters that hang on a bank."""
        return self._on_banks.get(bank, ())

    @once
    def _on_banks(self) -> dict[str, tuple[InverterSeat, ...]]:
        inverters = self.seats.inverters
        return {bank: tuple([inverters[n] for n in places]) for bank, places in self._hanging.items()}

    @once
    def _hanging(self) -> dict[str, list[int]]:
        """Which inverters hang on each bank, by their place in the job: the graph may be taken over by another house."""
        found: dict[str, list[int]] = {}
        for n, inverter in enumerate(self.seats.inverters):
            found.setdefault(inverter.thing.bank, []).append(n)
        return found

    @once
    def serving(self) -> tuple[int, ...]:
        """The banks that an inverter hangs on, by their place in the job."""
        return tuple([n for n, bank in enumerate(self.seats.banks) if bank.id in self._hanging])

    @once
    def first_bank(self) -> str:
        """The first bank that an inverter hangs on."""
        return self.seats.banks[self.serving[0]].id

    def bank(self, bank: str) -> BankSeat:
        """The bank of an id. Raises KeyError for a name that is none's."""
        return self._banks[bank]

    @once
    def _banks(self) -> dict[str, BankSeat]:
        return {b.id: b for b in self.seats.banks}

    def bank_of(self, inverter: InverterSeat) -> BankSeat:
        """The bank of an inverter."""
        return self.bank(inverter.thing.bank)

    def heads(self, bank: str) -> tuple[BatteryUnit, ...]:
        """What stands of a bank by itself and is switched on by itself: each parallel battery, each stack by its first unit, else the first."""
        return self._heads[bank]

    @once
    def _heads(self) -> dict[str, tuple[BatteryUnit, ...]]:
        return {bank.id: _heads_of(bank) for bank in self.seats.banks}

    def fuses_of(self, bank: str) -> tuple[SwitchFuseSeat, ...]:
        """Switches and fuses in the mains of a bank's inverters."""
        found = [self.switch_fuse_of(i.id) for i in self.on_bank(bank)]
        return tuple([switch for switch in found if switch is not None])

    def busbar_of(self, bank: str) -> BusbarSeat | None:
        """The busbar box of a bank."""
        return next((b for b in self.seats.busbars if b.thing.bank == bank), None)

    def switch_fuse_of(self, inverter: str) -> SwitchFuseSeat | None:
        """Switch and fuse in an inverter's battery main."""
        for switch in self.seats.switch_fuses:
            if switch.thing.inverter == inverter:
                return switch
        return None

    def roof_box_of(self, converter: str) -> RoofBoxSeat | None:
        """The box at the roof of an inverter: its own, or the one that the house has for all."""
        boxes = self.seats.roof_boxes
        return next((b for b in boxes if b.thing.inverter == converter), boxes[0] if boxes else None)

    def main_of(self, inverter: InverterSeat) -> str:
        """The main board that an inverter joins, itself or by its transfer equipment; the first where none is named."""
        mains = [b.id for b in self.seats.mains]
        transfers = [t.thing.board for t in self.seats.transfers if t.id in self.below(inverter.id)]
        return next((b for b in (inverter.thing.board, *transfers, *mains[:1]) if b in mains), "")

    def lands_its_feed(self, board: str) -> bool:
        """Whether the card of a board says where its feed lands: that of one which the survey found does not."""
        return any(port.id == "MAIN" for port in self.card_at(board).ports)

    def mains_above(self, board: str) -> tuple[str, ...]:
        """A main board and those that it is fed from, up to the supply."""
        by_id = {b.id: b.thing for b in self.seats.mains}
        found: dict[str, None] = {}
        at: str | None = board
        while at in by_id and at not in found:
            found[at] = None
            at = by_id[at].fed_from
        return tuple(found)

    @once
    def legs(self) -> tuple[AcLeg, ...]:
        """The legs that the inverters together make."""
        return self.legs_of(self.seats.inverters)

    def legs_of(self, inverters: Sequence[InverterSeat]) -> tuple[AcLeg, ...]:
        """The legs that some inverters make."""
        made = {leg for i in inverters for leg in self.phases_of(i)}
        order: tuple[AcLeg, ...] = ("L1", "L2", "L3")
        return tuple([leg for leg in order if leg in made])

    def phases_of(self, inverter: InverterSeat) -> tuple[AcLeg, ...]:
        """The legs of the house that one inverter makes."""
        own: tuple[AcLeg, ...] = tuple(inverter.card.phases)
        return (inverter.thing.phase,) if inverter.thing.phase and len(own) == 1 else own

    @property
    def output(self) -> Output:
        """What the inverters make together."""
        own = self.lead.card
        made: dict[int, Output] = {1: "single phase", 2: "split phase", 3: "three phase"}
        return own.output if len(own.phases) > 1 else made[len(self.legs)]

    @once
    def has_grid(self) -> bool:
        """Whether a network comes to a main board of this job."""
        return self.job.site.supply != "none" and self.seats.board("main") is not None

    @once
    def inputs(self) -> tuple[Input, ...]:
        """Every PV input: the battery inverters', then the PV inverters'. A name that is taken gets its inverter's beside it."""
        rows, taken = list[Input](), set[str]()
        holding: list[tuple[str, Converter]] = [(s.id, s.card) for s in self.seats.inverters]
        holding += [(s.id, s.card) for s in self.seats.pv_inverters]
        for place, card in holding:
            for tracker in card.trackers:
                name = f"{tracker.id} {place}" if tracker.id in taken else tracker.id
                taken.add(name)
                rows.append(Input(place=place, converter=card, tracker=tracker, name=name))
        return tuple(rows)

    def strings_on(self, at: Input) -> tuple[String, ...]:
        """The strings of an input; one that names no inverter hangs on the first input of its tracker's name."""
        tracker, holders = at.tracker.id, (at.place, None) if at.name == at.tracker.id else (at.place,)
        return tuple([s for s in self.job.strings if s.tracker == tracker and s.inverter in holders])
