"""Does each face have a place for the modules planned on it, and is their power accepted?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.card import ModuleCard
from gumboot.core.expression import Expression, total
from gumboot.core.figure import Figure, constant
from gumboot.core.job.model import Face, String
from gumboot.core.ledger import Ledger
from gumboot.core.plan.places import places
from gumboot.core.rules import strings as rules
from gumboot.core.seats import Converter
from gumboot.core.workbook import Workbook

USUAL_RATIO = constant("r_max", "DC to AC ratio, usual to", 1.35, "", "cp.dcac")


def face_holds(w: Workbook, face: Face, module: ModuleCard | None) -> Figure:
    """Places on a roof face."""
    return w.work(
        f"faces.{face.id}.holds",
        "n_face",
        f"Places on {face.title.lower()}",
        float(places(face, module)),
        "",
        source="cp.clear",
        limits="Whole modules between the setbacks and clear of obstacles, packed by rows; columns and rows where no size is entered.",
    )


def on_face(w: Workbook, face: Face, module: ModuleCard | None, wanted: int) -> rules.OnFace:
    """Modules wanted on a face against its places."""
    field = f"faces.{face.id}.{'columns' if face.width_mm is None else 'width_mm'}"
    return rules.OnFace(title=face.title, wanted=wanted, places=face_holds(w, face, module), field=field)


def check_faces(ledger: Ledger) -> None:
    """Every face against the modules planned on it."""
    for face in ledger.job.faces:
        wanted = sum(s.modules for s in ledger.job.strings if s.face == face.id)
        ledger.ask(rules.face_holds, on_face(ledger, face, ledger.seats.module_or_none(face.id), wanted))


def _watts(ledger: Ledger, strings: Sequence[String]) -> Expression:
    """Power of the modules of some strings, card by card."""
    by_card: dict[str, list[String]] = {}
    for s in strings:
        by_card.setdefault(ledger.seats.module_on(s.face).id, []).append(s)
    parts: list[Expression] = []
    for own in by_card.values():
        counts = [ledger.decided_of(s, f"strings.{s.id}.modules") for s in own]
        parts.append(total(counts, counts[0]) * ledger.read(ledger.seats.module_on(own[0].face), "power_w"))
    return total(parts, parts[0])


def _each_accepts(ledger: Ledger, holding: dict[str, Converter]) -> None:
    """Where several inverters take PV, each against its own strings: what one could still take does not help another."""
    for place, card in holding.items():
        own = [s for at in ledger.house.inputs if at.place == place for s in ledger.house.strings_on(at)]
        if own:
            power = ledger.work(f"strings.power_{place}", "P_pv", f"PV power of {place}", _watts(ledger, own), "W", source="arith")
            ledger.ask(rules.array_power, rules.Array(power=power, most=ledger.read(card, "pv_max_w"), where=place))
            _check_ratio(ledger, place, power, card)


def _check_ratio(ledger: Ledger, place: str, power: Figure, card: Converter, key: str = "") -> None:
    """Module power on one inverter against its output."""
    ratio, name = power / ledger.read(card, "output_w"), f"DC to AC ratio of {place}"
    figure = ledger.work(f"strings.dc_ac{key or f'_{place}'}", "r", name, ratio, "", source="cp.dcac")
    ledger.ask(rules.usual_ratio, rules.Ratio(ratio=figure, most=ledger.keep(USUAL_RATIO), where=place))


def array_power(ledger: Ledger) -> Figure:
    """Power of all modules, judged against what the inverters accept."""
    holding: dict[str, Converter] = {at.place: at.converter for at in ledger.house.inputs}
    power = ledger.work("strings.power", "P_pv", "PV power", _watts(ledger, ledger.job.strings), "W", source="arith")
    if len(holding) > 1:
        _each_accepts(ledger, holding)
        return power
    for place, card in holding.items():
        ledger.ask(rules.array_power, rules.Array(power=power, most=ledger.read(card, "pv_max_w")))
        _check_ratio(ledger, place, power, card, "_all")
    # Without an input each string has said so already.
    return power
