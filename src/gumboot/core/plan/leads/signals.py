"""The leads of transformers, gateways, the rapid-shutdown loop, dry contacts and the network."""

from __future__ import annotations

from collections.abc import Iterator

from gumboot.core.card.parts import DataPort, Loop, Pin
from gumboot.core.errors import GumbootError
from gumboot.core.figure import Figure, constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.leads.joined import MAINS, in_colours, lacking, straight, wires_of
from gumboot.core.plan.leads.parts import Lead, LeadEnd, LeadKind
from gumboot.core.plan.links.sockets import meant_for, of_the_group
from gumboot.core.plan.sensing import CtSet
from gumboot.core.rules import loops as rules
from gumboot.core.seats import InverterSeat
from gumboot.core.sizes import area_mm2, read_size

COPPER = constant("rho", "Resistivity of copper at 20 °C", 0.017241, "ohm mm2/m", "iacs")


def ct_leads(ledger: Ledger, tested: CtSet) -> Iterator[Lead]:
    """From each transformer to the terminals of its channel; its own lead, with the colours of its card."""
    unit, card = ledger.house.whole.inverter(tested.inverter), ledger.seats.ct
    ports = [port for port in unit.card.data_ports if port.bus == "CT"]
    if card is None or len(ports) != 1:
        return
    colours = {"S1": card.s1, "S2": card.s2}
    for ct in tested.cts:
        channel = ct.place.channel
        own = tuple(pin for pin in ports[0].pins if pin.signal.upper().startswith(channel.upper()))
        core = LeadEnd(
            place=channel,
            title=f"{channel} on {ct.place.leg}",
            socket=card.title,
            pins=tuple(Pin(pin=n, signal=pin.signal) for n, pin in enumerate(own, start=1)),
        )
        inward = LeadEnd.at(unit.id, unit.name, ports[0]).but(pins=own)
        named = {pin.signal: colours.get(pin.signal.split()[-1], "") or "as its card" for pin in own}
        yield Lead(
            id=f"ct.{tested.meter}.{channel}",
            kind=LeadKind.CT,
            title=f"{channel} to {unit.name}",
            ends=(core, inward),
            cable=f"The transformer's own lead, {card.lead_m:g} m",
            wires=in_colours(wires_of(core, inward, "CT"), named),
            first="The core stays open until this lead is in: a closed core with an open secondary strikes through its insulation.",
        )


def gateway_leads(ledger: Ledger) -> Iterator[Lead]:
    """From an inverter to the gateway or transfer box that it commands."""
    for transfer in ledger.seats.transfers:
        units = [i for i in ledger.house.whole.seats.inverters if i.thing.feeds == transfer.id]
        for port in transfer.card.data_ports:
            for unit in units[:1]:
                theirs = meant_for(unit.card.data_ports, "gateway", port.bus, of_the_group(unit.card))
                if len(theirs) != 1:
                    continue
                near, far = LeadEnd.at(unit.id, unit.name, theirs[0]), LeadEnd.at(transfer.id, transfer.name, port)
                wires = wires_of(near, far, port.bus)
                senses = port.bus == "sense"
                yield Lead(
                    id=f"gateway.{transfer.id}.{port.id.lower()}",
                    kind=LeadKind.GATEWAY,
                    title=f"{unit.name} to {transfer.name}",
                    ends=(near, far),
                    cable="Four cores, insulated for the mains"
                    if senses
                    else "Screened cable, four cores, one twisted pair for the signal",
                    wires=in_colours(wires, MAINS) if senses else wires,
                    lacks=lacking(near, far, port.bus),
                )


def _core_size(ledger: Ledger, loop: Loop | None) -> str:
    """The size of the loop's cores: as it is said, else the least of the card; asked for where what is said is no size."""
    said = ledger.job.site.shutdown_core
    try:
        return read_size(said) if said else loop.core_min if loop else ""
    except GumbootError:
        ledger.gap(
            "site.shutdown_core",
            "links",
            f"Which size have the cores of the loop? {said} is none.",
            "Whether the loop's current comes back",
        )
        return ""


