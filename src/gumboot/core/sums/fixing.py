"""Does the screw hold, what is this torque in the other unit, how stand the switches, which pin goes where?"""

from __future__ import annotations

import re

from gumboot.core.errors import BadUnit, OutOfRange
from gumboot.core.figure import Figure
from gumboot.core.plan.links import T568B, dip_positions
from gumboot.core.plan.wall.fixing import Hung, Screws, screw_use
from gumboot.core.rulebook.common.signals import meaning
from gumboot.core.rules import leads
from gumboot.core.rules import wall as wall_rules
from gumboot.core.sums.ask import Ask, count, quantity, told, words
from gumboot.core.units import NM_PER_LBF_FT, NM_PER_LBF_IN
from gumboot.core.workbook import Workbook

_PIN = re.compile(r"^\s*(\d)\s*[:=]\s*(.+?)\s*$")


class AnchorLoad(Ask):
    """Use of the top screws that hold a box on timber."""

    mass: float = quantity("kg", "Weight of the box", symbol="m", gt=0, le=1000)
    depth: float = quantity("mm", "Depth of the box", symbol="d", gt=0, le=2000)
    height: float = quantity("mm", "Top screws above the box's lower edge", symbol="h", gt=0, le=5000)
    screws: int = count("Screws in timber", symbol="n", ge=1, le=40)
    top: int = count("Screws in the top row", symbol="n_t", ge=1, le=40)
    diameter: float = quantity("mm", "Screw diameter", symbol="D", gt=2, le=20)
    length: float = quantity("mm", "Screw length", symbol="L", gt=10, le=300)
    through: float = quantity("mm", "Board and bracket that it goes through", symbol="b", ge=0, le=200)
    gravity: float = quantity("", "Specific gravity of the timber", symbol="G", gt=0.3, lt=0.8)
    shear: float = quantity("N", "Allowable shear of one screw, by its maker", symbol="Z", gt=0)


def anchor_load(w: Workbook, q: AnchorLoad) -> Figure:
    """Use of the top screws; 1 is full."""
    hung = Hung(
        mass=told(w, q, "mass"), depth=told(w, q, "depth"), arm=told(w, q, "height"), n_all=told(w, q, "screws"), n_top=told(w, q, "top")
    )
    screws = Screws(
        gravity=told(w, q, "gravity"),
        diameter=told(w, q, "diameter"),
        length=told(w, q, "length"),
        through=told(w, q, "through"),
        lateral=told(w, q, "shear"),
    )
    ratio = screw_use(w, "anchor", "anchor", hung, screws)
    if ratio is None:
        raise OutOfRange("screw length", f"{q.length:g} mm", f"more than {q.through:g} mm", "NDS 2018 12.2", "Use a longer screw.")
    w.ask(wall_rules.screws_hold, wall_rules.Held(box="the box", used=ratio, field=""))
    return ratio


class Torque(Ask):
    """A torque in every unit that labels print."""

    torque: float = quantity("N m", "Torque", symbol="M", gt=0, le=2000)


def torque(w: Workbook, q: Torque) -> Figure:
    """Torque in N m, with lbf in and lbf ft beside it, exact by definition."""
    nm = told(w, q, "torque")
    w.work("lbf_in", "M_in", "In pound-force inches", nm / NM_PER_LBF_IN, "lbf in", source="nist.811")
    w.work("lbf_ft", "M_ft", "In pound-force feet", nm / NM_PER_LBF_FT, "lbf ft", source="nist.811")
    return w.work("nm", "M_Nm", "In newton metres", nm, "N m", source="nist.811", label=f"{q.torque:.2f} N m")


class DipAddress(Ask):
    """Positions of the DIP switches for an address."""

    address: int = count("Address", symbol="a", ge=0, le=255)
    switches: int = count("Switches of the block", ge=1, le=8)


def dip_address(w: Workbook, q: DipAddress) -> tuple[Figure, tuple[str, ...]]:
    """The address, with each switch as a line."""
    if q.address >= 2**q.switches:
        raise OutOfRange("address", q.address, f"0 to {2**q.switches - 1}", f"{q.switches} switches", "Use a smaller address.")
    places = dip_positions(q.address, q.switches)
    binary = "".join("1" if on else "0" for on in reversed(places))
    limits = f"In binary {binary}: switch 1 is the least."
    figure = w.work("dip", "a_set", "Address set", told(w, q, "address"), "", source="cp.dip", limits=limits)
    return figure, tuple(f"switch {i + 1}: {'on' if on else 'off'}" for i, on in enumerate(places))


class PinOut(Ask):
    """Which core joins which pins."""

    first: str = words("text", "Pins of the first socket, such as 1:GND 4:CAN H 5:CAN L", min_length=3, max_length=300)
    second: str = words("text", "Pins of the second socket", min_length=3, max_length=300)


def _pins(text: str) -> dict[str, int]:
    found: dict[str, int] = {}
    for part in filter(None, re.split(r"[,;\n]\s*|\s+(?=\d\s*[:=])", text.strip())):
        match = _PIN.match(part)
        if match is None or not 1 <= int(match.group(1)) <= 8:
            raise BadUnit(f"'{part.strip()}' is no pin. Write 4:CAN H, pins 1 to 8, with spaces or commas between.")
        signal = meaning(match.group(2))
        if signal in found or int(match.group(1)) in found.values():
            raise BadUnit(f"'{part.strip()}' stands twice. Give every pin and every signal once.")
        found[signal] = int(match.group(1))
    return found


def pin_out(w: Workbook, q: PinOut) -> tuple[Figure, tuple[str, ...]]:
    """Cores of the lead, each with both pins and its colour at the first plug (T568B)."""
    first, second = _pins(q.first), _pins(q.second)
    shared = [signal for signal in first if signal in second]
    lines = [f"{signal}: pin {first[signal]} to pin {second[signal]}, {T568B[first[signal]]}" for signal in shared]
    alone = sorted((set(first) | set(second)) - set(shared))
    w.ask(leads.lead_joins_like, leads.Lead(where="lead", alone=alone, joins_any=bool(shared), field=""))
    figure = w.work(
        "cores",
        "n",
        "Cores of the lead",
        float(len(shared)),
        "",
        source="tia.568",
        limits="Like signals are joined; colours by the first plug, T568B.",
    )
    return figure, tuple(lines)
