"""What is lost from the main board to the backed-up board, and how far does the voltage rise at full export?"""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from gumboot.core.expression import total
from gumboot.core.figure import Figure, constant
from gumboot.core.installation import Circuit
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits import CircuitsPlan, Sized
from gumboot.core.plan.circuits.demand_ac import running_on
from gumboot.core.plan.sources import pv_behind, sources_of, sources_together
from gumboot.core.rulebook.common.conductors import drop_v, leg_drop_v, neutral_current_a
from gumboot.core.rules import conductors as rules
from gumboot.core.wording import within


def leg_drop(ledger: Ledger, plan: CircuitsPlan, running: Mapping[str, Figure]) -> None:
    """Drop of the heavier leg to neutral on each split-phase feed of a backed-up board."""
    for circuit in ledger.house.of_kind("backup", "feeder"):
        sized = plan.sized.get(circuit.id)
        if sized is not None and sized.demand.flow == "split-phase":
            _leg_drop(ledger, sized, running_on(ledger, circuit, running))


def _leg_drop(ledger: Ledger, sized: Sized, running: Mapping[str, Figure]) -> None:
    """Its own wire and the neutral's share, kept apart."""
    cid, volts = sized.circuit.id, ledger.read(ledger.seats.inverter, "leg_v")
    heavy, light = (leg / volts for leg in sorted(running.values(), key=lambda f: -f.value))
    neutral = ledger.work(
        f"circuits.{cid}.neutral_a",
        "I_N",
        f"Neutral current of the {within(sized.circuit.title)}",
        neutral_current_a(heavy, light),
        "A",
        source="physics",
        limits="The difference of the legs; 240 V loads do not use the neutral.",
    )
    lost = 100 * leg_drop_v(heavy, neutral, sized.length, sized.pole_ohm_per_km) / volts
    ledger.work(f"circuits.{cid}.leg_drop_pct", "dv_leg", "Drop of the heavier leg to neutral", lost, "%", source="physics")


def _ways(ledger: Ledger) -> list[tuple[str, ...]]:
    """Ways from the main board to the backed-up board; what leads from an inverter to a manual switch is not on the grid's way."""
    ways = ledger.house.ways
    if not ledger.seats.transfers:
        return list(ways)
    return [tuple([cid for cid in way if not cid.startswith("inverter-out")]) for way in ways]


def total_drop(ledger: Ledger, plan: CircuitsPlan) -> None:
    """Drop from the main board to the backed-up board through every segment, against the book's limit from the origin."""
    ways = [[plan.sized[cid] for cid in way if cid in plan.sized] for way in _ways(ledger)]
    worst = max(ways, key=lambda way: sum([z.drop_pct.value for z in way])) if len(ways) > 1 else ways[0] if ways else []
    if len(worst) < 2:
        return
    parts = [z.drop_pct for z in worst]
    lost = ledger.work(
        ledger.key("circuits.drop_total_pct"),
        "dv_sum",
        ledger.titled("Drop from main board to backed-up board"),
        total(parts, parts[0]),
        "%",
        source=ledger.book.drop_source,
        limits="Each segment at its own design current: more than flows at once.",
    )
    fed = "light" if ledger.job.preferences.lighting else "power"
    fed += ", private" if ledger.job.site.private_supply else ""
    most = ledger.book.drop_totals_pct[fed]
    limit = ledger.keep(constant("dv_all", f"Drop from the origin at most, {fed}", most, "%", ledger.book.drop_source))
    facts = rules.Lost(where=worst[-1].circuit.id, pct=lost, most=limit, field=f"runs.{worst[0].circuit.id}.length_m")
    ledger.ask(rules.drop_in_all, facts)


def _exported(ledger: Ledger, sized: Sized) -> Figure:
    """What flows towards the supply along a segment at full export."""
    circuit, house = sized.circuit, ledger.house
    if circuit.kind == "grid" and len(house.of_kind("grid")) == 1:
        return ledger.once(sources_together)
    if circuit.kind in ("pv-ac", "main-feeder"):
        return sized.demand.design_a
    if circuit.kind == "grid" or circuit.load in {i.id for i in ledger.seats.inverters}:
        return sized.demand.back_a or ledger.read(house.inverter(circuit.owner).card, "output_current_a")
    return sources_of(ledger, (), pv_behind(ledger, circuit), circuit.id)


def _segment(ledger: Ledger, cid: str, sized: Sized) -> Figure:
    volts = drop_v(_exported(ledger, sized), sized.length, sized.pole_ohm_per_km, sized.demand.flow)
    name = f"Voltage rise at full export, {sized.circuit.title.lower()}"
    holds = "Unity power factor, warm conductor."
    key = f"circuits.{cid}.rise_pct"
    return ledger.work(key, "dr", name, 100 * volts / sized.demand.volts, "%", source=ledger.book.rise_source, limits=holds)


def _from_pv(ledger: Ledger, circuit: Circuit) -> Iterator[tuple[str, ...]]:
    """The ways of a PV inverter to the point of supply: by its board's feeds and past a gateway, or straight from a main board."""
    house, by_id = ledger.house, ledger.house.whole.by_id
    if circuit.load in {b.id for b in ledger.seats.mains}:
        yield (circuit.id, *reversed(house.feeders_to(circuit.load)))
    gates = {c.id for c in house.of_kind("through") if c.load in {i.id for i in ledger.seats.inverters}}
    for way in house.ways:
        towards = [cid for cid in way if cid not in gates]
        ends = [n for n, cid in enumerate(towards) if by_id[cid].load == circuit.load]
        if ends and any(by_id[cid].kind in ("grid", "through") for cid in towards):
            yield (circuit.id, *reversed(towards[: ends[0] + 1]))


def _out(ledger: Ledger, plan: CircuitsPlan) -> list[tuple[str, ...]]:
    """Ways of an island from each source to the point of supply: of each inverter, by its gateway where it has one, and of PV."""
    house = ledger.house
    if not house.giving and not ledger.seats.pv_inverters:
        return []
    found, inverters = [], {i.id for i in ledger.seats.inverters}
    for grid in [c for c in house.of_kind("grid") if c.id in plan.sized]:
        feeders = tuple(reversed(house.feeders_to(grid.source)))
        gates = [c.id for c in house.of_kind("through") if c.source == grid.load and c.load in inverters]
        found += [(*((gate,) if gate else ()), grid.id, *feeders) for gate in gates or [""]]
    return found + [way for pv in house.of_kind("pv-ac") for way in _from_pv(ledger, pv)]


def rise(ledger: Ledger, plan: CircuitsPlan) -> None:
    """Voltage rise at full export, each segment from the source to the point of supply, and the largest sum."""
    rising = []
    for part in ledger.islands:
        for way in _out(part, plan):
            rising.append([(cid, _segment(part, cid, plan.sized[cid])) for cid in way if cid in plan.sized])
    worst = max(rising, key=lambda way: sum([f.value for _, f in way]), default=[])
    if not worst:
        return
    name, source, parts = "Voltage rise from source to supply", ledger.book.rise_source, [f for _, f in worst]
    gained = ledger.work("circuits.rise_pct", "dr", name, total(parts, parts[0]), "%", source=source)
    limit = ledger.keep(constant("dr_max", "Voltage rise at most", ledger.book.rise_limit_pct, "%", source))
    last = worst[-1][0]
    ledger.ask(rules.rise_held, rules.Lost(where=last, pct=gained, most=limit, field=f"runs.{last}.length_m"))
