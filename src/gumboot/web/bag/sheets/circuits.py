"""Circuits in the hand: each run with its sizes, the fault current at each place, each label."""

from __future__ import annotations

from collections.abc import Iterator

from gumboot.core.plan.circuits.parts import Sized
from gumboot.drawing import show
from gumboot.web.bag.pictures import LINE, Look
from gumboot.web.bag.sheets.parts import Fact, Field, Sheet, fields
from gumboot.web.page_words import sizes_of
from gumboot.web.stations.circuits.view import CircuitsView, Laid, Run, view_of
from gumboot.web.view import Bench

OF_RUN = (("length_m", "Length"), ("ambient_c", "Hottest air along it"))
OF_WAY = (
    ("method", "Laid by method"),
    ("circuits_together", "Circuits together"),
    ("current_carrying", "Current-carrying with it"),
    ("residual_ma", "Residual device"),
    ("curve", "Breaker curve"),
    ("raceway_size", "Raceway size"),
)


def _sized(z: Sized, maker: str) -> Iterator[Fact]:
    yield Fact("Carries", z.demand.design_a)
    if z.device is not None:
        yield Fact("Device", z.device)
    else:
        yield Fact("Device", None, f"none: {z.demand.device_place}" if z.demand.device_place else "none")
    yield Fact("By the code", z.code_size)
    if maker != "–":
        yield Fact("The maker's least", None, maker)
    yield Fact("Pulled", z.installed)
    yield Fact("Ampacity, as laid", z.ampacity)
    if z.earth is not None:
        yield Fact("Earth", z.earth)
    yield Fact("Voltage drop", z.drop_pct)


def _says(b: Bench, run: Run) -> str:
    if run.sized is None:
        return "waits: " + " ".join(run.waits)
    sets = f"{run.sized.run.sets} × " if run.sized.run.sets > 1 else ""
    device = f", {show.figure_text(run.sized.device, b.system)}" if run.sized.device is not None else ""
    return f"{sets}{show.figure_text(run.sized.installed, b.system)}{device}"


def _run(b: Bench, run: Run, laid: Laid | None) -> Sheet:
    sizes, asked = sizes_of(b), fields(b, run.at, OF_RUN)
    if laid is not None:
        asked = (
            *asked,
            Field(f"{run.at}.installed_size", "Size pulled", sizes, "by the plan"),
            *([Field(f"{run.at}.installed_earth", "Earth pulled", sizes, "by the plan")] if laid.has_earth_size else []),
            *([Field(f"{run.at}.device_a", "Device")] if laid.has_device else []),
            *[field for field in fields(b, run.at, OF_WAY) if laid.is_ac or not field.path.endswith(("curve", "residual_ma"))],
        )
    return Sheet(
        name=run.circuit.id,
        title=run.circuit.title,
        says=_says(b, run),
        facts=tuple(_sized(run.sized, run.maker_min)) if run.sized is not None else (),
        fields=tuple(field for field in asked if b.has(field.path)),
        looks=(Look(LINE, (run.circuit.id, run.circuit.source, run.circuit.load)),),
        names=(run.circuit.id,),
        is_open=run.sized is None,
    )


def _faults(v: CircuitsView) -> Sheet:
    rows = (
        Fact(f"{x.places}, {x.side}", x.amps, "" if x.amps else f"not known: {x.silent} says nothing of its fault current")
        for x in v.faults
    )
    return Sheet(
        name="faults",
        title="Fault current at each place",
        says="what a device there must break",
        facts=tuple(rows),
        looks=(Look(LINE, ("main-board", "inverter")),),
    )


def sheets(b: Bench) -> Iterator[Sheet]:
    """The sheets of Circuits."""
    v = view_of(b)
    laid = {x.circuit.id: x for x in v.laid}
    yield from (_run(b, run, laid.get(run.circuit.id)) for run in v.runs)
    busbar = (Fact("On the busbar of the main board", v.busbar), Fact("At most", v.busbar_limit)) if v.busbar and v.busbar_limit else ()
    if busbar:
        yield Sheet(
            "busbar", "Main board", "the busbar rule", facts=busbar, looks=(Look(LINE, ("main-board",)),), names=("main-board", "busbar")
        )
    yield _faults(v)
    for n, label in enumerate(v.labels):
        yield Sheet(
            name=f"label-{n + 1}",
            title=f"Label: {label.place}",
            says=label.text,
            group="Labels to make",
            see=f"{label.text} ({label.clause})",
            facts=tuple(Fact(f.name, f) for f in label.figures),
        )
