"""Demo houses with some of their answers turned, always the same: what plan and studies then say is kept by its marks.

A demo house is a good house, so most of what a rule says of a bad one is never said. Here a few answers of each are others: half as
long, of another kind, not given, on another card. ``python -m tests.turned d2-schoolhouse 3`` prints every line behind the marks of one,
``python -m tests.keep`` writes all marks anew.
"""

from __future__ import annotations

import hashlib
import json
import random
import sys
from collections.abc import Iterator
from functools import cache
from typing import Any

from pydantic import ValidationError

from gumboot.catalogue import demo_house, shelf
from gumboot.core.errors import GumbootError
from gumboot.core.job import Job, leaves, write_path
from gumboot.core.job.fields import field_at
from gumboot.core.job.patch import BadPath
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.study.alternatives import alternatives
from gumboot.core.study.compare import compare
from gumboot.core.study.growth import helps_power, room_to_grow
from tests.helpers import bank_each, beside, edited
from tests.kept import HOUSES, TURNED, picked, spelled, told, yearly

TURNS, STUDIED_TURNS, ANSWERS = 8, 1, 6
SIZES = {"nec-2023": ("12 AWG", "6 AWG", "1/0 AWG", "250 kcmil"), "": ("4 mm2", "10 mm2", "25 mm2", "70 mm2")}
# What would leave nothing of the house to judge, or only changes words.
LEFT_ALONE = ("rule_book", "title", "customer", "address", "equipment.module")


# Beside the demo houses: one bank to each of two inverters, two systems on one main board, an optimiser behind each module.
MADE = {
    "two-banks": lambda: bank_each("g01-cooperage"),
    "two-islands": lambda: beside("d1-saltmarsh", "k07-ridge")[0],
    "optimised": lambda: edited({"equipment.optimiser": "ripple-o"}).model_dump(mode="json"),
}
TURNED_HOUSES = (*HOUSES, *MADE)


def document_of(house: str) -> dict[str, Any]:
    """The document of a house before its answers are turned."""
    made: dict[str, Any] = MADE[house]() if house in MADE else demo_house(house).model_dump(mode="json")
    return made


def _other(job: Job, path: str, value: Any, rng: random.Random) -> Any:
    """Another answer that the field might take; the same one where there is none."""
    field = field_at(job, path)
    if field.kind in ("flag", "yes or no"):
        return not value
    if field.kind == "choice":
        return rng.choice([c for c in field.choices if c != value] or [value])
    if field.kind in ("number", "whole"):
        if field.may_be_empty and value is not None and rng.random() < 0.15:
            return None
        made = rng.choice((0.45, 0.8, 1.3, 2.2)) * value if value else rng.choice((1, 4, 30))
        return round(made) if field.kind == "whole" else round(made, 3)
    if path.endswith(("_size", "_earth")):
        return rng.choice(SIZES.get(job.rule_book, SIZES[""]))
    if path.endswith(".card") or path.startswith("equipment."):
        cards = shelf()
        kind = cards[value].kind if value in cards else path.rpartition(".")[2]
        return rng.choice(sorted(c.id for c in cards.values() if c.kind == kind) or [value])
    return value


def drawn(house: str, n: int) -> list[tuple[str, Any]]:
    """Some answers of a demo house to be turned: to draw up the file of them once more, when there is a reason to."""
    rng, document = random.Random(f"{house} {n}"), document_of(house)
    paths = [path for path, _ in leaves(document) if not path.startswith("cards") and not path.endswith(LEFT_ALONE)]
    found: list[tuple[str, Any]] = []
    while len(found) < ANSWERS:
        path = rng.choice(paths)
        present = dict(leaves(document)).get(path)
        try:
            value = _other(Job.model_validate(document), path, present, rng)
            changed = write_path(document, path, value)
            derive(Job.model_validate(changed), shelf())
        except (BadPath, ValidationError, GumbootError):
            continue
        if value != present:
            document = changed
            found.append((path, value))
    return found


