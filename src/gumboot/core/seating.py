"""Who sits where: the cards off a shelf at the places of a job that want them."""

from __future__ import annotations

from typing import get_args

from gumboot.core.card import Shelf
from gumboot.core.card.boxes import AnchorCard, BoardCard, CtCard, GeneratorCard, LineDeviceCard, ScrewCard, TransferCard
from gumboot.core.card.inverter import InverterCard
from gumboot.core.card.solar import ModuleCard, OptimiserCard, PvInverterCard
from gumboot.core.card.storage import BatteryCard, SwitchFuseCard
from gumboot.core.errors import UnknownCard, WrongCard
from gumboot.core.job import Job
from gumboot.core.job.sensing import Meter
from gumboot.core.job.things import (
    BoardThing,
    BusbarThing,
    GeneratorThing,
    InverterThing,
    PvInverterThing,
    RoofBoxThing,
    SwitchFuseThing,
    TransferThing,
)
from gumboot.core.seats import Held, Made, Seat, Seats, needed


def metered(job: Job) -> Meter:
    """The meter whose CTs are read: the one that is wired to the leader, else the first."""
    leader = next((t.id for t in job.things if isinstance(t, InverterThing)), "")
    return next((m for m in job.sensing.meters if m.inverter == leader), job.sensing.meters[0])


class _Reader:
    """Cards off a shelf, each of the kind that its place wants."""

    def __init__(self, shelf: Shelf) -> None:
        self.shelf = shelf

    def card(self, card_id: str | None, kind: type[Made], path: str) -> Made | None:
        """A card, None where none is chosen. Raises UnknownCard, WrongCard."""
        if card_id is None:
            return None
        try:
            card = self.shelf[card_id]
        except KeyError:
            raise UnknownCard(path, card_id) from None
        if not isinstance(card, kind):
            wanted = get_args(kind.model_fields["kind"].annotation)[0]
            raise WrongCard(f"{card.title} is a {card.kind}; {path} needs a {wanted}. Choose another card.")
        return card

    def seat(self, thing: Held, kind: type[Made], path: str) -> Seat[Held, Made]:
        """A thing with its card."""
        return Seat(thing, needed(self.card(thing.card, kind, path), "card", path))


def _things(reader: _Reader, job: Job, of: type[Held], kind: type[Made]) -> tuple[Seat[Held, Made], ...]:
    return tuple(reader.seat(t, kind, f"things.{t.id}.card") for t in job.things if isinstance(t, of))


def seats_of(job: Job, shelf: Shelf) -> Seats:
    """The things of a job with their cards. Raises UnknownCard for one that the shelf lacks, WrongCard for one of another kind."""
    reader, chosen = _Reader(shelf), job.equipment
    own = {face.id: reader.card(face.module, ModuleCard, f"faces.{face.id}.module") for face in job.faces}
    cts = {m.id: reader.card(m.card, CtCard, f"sensing.meters.{m.id}.card") for m in job.sensing.meters}
    on_lines = {d.id: reader.card(d.card, LineDeviceCard, f"modbus.devices.{d.id}.card") for d in job.modbus.devices}
    return Seats(
        inverters=_things(reader, job, InverterThing, InverterCard),
        banks=tuple(reader.seat(bank, BatteryCard, f"banks.{bank.id}.card") for bank in job.banks),
        switch_fuses=_things(reader, job, SwitchFuseThing, SwitchFuseCard),
        busbars=_things(reader, job, BusbarThing, BoardCard),
        roof_boxes=_things(reader, job, RoofBoxThing, BoardCard),
        boards=_things(reader, job, BoardThing, BoardCard),
        transfers=_things(reader, job, TransferThing, TransferCard),
        generators=_things(reader, job, GeneratorThing, GeneratorCard),
        pv_inverters=_things(reader, job, PvInverterThing, PvInverterCard),
        meter=metered(job),
        of_meters={meter: card for meter, card in cts.items() if card is not None},
        of_devices={device: card for device, card in on_lines.items() if card is not None},
        module=reader.card(chosen.module, ModuleCard, "equipment.module"),
        of_faces={face: card for face, card in own.items() if card is not None},
        optimiser=reader.card(chosen.optimiser, OptimiserCard, "equipment.optimiser"),
        anchor=reader.card(chosen.anchor, AnchorCard, "equipment.anchor"),
        screw=reader.card(chosen.screw, ScrewCard, "equipment.screw"),
    )
