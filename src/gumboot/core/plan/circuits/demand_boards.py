"""What do the feeds of boards, the generator feed and AC-coupled PV carry?"""

from __future__ import annotations

from collections.abc import Mapping

from gumboot.core.expression import largest, total
from gumboot.core.figure import BY_VALUE, Figure
from gumboot.core.installation import Circuit
from gumboot.core.job.model import Run
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits.demand_ac import FLOWS, by_root, coming_back, leg_current, running_on
from gumboot.core.plan.circuits.demand_dc import continuous
from gumboot.core.plan.circuits.parts import Demand
from gumboot.core.plan.group import line_v, output_kind
from gumboot.core.plan.sources import joining, sources_of
from gumboot.core.wording import within


def _backup_device(ledger: Ledger, circuit: Circuit, upstream: list[Figure]) -> Figure:
    """The device the backed-up feed must bear: its own main, or the breaker that feeds it in pass-through, whichever is larger."""
    board = next((b.card for b in ledger.house.boards if b.id == circuit.load), None) or ledger.seats.sub_board
    main = ledger.read(board, "main_device_a")
    if not upstream:
        return main
    feeding = max(upstream, key=BY_VALUE)
    return ledger.work(
        f"circuits.{circuit.id}.upstream",
        "I_up",
        "Larger of main and grid breaker",
        largest(main, feeding),
        "A",
        source=ledger.book.wiring.protection_source,
        limits="In pass-through the grid breaker feeds this conductor through the inverter or the transfer equipment.",
    )


def of_backup(ledger: Ledger, circuit: Circuit, running: Mapping[str, Figure], upstream: list[Figure]) -> Demand:
    """The backed-up feed; ``upstream`` are the devices that feed it in pass-through."""
    inverter, carried = ledger.seats.inverter, running_on(ledger, circuit, running)
    leg, panel = leg_current(ledger, circuit.id, carried, ledger.house.legs), circuit.owner in ledger.house.panels
    design = _or_back(ledger, circuit, leg)
    return Demand(
        design_a=design,
        continuous_a=continuous(ledger, circuit, design),
        volts=line_v(ledger),
        maker_min="" if panel else inverter.load_conductor_min,
        maker_source="" if panel else f"card:{inverter.id}:load_conductor_min",
        fixed_device_a=_backup_device(ledger, circuit, upstream),
        device_place="backed-up board",
        flow=FLOWS[output_kind(ledger)],
    )


def _or_back(ledger: Ledger, circuit: Circuit, leg: Figure) -> Figure:
    """What a feed carries to its loads, or what PV behind it gives back, whichever is more."""
    back = coming_back(ledger, circuit)
    if not back:
        return leg
    name = f"Design current of the {within(circuit.title)}"
    most = largest(leg, total(back, back[0]))
    return ledger.work(f"circuits.{circuit.id}.design_a", "I_b", name, most, "A", source="physics")


def of_feeder(ledger: Ledger, circuit: Circuit, running: Mapping[str, Figure]) -> Demand:
    """The feed of a board behind another, through a breaker of the board ahead: what runs on it, or what its PV inverters give back."""
    design = _or_back(ledger, circuit, leg_current(ledger, circuit.id, running_on(ledger, circuit, running), ledger.house.legs))
    return Demand(
        design_a=design,
        continuous_a=continuous(ledger, circuit, design),
        volts=line_v(ledger),
        device_place="the board ahead",
        flow=FLOWS[output_kind(ledger)],
    )


def of_main_feeder(ledger: Ledger, circuit: Circuit, run: Run) -> Demand | None:
    """The feed of a main board behind another, which carries back what the sources there give; None where none of them gives any.

    What it carries to the loads there the survey does not say: its device holds that, and is asked for.
    """
    units, others = joining(ledger, circuit.load)
    if not units and not others:
        return None
    if run.device_a is None:
        question = f"Which device guards the feed of {circuit.load} in the board ahead?"
        ledger.gap(f"runs.{run.id}.device_a", "circuits", question, f"Whether the conductors to {circuit.load} are guarded")
    design = sources_of(ledger, units, others, circuit.load)
    return Demand(
        design_a=design,
        continuous_a=continuous(ledger, circuit, design),
        volts=line_v(ledger),
        needs_device=run.device_a is not None,
        device_place="the board ahead",
        flow=FLOWS[output_kind(ledger)],
    )


def of_generator(ledger: Ledger, circuit: Circuit) -> Demand | None:
    """The generator feed."""
    card = next((g.card for g in ledger.seats.generators if g.id == circuit.owner), None)
    if card is None:
        return None
    inverter = ledger.house.inverter(next(g.thing.feeds for g in ledger.seats.generators if g.id == circuit.owner)).card
    volts = ledger.read(card, "voltage_v")
    amps = by_root(ledger.read(card, "power_w") / volts, inverter.output)
    design = ledger.work(f"circuits.{circuit.id}.design_a", "I_b", "Generator's full current", amps, "A", source="physics")
    return Demand(
        design_a=design,
        continuous_a=continuous(ledger, circuit, design),
        volts=volts,
        fixed_device_a=ledger.read(card, "device_a"),
        device_place="on the generator",
        flow=FLOWS[inverter.output],
    )


def of_pv_inverter(ledger: Ledger, circuit: Circuit) -> Demand | None:
    """AC-coupled PV."""
    card = next((p.card for p in ledger.seats.pv_inverters if p.id == circuit.owner), None)
    if card is None:
        return None
    design = ledger.read(card, "output_current_a")
    return Demand(
        design_a=design,
        continuous_a=continuous(ledger, circuit, design),
        volts=ledger.read(card, "output_v"),
        maker_min=card.conductor_min,
        maker_source=f"card:{card.id}:conductor_min",
        device_place="backed-up board",
        flow=FLOWS[card.output],
    )
