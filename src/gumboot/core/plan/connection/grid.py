"""What does the network ask: what it brings, what its fault current demands of devices, what may be fed in?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core import sizes
from gumboot.core.card import InverterCard
from gumboot.core.card.inverter import AcLeg
from gumboot.core.expression import total
from gumboot.core.figure import Figure, constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits import CircuitsPlan, Sized
from gumboot.core.plan.group import of_all, output_kind, summed
from gumboot.core.plan.sensing import is_metered, permit_of
from gumboot.core.plan.sources import reached_pv, sources_together
from gumboot.core.rulebook.common.conductors import far_fault_current_a
from gumboot.core.rulebook.iec_family.connection import imbalance_a
from gumboot.core.rules import connection as rules
from gumboot.core.seats import Converter, InverterSeat, PvInverterSeat
from gumboot.core.wording import within

WARM = constant("k_h", "Share of its rating that a breaker in a closed box carries for hours", 0.8, "", "cp.heat")


def supply_kind(ledger: Ledger) -> None:
    """Whether the network brings the live conductors that the inverter's grid terminals ask for."""
    inverter = ledger.house.lead
    where = inverter.id if ledger.house.is_apart else "inverter"
    facts = rules.Supply(title=inverter.card.title, output=output_kind(ledger), brings=ledger.job.site.supply, where=where)
    ledger.ask(rules.supply_fits, facts)


def _far_fault(ledger: Ledger, sized: Sized, fault: Figure) -> None:
    """Fault current at the far end of a grid feed, line to neutral: what its device still must see."""
    card, title = ledger.house.inverter(sized.circuit.owner).card, sized.circuit.title
    loop = 2 * sized.length / 1000 * sized.pole_ohm_per_km
    ledger.work(
        f"circuits.{sized.circuit.id}.fault_far_a",
        "I_kf",
        f"Least fault current at the inverter's end of the {within(title)}",
        far_fault_current_a(ledger.read(card, "leg_v"), fault, loop),
        "A",
        source=ledger.book.boards.fault_source,
        limits="Line to neutral, warm conductors, impedances added as numbers.",
    )


def far_faults(ledger: Ledger, plan: CircuitsPlan) -> None:
    """What the network still pushes at the far end of each grid feed."""
    fault = ledger.asked("site.grid_fault_a")
    if fault is None:
        return
    for sized in plan.sized.values():
        if sized.circuit.kind == "grid":
            _far_fault(ledger, sized, fault)


def _fastening(ledger: Ledger) -> None:
    fastened = ledger.job.site.backfed_fastened
    if fastened is None:
        question = "Is the inverter's breaker fastened and suitable for back-feed?"
        ledger.gap("site.backfed_fastened", "survey", question, "Whether the breaker can be pulled off live")
    ledger.ask(rules.backfed, rules.Fastened(fastened=fastened))


def _warm_devices(ledger: Ledger, plan: CircuitsPlan) -> None:
    """What each AC device carries for hours in a closed box."""
    for cid, sized in plan.sized.items():
        if sized.device is None or sized.circuit.is_dc:
            continue
        name = "What the device carries for hours in a closed box"
        cool = ledger.work(f"circuits.{cid}.device_cool", "I_h", name, WARM * sized.device, "A", source="cp.heat")
        field = f"runs.{sized.run.id}.device_a"
        facts = rules.Warm(circuit=cid, amps=sized.demand.design_a, device=sized.device, cool=cool, field=field)
        ledger.ask(rules.runs_cool, facts)


SMALLEST_AHEAD = {"copper": "6 AWG", "aluminium": "4 AWG"}


def _supply_side(ledger: Ledger, feeds: Sequence[Sized]) -> None:
    """The conductor of each feed that joins ahead of the main (705.11)."""
    for z in feeds:
        size, name = SMALLEST_AHEAD[z.run.material], f"Smallest {z.run.material} conductor ahead of the main"
        key = f"circuits.supply_side_least.{z.run.material}"
        least = ledger.work(key, "A_min", name, sizes.area_mm2(size), "mm2", source="nec.705.11", label=size)
        facts = rules.SupplySide(circuit=z.circuit.id, installed=z.installed, least=least, field=f"runs.{z.run.id}.installed_size")
        ledger.ask(rules.supply_side_conductor, facts)