def _loop(ledger: Ledger, unit: InverterSeat, port: DataPort) -> Lead:
    """The rapid-shutdown loop: there and back to the initiator, judged by its resistance."""
    site, loop = ledger.job.site, port.loop
    size = _core_size(ledger, loop)
    where = site.initiator_at
    near = LeadEnd.at(unit.id, unit.name, port)
    far = near.but(place="initiator", title="Initiator", socket=where or "listed emergency switch", is_earthed=False, note="")
    figures: tuple[Figure, ...] = ()
    length = ledger.asked("site.shutdown_loop_m")
    if loop is not None and size:
        thick = ledger.work(
            f"leads.shutdown.{unit.id}.core", "A_core", f"Core of the loop, {size}", area_mm2(size), "mm2", source="astm.b258"
        )
        ledger.ask(
            rules.thick_enough, rules.Core(where=unit.id, size=size, area=thick, least=loop.core_min, least_mm2=area_mm2(loop.core_min))
        )
        if length is not None:
            ohm = 2 * COPPER * length / thick
            name = f"Resistance of the rapid-shutdown loop of {unit.name}"
            around = ledger.work(
                f"leads.shutdown.{unit.id}.ohm", "R_loop", name, ohm, "ohm", source="physics", limits="There and back, at 20 °C."
            )
            most = ledger.read(unit.card, f"data_ports.{port.id}.loop.ohm_max")
            ledger.keep(COPPER)
            ledger.ask(rules.loop_comes_back, rules.Loop(where=unit.id, ohm=around, most=most))
            figures = (around,)
    return Lead(
        id=f"shutdown.{unit.id}",
        kind=LeadKind.SHUTDOWN,
        title=f"Rapid-shutdown loop of {unit.name}",
        ends=(near, far),
        cable=f"Two cores, {size}" if size else "Two cores",
        wires=in_colours(wires_of(near, far, "12 V")),
        length=length,
        first=f"{loop.bridge}: out before the loop is wired, or the initiator does nothing." if loop and loop.bridge else "",
        figures=figures,
    )


def loop_leads(ledger: Ledger) -> Iterator[Lead]:
    """The rapid-shutdown loop of each inverter that has a socket for it, where the house has rapid shutdown."""
    if ledger.job.site.rapid_shutdown is not True:
        return
    for unit in ledger.house.whole.seats.inverters:
        ports = meant_for(unit.card.data_ports, "shutdown", "12 V")
        if len(ports) == 1:
            yield _loop(ledger, unit, ports[0])


def contact_leads(ledger: Ledger) -> Iterator[Lead]:
    """The start of each generator, and the network's demand-response lead."""
    house = ledger.house.whole
    for generator in house.seats.generators:
        unit = house.inverter(generator.thing.feeds)
        ports = meant_for(unit.card.data_ports, "generator start", "dry contact")
        if len(ports) != 1:
            continue
        near = LeadEnd.at(unit.id, unit.name, ports[0])
        theirs = meant_for(generator.card.data_ports, "generator start", "dry contact")
        far = LeadEnd.at(generator.id, generator.name, theirs[0]) if theirs else LeadEnd(place=generator.id, title=generator.name)
        yield Lead(
            id=f"start.{generator.id}",
            kind=LeadKind.START,
            title=f"Start of {generator.name}",
            ends=(near, far),
            cable="Two cores",
            wires=in_colours(wires_of(near, far, "dry contact")) if theirs else (),
            lacks=() if theirs else (f"the card of {generator.card.title} names no start terminals",),
        )
    if not ledger.job.site.demand_response:
        return
    lead = house.lead
    for port in meant_for(lead.card.data_ports, "demand response", "dry contact")[:1]:
        near = LeadEnd.at(lead.id, lead.name, port)
        far = near.but(place="network-box", title="Network's receiver", socket="demand-response output", pins=straight(port))
        yield Lead(
            id=f"demand.{lead.id}", kind=LeadKind.DEMAND, title=f"Demand response to {lead.name}", ends=(near, far),
            cable="Network cable, straight through", wires=wires_of(near, far, "dry contact"),
        )  # fmt: skip


WAYS = {"wired": "wired", "wifi": "wireless", "mobile": "by mobile card"}


def network_leads(ledger: Ledger) -> Iterator[Lead]:
    """How each island's leader comes to the network that the place has."""
    way = ledger.job.site.internet
    if way is None or way == "none":
        return
    for part in ledger.islands:
        lead = part.house.lead
        net = lead.card.network
        told = (
            f"Address {'given by the router' if ledger.job.site.network_address == 'given' else 'fixed: write it down with the account'}."
        )
        fits = net is not None and way in net.ways
        ledger.ask(
            rules.joins_the_network, rules.Reached(where=lead.id, title=lead.card.title, way=WAYS[way], told=net is not None, fits=fits)
        )
        part_words = net.part if net is not None else ""
        yield Lead(
            id=f"network.{lead.id}",
            kind=LeadKind.NETWORK,
            title=f"{lead.name} to the network, {WAYS[way]}",
            ends=(
                LeadEnd(place=lead.id, title=lead.name, socket=part_words),
                LeadEnd(place="network", title="Mobile network" if way == "mobile" else "House router", under=WAYS[way]),
            ),
            cable="Ready-made network lead" if way == "wired" else "",
            first=net.needs if net is not None else "",
            told=" ".join(words for words in (net.pairing if net is not None else "", told) if words),
        )
