"""Does each device on a Modbus line answer alone, at one speed, on one line that is ended at its ends?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.rules.facts import Facts
from gumboot.core.rules.lines import Loaded, Shaped, Stub, loaded, one_line, short
from gumboot.core.rules.register import Breach, rule

# Addresses of devices that answer; 0 speaks to all, 248 to 255 are kept (Modbus over serial line 1.02, 2.2).
FIRST, LAST = 1, 247


class Answers(Facts):
    """A device's address, and which device before it on the line has the same; empty for none."""

    device: str
    title: str
    address: int
    taken_by: str = ""

    @property
    def field(self) -> str:
        """Where the address is set."""
        return f"modbus.devices.{self.device}.address"


@rule("MODBUS-ADDRESS")
def answers_alone(a: Answers) -> Breach | None:
    """Each device of a line has an address of its own, from 1 to 247."""
    if not FIRST <= a.address <= LAST:
        text = f"{a.title} is to have address {a.address}; a device answers at {FIRST} to {LAST}."
        return Breach(a.device, text, "Choose a free address and set it in the device.", field=a.field)
    if not a.taken_by:
        return None
    text = f"{a.title} and {a.taken_by} both have address {a.address}: they answer at once, and neither is understood."
    return Breach(a.device, text, "Give one of them a free address, set it in the device, and power-cycle it.", field=a.field)


class Settable(Facts):
    """What a device is to be set to, against what its card says that it takes."""

    device: str
    title: str
    address: int | None
    first: int
    last: int
    speed: str
    speeds: Sequence[str]


@rule("MODBUS-CARD")
def can_be_set(s: Settable) -> Breach | None:
    """Address and speed of a device are among those that its card offers."""
    at = f"modbus.devices.{s.device}"
    if s.address is not None and not s.first <= s.address <= s.last:
        text = f"{s.title} is to have address {s.address}; it can be set to {s.first} to {s.last}."
        return Breach(s.device, text, "Choose an address that it takes.", field=f"{at}.address")
    if s.speed not in s.speeds:
        text = f"{s.title} is to speak at {s.speed}; it offers {', '.join(s.speeds)}."
        return Breach(s.device, text, "Choose a speed that every device of the line offers.", field=f"{at}.speed")
    return None


class Paced(Facts):
    """Speeds of the devices of one line."""

    where: str
    speeds: Sequence[tuple[str, str]]
    field: str


@rule("MODBUS-SPEED")
def one_speed(p: Paced) -> Breach | None:
    """All devices of a line speak at one speed."""
    if len({speed for _, speed in p.speeds}) <= 1:
        return None
    told = ", ".join(f"{title} {speed}" for title, speed in p.speeds)
    return Breach(p.where, f"Speeds differ on one line: {told}.", "Set all of them, and the inverter, to one speed.", field=p.field)


@rule("MODBUS-STAR")
def device_to_device(s: Shaped) -> Breach | None:
    """The cable runs from device to device."""
    return one_line(s)


@rule("MODBUS-STUB")
def short_stub(s: Stub) -> Breach | None:
    """A device hangs no farther off its line than good practice has it."""
    return short(s)


@rule("MODBUS-LOAD")
def driver_bears(x: Loaded) -> Breach | None:
    """No more unit loads than a driver bears."""
    return loaded(x)


class Ended(Facts):
    """Whether a device carries a terminator and whether its place on the line wants one."""

    device: str
    title: str
    fitted: bool
    wanted: bool


@rule("MODBUS-TERMINATOR")
def ended_at_its_ends(e: Ended) -> Breach | None:
    """The two ends of the line are terminated, the inverter being one, and nothing between."""
    if e.fitted == e.wanted:
        return None
    text = (
        f"{e.title} is the last of the line and has no terminator."
        if e.wanted
        else f"{e.title} sits in the middle of the line and carries a terminator."
    )
    return Breach(
        e.device, text, "Terminate the two ends only: the inverter, and the last device.", field=f"modbus.devices.{e.device}.terminator"
    )


class Asked(Facts):
    """A device and the inverter that is to ask it, None where there is none of that name."""

    device: str
    title: str
    inverter: str
    there: bool


@rule("MODBUS-READER")
def somebody_asks(a: Asked) -> Breach | None:
    """The inverter that asks a device is in the house."""
    if a.there:
        return None
    text = f"{a.title} is to be asked by '{a.inverter}', which is no inverter of this house."
    return Breach(a.device, text, "Choose the inverter that asks it, or take it out.", field=f"modbus.devices.{a.device}.inverter")
