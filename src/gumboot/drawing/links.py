"""The battery bus unit by unit: ports, switches, terminators, and the lead's pin-out."""

from __future__ import annotations

from collections.abc import Sequence

from markupsafe import Markup

from gumboot.core.plan.derive import Plan
from gumboot.core.plan.links import BatteryBus, ChainUnit, GroupLink, ModbusLine, places_told
from gumboot.drawing.show import figure_text
from gumboot.drawing.svg import Canvas, shortened, text_width

# Units side by side before the chain turns into another row, and how far down that row is, in viewBox units.
IN_A_ROW, ROW = 4, 156
PER_ROW = 4
# Room below for how the switches stand while a protocol is chosen.
PROGRAMMING = 56


def _dip(c: Canvas, x: float, y: float, wanted: Sequence[bool], stand: Sequence[bool]) -> None:
    for k, (want, have) in enumerate(zip(wanted, stand, strict=True)):
        sx = x + k * 17
        wrong = want != have
        c.rect(sx, y, 13, 26, "oxide-wash" if wrong else "white", "oxide" if wrong else "ink", 1.4)
        c.rect(sx + 2, y + (2 if have else 13), 9, 11, "oxide" if wrong else "ink", None)
        c.text(sx + 6.5, y + 38, str(k + 1), 10, "middle", "pencil", mono=True)
    if stand:
        c.text(x - 6, y + 9, "on", 10, "end", "pencil")


def _unit(c: Canvas, unit: ChainUnit, at: tuple[float, float], width: float) -> None:
    """One battery: its switches, protocol and terminator."""
    x, y = at
    c.anchor(unit.unit.id, x + width / 2, y + 59)
    c.rect(x, y, width, 118, "white", "ink", 1.8)
    _dip(c, x + 30, y + 30, unit.wanted_dip or unit.set_dip, unit.set_dip)
    c.text(x + 10, y + 86, f"protocol {unit.unit.protocol}", 11, ink="pencil", mono=True)
    wrong = unit.unit.terminator != unit.wants_terminator
    if unit.unit.terminator or wrong:
        words = "terminator in" if unit.unit.terminator else "terminator missing"
        c.text(x + 10, y + 108, words, 12, ink="oxide" if wrong else "green", bold=wrong)


def bus_drawing(plan: Plan) -> Markup:
    """Every battery bus."""
    return Markup("").join(bus_of(bus) for bus in plan.links.buses)


def bus_of(links: BatteryBus) -> Markup:
    """The bus of one bank; nothing where the card has no socket for it."""
    drawn = bus_canvas(links)
    return drawn.render() if drawn is not None else Markup("")


def bus_canvas(links: BatteryBus) -> Canvas | None:
    """Inverter and batteries of one bank in chain order; None where the card has no socket for the link."""
    if links.inverter_port is None or links.pair_ohm is None:
        return None
    n = len(links.chain)
    across, down = min(n, IN_A_ROW), (n - 1) // IN_A_ROW * ROW
    c = Canvas(f"bus{links.mark}", 728, 190 + down + (PROGRAMMING if links.programming else 0), f"The battery bus{links.of}, unit by unit")
    width = min(150.0, (728 - 152 - 22 * (across - 1) - (16 if down else 0)) / across)
    c.rect(2, 36, 118, 118, "white", "ink", 1.8)
    c.text(61, 58, shortened(links.inverter.thing.title or "Inverter", 13, 110, bold=True), 13, "middle", bold=True)
    c.text(61, 76, links.inverter_port.title, 11, "middle", "pencil")
    c.text(61, 96, f"protocol {links.protocol.number}" if links.protocol else "no protocol", 12, "middle", mono=True)
    c.text(61, 112, links.protocol.name if links.protocol else "", 11, "middle", "pencil")
    c.text(61, 142, "terminator inside", 11, "middle", "green")
    words = [
        (unit.unit.id if unit.set_dip or n > 1 else "Stack", f"address {unit.unit.dip_address}" if unit.set_dip else "no address")
        for unit in links.chain
    ]
    # A long name has the line to itself: every address then stands above its box.
    long = any(text_width(name, 13, bold=True) + text_width(address, 12, mono=True) > width - 20 for name, address in words)
    for i, (unit, (name, address)) in enumerate(zip(links.chain, words, strict=True)):
        row, place = divmod(i, IN_A_ROW)
        nx, top = 150 + place * (width + 22), row * ROW
        if place:
            c.path([(nx - 22, top + 64), (nx, top + 64)], "blue", 3)
        elif row:
            turn = 150 + across * (width + 22) - 12
            c.path(
                [(turn - 10, top - ROW + 64), (turn, top - ROW + 64), (turn, top + 10), (135, top + 10), (135, top + 64), (nx, top + 64)],
                "blue",
                3,
            )
        else:
            c.path([(120, 64), (nx, 64)], "blue", 3)
            c.text(135, 56, "lead", 10, "middle", "pencil")
        _unit(c, unit, (nx, top + 36), width)
        c.text(nx + 10, top + 56, shortened(name, 13, width - 16, bold=True), 13, bold=True)
        astray = unit.wanted_dip and unit.unit.dip_address != unit.wanted_address
        c.text(nx + width - 8, top + (28 if long else 56), address, 12, "end", "oxide" if astray else "ink", mono=True)
    with c.opens(links.pair_ohm.key, f"Across the dead pair: {figure_text(links.pair_ohm)}"):
        c.text(2, 180 + down, f"{figure_text(links.pair_ohm)} across the dead {links.inverter_port.bus} pair", 13, mono=False, bold=True)
    c.text(320, 180 + down, "60 both ends · 120 one missing · 40 one too many", 11, ink="pencil")
    if links.programming:
        _dip(c, 32, 198 + down, links.programming, links.programming)
        beside = 32 + 17 * len(links.programming) + 12
        # Lines short enough for a phone's width.
        c.text(beside, 206 + down, f"To choose its protocol: {places_told(links.programming)},", 12, bold=True)
        c.text(beside, 222 + down, "only this battery on; then as above,", 12, ink="pencil")
        c.text(beside, 238 + down, "off and on, and the protocol read back.", 12, ink="pencil")
    return c