@cache
def _answers(house: str) -> list[list[tuple[str, Any]]]:
    found: list[list[tuple[str, Any]]] = json.loads((TURNED / f"{house}.json").read_text(encoding="utf-8"))
    return found


def turned(house: str, n: int) -> Job:
    """A demo house with some answers turned; an answer that it can no longer take stays as it was."""
    document = document_of(house)
    for path, value in _answers(house)[n]:
        try:
            changed = write_path(document, path, value)
            Job.model_validate(changed)
        except (BadPath, ValidationError):
            continue
        document = changed
    return Job.model_validate(document)


def compared_with(before: Plan, after: Plan) -> Iterator[str]:
    """How a plan differs from the one before its answers were turned."""
    found = compare(before, after)
    yield f"compared {found.same_figures} | {[(d.path, d.before, d.after) for d in found.decisions]}"
    for x in found.figures:
        yield f"compared {x.key} | {spelled(x.before)} | {spelled(x.after)}"
    for which, findings in (("gone", found.gone), ("come", found.come)):
        yield from (f"compared {which} {f.code} {f.where}" for f in findings)
    for amount in found.material:
        yield f"compared {amount.item.item} | {amount.before:.6g} {amount.after:.6g} {amount.item.unit}"


def light_studies(plan: Plan) -> Iterator[str]:
    """Year, picks, other sizes of some circuits, and growth."""
    yield from yearly(plan)
    yield from picked(plan)
    for circuit in list(plan.circuits.sized)[:3]:
        for other in alternatives(plan, circuit):
            yield f"size {circuit} {other.size} | {other.pulled} | {other.copper_kg:.6g} | {sorted(f.key for f in other.breaks)}"
    for bank in plan.seats.banks:
        for room in room_to_grow(plan, bank.id):
            yield f"room {room.bank} | {room.limit} | {room.more} | {room.why}"
        yield f"power {bank.id} | {helps_power(plan, bank.id)}"


def lines_of(house: str, n: int) -> Iterator[str]:
    """Everything that a turned house says."""
    try:
        plan = derive(turned(house, n), shelf())
    except GumbootError as refused:
        yield f"refused {refused}"
        return
    yield from told(plan)
    for gap in plan.gaps:
        yield f"gap {gap.path} | {gap.station} | {gap.question} | {gap.holds_up}"
    yield from compared_with(derive(Job.model_validate(document_of(house)), shelf()), plan)
    if n < STUDIED_TURNS:
        yield from light_studies(plan)


def marks_of(house: str) -> Iterator[str]:
    """Of each turned house its findings, and by kind of line how many there are and a mark of what they say."""
    for n, answers in enumerate(_answers(house)):
        yield f"{n} | {' | '.join(f'{path} = {value}' for path, value in answers)}"
        kinds: dict[str, list[str]] = {}
        for line in lines_of(house, n):
            kinds.setdefault(line.partition(" ")[0], []).append(line)
        for finding in kinds.pop("finding", []):
            yield f"{n} {' | '.join(finding.split(' | ')[:4])}"
        for kind, lines in kinds.items():
            mark = hashlib.sha256("\n".join(lines).encode()).hexdigest()[:12]
            yield f"{n} {kind} {len(lines)} {mark}"


def main() -> None:
    """Print what a turned house says, or draw up the answers of all anew: ``python -m tests.turned --anew``."""
    if sys.argv[1:] == ["--anew"]:
        for house in TURNED_HOUSES:
            # The first of a made house is as it is made.
            answers = [[] if house in MADE and n == 0 else drawn(house, n) for n in range(TURNS)]
            rows = ",\n".join(json.dumps(row) for row in answers)
            (TURNED / f"{house}.json").write_text(f"[\n{rows}\n]\n", encoding="utf-8")
    else:
        print("\n".join(lines_of(sys.argv[1], int(sys.argv[2]))))


if __name__ == "__main__":
    main()