def devices(ledger: Ledger, plan: CircuitsPlan) -> None:
    """The grid breaker against the maker's most and its fastening, and every device by heat, where the book asks so."""
    clauses, feeds = ledger.book.boards, [z for z in plan.sized.values() if z.circuit.kind == "grid"]
    for z in feeds:
        if z.device:
            most = ledger.read(ledger.house.inverter(z.circuit.owner).card, "grid_device_max_a")
            ledger.ask(rules.maker_allows_device, rules.Against(found=z.device, most=most, where=z.circuit.id))
    if clauses.has_connections and ledger.job.site.connection == "supply side":
        _supply_side(ledger, feeds)
    if feeds and clauses.asks_fastening and ledger.house.giving:
        _fastening(ledger)
    if clauses.loads_device_warm:
        _warm_devices(ledger, plan)


def network_limits(ledger: Ledger) -> None:
    """Connect-and-tell class and imbalance between phases."""
    book, sources = ledger.book, ledger.once(sources_together)
    if book.notify_a is not None:
        limit = ledger.keep(constant("I_not", "Connect-and-tell class, per phase", book.notify_a, "A", "en.50549.16"))
        ledger.ask(rules.notification, rules.Against(found=sources, most=limit))
    apart = _apart(ledger, sources) if ledger.job.site.supply == "three phase" and book.imbalance_a is not None else None
    if book.imbalance_a is not None and apart is not None:
        name = "Difference between phases at most"
        limit = ledger.keep(constant("I_unb", name, book.imbalance_a, "A", book.imbalance_source))
        ledger.ask(rules.imbalance, rules.Unbalanced(source=apart, most=limit, clause=book.imbalance_source))


def _apart(ledger: Ledger, sources: Figure) -> Figure | None:
    """What the sources leave between the fullest phase and the emptiest; all they give on one where another has none."""
    made: list[tuple[Converter, tuple[AcLeg, ...]]] = [(i.card, ledger.house.phases_of(i)) for i in ledger.house.giving]
    made += [(pv.card, tuple(pv.card.phases)) for pv in reached_pv(ledger)]
    on = [[card for card, legs in made if leg in legs] for leg in ("L1", "L2", "L3")]
    if on[0] == on[1] == on[2]:
        return None
    if not all(on):
        return sources
    amps = [[ledger.read(card, "output_current_a") for card in leg] for leg in on]
    apart = imbalance_a(*[total(leg, leg[0]) for leg in amps])
    return ledger.work("grid.phases_apart", "dI", "Between the fullest phase and the emptiest", apart, "A", source="arith")


def _can_be_told(card: InverterCard, permit_w: float) -> bool:
    """Whether an inverter takes an export limit as low as the network's."""
    return bool([row for row in card.settings if row.key == "export_w" and row.low <= permit_w])


def _sees(ledger: Ledger) -> bool:
    """Whether the inverters of an island know what passes at the supply; how one without CT inputs does is its maker's."""
    if ledger.house.is_apart and (ledger.house.mark or ledger.seats.inverter.ct_channels):
        return is_metered(ledger)
    return True


def export(ledger: Ledger) -> None:
    """Whether what the network permits can be held: by the inverter's size, or by a limit that it can be set to."""
    permit = ledger.job.site.export_limit_w
    if permit is None:
        return
    sources, limit = ledger.house.giving, ledger.decided("site.export_limit_w")
    settable, blind = True, ""
    # Each that feeds the grid must hold the limit; in each island the CTs are read by its leader.
    for part in ledger.islands:
        giving, told = part.house.giving, permit_of(part, limit)
        settable &= all(_can_be_told(i.card, told.value) for i in giving)
        if giving and not _sees(part):
            blind = blind or giving[0].name
    others = reached_pv(ledger)
    if sources:
        facts = rules.Export(output=_output_w(ledger, sources, others), permit=limit, settable=settable, blind=blind)
        ledger.ask(rules.export_held, facts)
    if others:
        alone = summed(ledger, "grid.pv_w", "P_pv_ac", "Output of all PV inverters", [ledger.read(pv.card, "output_w") for pv in others])
        names = [pv.name for pv in others]
        ledger.ask(rules.pv_within_the_permit, rules.Unthrottled(output=alone, permit=limit, names=names))


def _output_w(ledger: Ledger, sources: Sequence[InverterSeat], others: Sequence[PvInverterSeat]) -> Figure:
    """What can be fed in at most: by the inverters, and by the PV inverters beside them."""
    key, name = ledger.key("group.output_w"), ledger.titled("Continuous output of all inverters")
    inverters = of_all(ledger, "output_w", key, name, sources)
    if not others:
        return inverters
    parts = [inverters, *(ledger.read(pv.card, "output_w") for pv in others)]
    return ledger.work(
        "grid.sources_w", "P_src", "Output of inverters and PV inverters together", total(parts, inverters), "W", source="arith"
    )