def group_drawing(group: GroupLink) -> Markup:
    """The link between the inverters of a group: leader first, with address, phase and terminator of each."""
    n = len(group.units)
    c = Canvas(f"group{group.mark}", 728, 168, "The link between inverters, unit by unit")
    width = min(190.0, (728 - 24 * (n - 1) - 4) / n)
    for i, unit in enumerate(group.units):
        x = 2 + i * (width + 24)
        if i:
            c.path([(x - 24, 58), (x, 58)], "blue", 3)
        thing = unit.seat.thing
        c.rect(x, 26, width, 104, "white", "ink", 1.8)
        c.text(x + width / 2, 46, unit.title, 13, "middle", bold=True)
        words = ("leader" if unit.leads else "follower") + (f", {thing.phase}" if thing.phase else "")
        c.text(x + width / 2, 64, words, 12, "middle", "pencil")
        right = thing.address == unit.wanted_address
        c.text(x + width / 2, 86, f"address {thing.address}", 12, "middle", "ink" if right else "oxide", mono=True, bold=not right)
        wrong = thing.terminator != unit.wants_terminator
        if thing.terminator or wrong:
            said = "terminator in" if thing.terminator else "terminator missing"
            c.text(x + width / 2, 116, said, 12, "middle", "oxide" if wrong else "green", bold=wrong)
    if group.pair_ohm is not None:
        with c.opens(group.pair_ohm.key, f"Across the dead pair: {figure_text(group.pair_ohm)}"):
            c.text(2, 156, f"{figure_text(group.pair_ohm)} across the dead {group.port.bus} pair", 13, bold=True)
    return c.render()


def modbus_drawing(line: ModbusLine) -> Markup:
    """The Modbus line from the inverter on, device by device in the order of the cable, with address, speed and terminators."""
    n = 1 + len(line.devices)
    across = min(PER_ROW, n)
    rows, pitch = -(-n // across), 728 / across
    c = Canvas(f"modbus{line.mark}", 728, 36 + 96 * rows, "The Modbus line, device by device")
    last = len(line.devices) - 1
    for i in range(n):
        row, column = divmod(i, across)
        x, y, width = 2 + column * pitch, 4 + 96 * row, pitch - 24
        if i and column:
            c.path([(x - 24, y + 36), (x, y + 36)], "blue", 3)
        elif i:
            # On to the next row: down beside the last box, and in from the left.
            c.path([(728 - 24, y - 60), (728 - 10, y - 60), (728 - 10, y - 12), (x + 8, y - 12), (x + 8, y)], "blue", 3)
        c.rect(x, y, width, 76, "white", "ink", 1.8)
        if not i:
            c.text(x + width / 2, y + 18, shortened(line.inverter.name, 13, width - 12, bold=True), 13, "middle", bold=True)
            c.text(x + width / 2, y + 36, "asks", 12, "middle", "pencil")
            c.text(x + width / 2, y + 68, "terminator in", 12, "middle", "green")
            continue
        device, at_end = line.devices[i - 1], i - 1 == last
        c.text(x + width / 2, y + 18, shortened(device.title, 13, width - 12, bold=True), 13, "middle", bold=True)
        told = "address ?" if device.address is None else f"address {device.address}"
        twice = device.address is None or sum(d.address == device.address for d in line.devices) > 1
        c.text(x + width / 2, y + 36, told, 12, "middle", "oxide" if twice else "ink", mono=True, bold=twice)
        c.text(x + width / 2, y + 52, device.speed, 11, "middle", "pencil", mono=True)
        if device.terminator or at_end:
            said = "terminator in" if device.terminator else "terminator missing"
            wrong = device.terminator != at_end
            c.text(x + width / 2, y + 68, said, 12, "middle", "oxide" if wrong else "green", bold=wrong)
    with c.opens(line.pair_ohm.key, f"Across the dead pair: {figure_text(line.pair_ohm)}"):
        c.text(2, 22 + 96 * rows, f"{figure_text(line.pair_ohm)} across the dead pair", 13, bold=True)
    return c.render()
