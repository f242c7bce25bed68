"""What another checkout derives from the demo houses and this one does not: ``python scripts/snapshot.py ../other``.

Figures by key, findings by rule and place, gaps by path. Values may differ in the last digits. What differs is printed by kind,
each with its first examples; ``--all`` prints every one, ``--values`` leaves out how inputs are called and workings are written. The other checkout is read with this Python and its own sources.
"""

from __future__ import annotations

import json
import math
import os
import subprocess
import sys
from collections import defaultdict
from pathlib import Path
from typing import Any

HERE = Path(__file__).resolve().parents[1]
SHOWN = 6
ASK = """
import json, sys
from gumboot.catalogue import demo_house, demo_houses, shelf
from gumboot.core.plan.derive import derive
out = {}
for path in demo_houses():
    name = path.name.removesuffix(".gumboot.json")
    plan = derive(demo_house(name), shelf())
    out[name] = {
        "figures": {
            f.key: {"symbol": f.symbol, "name": f.name, "value": f.value, "unit": f.unit, "source": f.source, "formula": f.formula,
                    "given": sorted(g.key for g in f.given), "label": f.label, "limits": f.limits}
            for f in plan.figures.values()
        },
        "findings": {
            f.key + "#" + f.text: {"code": f.code, "level": f.level, "station": f.station, "act": f.act, "source": f.source,
                    "field": f.field, "found": f.found and f.found.key, "limit": f.limit and f.limit.key}
            for f in plan.findings
        },
        "gaps": {g.path: {"station": g.station, "question": g.question, "holds_up": g.holds_up} for g in plan.gaps},
        "terminations": {t.id: {"place": t.place, "size": t.size, "colour": t.colour} for t in plan.terminations},
        "checks": {c.id: {"station": c.station, "title": c.title} for c in plan.all_checks()},
        "settings": {s.key: {"title": s.title} for s in plan.settings.sheet},
        "steps": {s.id: {"title": s.title} for s in plan.power_up.steps},
    }
json.dump(out, sys.stdout)
"""


def taken(checkout: Path) -> dict[str, dict[str, dict[str, Any]]]:
    """Everything that a checkout derives from its own demo houses."""
    environment = {**os.environ, "PYTHONPATH": str(checkout / "src")}
    done = subprocess.run([sys.executable, "-c", ASK], env=environment, cwd=checkout, capture_output=True, text=True, check=False)
    if done.returncode:
        sys.exit(f"{checkout} cannot be asked: {done.stderr.strip()[-800:]}")
    return json.loads(done.stdout)  # type: ignore[no-any-return]


def alike(old: Any, new: Any) -> bool:
    """Whether two values are the same, numbers to twelve digits."""
    if isinstance(old, float | int) and isinstance(new, float | int):
        return math.isclose(old, new, rel_tol=1e-12, abs_tol=1e-12)
    return bool(old == new)


WORDS = frozenset({"symbol", "name", "formula"})


def differences(before: dict[str, Any], after: dict[str, Any], left_out: frozenset[str] = frozenset()) -> dict[str, list[str]]:
    """Every difference, by what kind of thing differs in what."""
    found: dict[str, list[str]] = defaultdict(list)
    for house in sorted({*before, *after}):
        if house not in before or house not in after:
            found["house only " + ("here" if house in after else "there")].append(house)
            continue
        for kind, old in before[house].items():
            new = after[house][kind]
            for key in sorted({*old, *new}):
                if key not in old or key not in new:
                    found[f"{kind} only {'here' if key in new else 'there'}"].append(f"{house}: {key}")
                    continue
                for name, value in old[key].items():
                    if name in left_out:
                        continue
                    if not alike(value, new[key][name]):
                        found[f"{kind}: {name}"].append(f"{house}: {key}: {value!r} -> {new[key][name]!r}")
    return found


def main() -> int:
    """Print what differs; 1 when anything does."""
    if len(sys.argv) < 2:
        print(__doc__)
        return 2
    left_out = WORDS if "--values" in sys.argv else frozenset()
    found = differences(taken(Path(sys.argv[1]).resolve()), taken(HERE), left_out)
    for kind, rows in found.items():
        print(f"{kind}: {len(rows)}")
        for row in rows if "--all" in sys.argv else rows[:SHOWN]:
            print(f"  {row}")
    print("alike" if not found else f"{sum(map(len, found.values()))} differences")
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main())
