"""What each demo house's plan says, line by line, kept so that a change nobody meant is seen: ``python -m tests.kept`` writes it anew.

A change that is meant shows in the difference of these files, to be read like any other.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from gumboot.catalogue import demo_house, demo_houses, shelf
from gumboot.core.figure import Figure
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.plan.prove import Check
from gumboot.core.study.materials import materials
from gumboot.drawing import single_line

KEPT = Path(__file__).parent / "documents" / "plans"
HOUSES = [path.name.removesuffix(".gumboot.json") for path in demo_houses()]


def _key(figure: Figure | None) -> str:
    return figure.key if figure else ""


def _check(c: Check) -> str:
    return (
        f"check {c.id} | {c.station} | {c.title} | {c.unit} | {_key(c.low)} | {_key(c.high)} | {_key(c.expected)} | {c.code} | {c.measures}"
    )


def told(plan: Plan) -> Iterator[str]:
    """Every figure, finding, landing, check, step, setting, hole, label, item and circuit of a plan, one a line."""
    for key, f in sorted(plan.figures.items()):
        yield f"figure {key} | {f.value:.9g} {f.unit} | {f.source} | {f.label} | {f.formula}"
    for x in plan.findings:
        parts = (x.level, x.station, x.where, x.text, x.act, x.source, _key(x.found), _key(x.limit), x.field)
        yield f"finding {x.code} | {' | '.join(parts)}"
    for t in plan.terminations:
        band = f"{_key(t.torque)} | {_key(t.torque_low)} | {_key(t.torque_high)}"
        yield f"landing {t.id} | {t.size} | {t.colour} | {t.preparation} | {band} | {t.live_method}"
    yield from map(_check, plan.all_checks())
    for s in plan.power_up.steps:
        yield f"step {s.id} | {s.title} | {s.move} {s.opens} | {s.holds} | {s.lands} | {s.needs} | {_key(s.figure)}"
    for switch in plan.power_up.line.switches:
        yield f"switch {switch}"
    for row in plan.settings.sheet:
        yield f"setting {row.key} | {row.title} | {_key(row.figure)} | {row.text} | {row.guards}"
    for wall in plan.walls:
        for hole in (h for box in wall.boxes for h in box.holes):
            yield f"hole {hole.box} {hole.id} | {hole.x_mm.value:g} {hole.y_mm.value:g} | {hole.stud_x_mm} | {hole.hits}"
    for label in plan.labels:
        yield f"label {label.place} | {label.text} | {label.source}"
    for unit in (unit for bus in plan.links.buses for unit in bus.chain):
        yield f"link {unit.unit.id} | {unit.wanted_address} | {unit.wanted_dip} | {unit.wants_terminator}"
    for z in plan.circuits.sized.values():
        yield f"circuit {z.circuit.id} | {z.size} | {z.earth_size} | {_key(z.device)} | {z.circuit.kind} {z.circuit.owner}"
    for item in materials(plan).items:
        yield f"item {item.group} | {item.item} | {item.quantity:g} {item.unit} | {item.where}"
    for words in sorted(shape.words for shape in single_line.canvas(plan).shapes if shape.words):
        yield f"drawn {words}"


def main() -> None:
    """Write what every house says now."""
    KEPT.mkdir(exist_ok=True)
    for house in HOUSES:
        text = "\n".join(told(derive(demo_house(house), shelf()))) + "\n"
        (KEPT / f"{house}.txt").write_text(text, encoding="utf-8")


if __name__ == "__main__":
    main()
