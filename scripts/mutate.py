"""Break the core on purpose and see whether its fast tests notice: random mutants, each run against the tests that reach it.

    python scripts/mutate.py --count 300 --seed 1 [--kind code|finding] [--jobs 2] [--out mutants.json] [--again mutants.json]

A mutant lives that no fast test which reaches it notices: the likeliest are asked first, then, where they are content, all others.

Works on copies of the sources in a temporary folder; the checkout is not touched. ``code`` mutants change comparisons, arithmetic,
conditions and constants; ``finding`` mutants change place, cure field, found and limit of a breach, and the source of a figure or rule.
"""

from __future__ import annotations

import argparse
import ast
import copy
import csv
import io
import json
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections import Counter
from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from queue import Queue

ROOT = Path(__file__).parent.parent
CORE = ROOT / "src" / "gumboot" / "core"
WITHIN = ("rulebook", "rules", "plan", "sim", "study")
FAST = ("tests/core", "tests/rules", "tests/properties", "tests/acceptance")
SWAPPED = {ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq, ast.In: ast.NotIn}
SWAPPED |= {ast.NotIn: ast.In, ast.Is: ast.IsNot, ast.IsNot: ast.Is}
TURNED = {ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult}
# Hair's breadths and other tolerances: a mutant there is the same program.
TOLERANCE = 1e-3
# Seconds are those of the run that noted what reaches what, some five times the usual.
MOST_TESTS, MOST_SECONDS, LONGEST_S = 300, 60.0, 120
BROAD = "tests/core/test_kept.py"
OF_HOUSES, OF_STUDIES = f"{BROAD}::test_a_house_says_what_it_said", f"{BROAD}::test_its_studies_say_what_they_said"
BREACH = ("where", "text", "act", "found", "limit", "field", "level", "source")
REACHED = """
import json, os, sys, threading, time
reached, here = {}, {"test": None}
def seen(frame, event, arg):
    code = frame.f_code
    if event == "call" and here["test"] and "/gumboot/core/" in code.co_filename:
        reached.setdefault(code.co_filename.split("/gumboot/core/")[1] + ":" + code.co_name, {}).setdefault(here["test"], 0)
def pytest_runtest_logstart(nodeid, location):
    here["test"] = nodeid
    sys.setprofile(seen)
def pytest_runtest_logfinish(nodeid, location):
    sys.setprofile(None)
    here["test"] = None
def pytest_runtest_logreport(report):
    if report.when == "call":
        for tests in reached.values():
            if report.nodeid in tests:
                tests[report.nodeid] = report.duration
def pytest_sessionfinish(session, exitstatus):
    with open(os.environ["REACHED"], "w") as out:
        json.dump(reached, out)
"""


@dataclass(frozen=True)
class Mutant:
    """One change: file within the core, function, line, what was changed, and how to make the changed source."""

    file: str
    function: str
    line: int
    change: str
    source: Callable[[], str]


def _numbers(node: ast.AST) -> Iterator[tuple[str, ast.AST]]:
    if isinstance(node, ast.Constant) and isinstance(node.value, bool):
        yield f"{node.value} to {not node.value}", ast.Constant(not node.value)
    elif isinstance(node, ast.Constant) and isinstance(node.value, int | float) and (node.value == 0 or abs(node.value) >= TOLERANCE):
        changed = node.value + 1 if isinstance(node.value, int) else node.value * 1.1 + 0.1
        yield f"{node.value} to {changed:g}", ast.Constant(changed)


def _by_a_hair(compared: ast.Compare) -> bool:
    """Whether a hair's breadth stands beside a limit, so that no value lies on it: `>` is then the same program as `>=`."""
    if type(compared.ops[0]) not in (ast.Lt, ast.LtE, ast.Gt, ast.GtE):
        return False
    sums = [
        n.right
        for side in (compared.left, *compared.comparators)
        for n in ast.walk(side)
        if isinstance(n, ast.BinOp) and isinstance(n.op, ast.Add | ast.Sub)
    ]
    return any(
        (isinstance(hair, ast.Constant) and isinstance(hair.value, float) and 0 < hair.value < TOLERANCE)
        or (isinstance(hair, ast.Name) and hair.id == "HAIR")
        for hair in sums
    )


def _of_code(node: ast.AST) -> Iterator[tuple[str, ast.AST]]:
    """Changes of one node, each as words and the node that takes its place."""
    yield from _numbers(node)
    made = copy.deepcopy(node)
    if isinstance(made, ast.Compare) and type(made.ops[0]) in SWAPPED and not _by_a_hair(made):
        made.ops[0] = SWAPPED[type(made.ops[0])]()
        yield f"{ast.unparse(node)} to {ast.unparse(made)}", made
    elif isinstance(made, ast.BinOp) and type(made.op) in TURNED and not isinstance(made.left, ast.JoinedStr | ast.Constant):
        made.op = TURNED[type(made.op)]()
        yield f"{ast.unparse(node)} to {ast.unparse(made)}", made
    elif isinstance(made, ast.BoolOp):
        made.op = ast.Or() if isinstance(made.op, ast.And) else ast.And()
        yield f"{ast.unparse(node)} to {ast.unparse(made)}", made
    elif isinstance(made, ast.If | ast.IfExp):
        made.test = ast.UnaryOp(ast.Not(), made.test)
        yield f"if {ast.unparse(node.test)} turned round", made  # type: ignore[attr-defined]


def _of_finding(node: ast.AST) -> Iterator[tuple[str, ast.AST]]:
    """Changes of what a breach names, and of the clause behind a figure."""
    if not isinstance(node, ast.Call):
        return
    name = node.func.id if isinstance(node.func, ast.Name) else node.func.attr if isinstance(node.func, ast.Attribute) else ""
    if name == "Breach":
        for at, part in enumerate(node.args):
            if BREACH[at] in ("where", "field") or (BREACH[at] in ("found", "limit") and not isinstance(part, ast.Constant)):
                made = copy.deepcopy(node)
                made.args[at] = ast.Constant("elsewhere" if BREACH[at] in ("where", "field") else None)
                yield f"{BREACH[at]} of {ast.unparse(node)[:80]}", made
        for at, keyword in enumerate(node.keywords):
            if keyword.arg in ("field", "source"):
                made = copy.deepcopy(node)
                made.keywords[at].value = ast.Constant("elsewhere" if keyword.arg == "field" else "arith")
                yield f"{keyword.arg} of {ast.unparse(node)[:80]}", made
    if name in ("work", "constant"):
        for at, part in enumerate(node.args):
            if at == len(node.args) - 1 and isinstance(part, ast.Constant) and isinstance(part.value, str) and "." in part.value:
                made = copy.deepcopy(node)
                made.args[at] = ast.Constant("physics" if part.value != "physics" else "arith")
                yield f"source {part.value} of {ast.unparse(node)[:80]}", made


class _Put(ast.NodeTransformer):
    def __init__(self, old: ast.AST, new: ast.AST) -> None:
        self.old, self.new = old, new

    def visit(self, node: ast.AST) -> ast.AST:
        return self.new if node is self.old else super().generic_visit(node)


def mutants_of(path: Path, kind: str) -> Iterator[Mutant]:
    """Every mutant of one module that stands in a function."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    for function in ast.walk(tree):
        if not isinstance(function, ast.FunctionDef):
            continue
        skipped = {id(n) for part in (function.args, function.returns, *function.decorator_list) if part for n in ast.walk(part)}
        # Two rows of one length are the same whether that is checked or not.
        skipped |= {id(k.value) for n in ast.walk(function) if isinstance(n, ast.Call) for k in n.keywords if k.arg == "strict"}
        inner = {id(n) for f in ast.walk(function) if isinstance(f, ast.FunctionDef) and f is not function for n in ast.walk(f)}
        inner |= {id(n) for f in ast.walk(function) if isinstance(f, ast.FormattedValue) for n in ast.walk(f)} if kind == "code" else set()
        for node in ast.walk(function):
            if id(node) in skipped or id(node) in inner:
                continue
            for change, made in _of_code(node) if kind == "code" else _of_finding(node):
                ast.copy_location(made, node)
                source = partial(_with, tree, node, made)
                yield Mutant(str(path.relative_to(CORE)), function.name, getattr(node, "lineno", 0), change, source)


def _with(tree: ast.Module, old: ast.AST, new: ast.AST) -> str:
    """Source of a tree with one node replaced; the tree itself stays as it was."""
    twin = copy.deepcopy(tree)
    place = next(theirs for mine, theirs in zip(ast.walk(tree), ast.walk(twin), strict=True) if mine is old)
    return ast.unparse(ast.fix_missing_locations(_Put(place, new).visit(twin)))


def rule_rows() -> Iterator[Mutant]:
    """Each rule's clause changed in the register."""
    path = CORE / "rules" / "rules.csv"
    rows = list(csv.DictReader(path.open(newline="", encoding="utf-8")))
    for at, row in enumerate(rows):
        for field in ("source", "source_iec", "level", "station"):
            if row[field]:
                yield Mutant("rules/rules.csv", row["code"], at + 2, f"{field} of {row['code']}", partial(_rows_with, rows, at, field))


def _rows_with(rows: list[dict[str, str]], at: int, field: str) -> str:
    changed = [dict(r) for r in rows]
    other = {"level": "note" if rows[at]["level"] != "note" else "stop", "station": "hand-over"}.get(field, "arith")
    changed[at][field] = other
    out = io.StringIO()
    write = csv.DictWriter(out, rows[0].keys(), lineterminator="\n")
    write.writeheader()
    write.writerows(changed)
    return out.getvalue()


def workshop(folder: Path) -> Path:
    """A copy of sources and tests to break."""
    for part in ("src", "tests", "docs", "pyproject.toml"):
        source = ROOT / part
        (shutil.copytree if source.is_dir() else shutil.copy)(source, folder / part)
    return folder


def _pytest(folder: Path, *args: str, timeout: float | None = None, **more: str) -> int:
    environment = {**os.environ, "PYTHONPATH": f"{folder / 'src'}:{folder}", "PYTHONDONTWRITEBYTECODE": "1", **more}
    command = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", "-n", "0", *args]
    try:
        return subprocess.run(command, cwd=folder, env=environment, capture_output=True, timeout=timeout, check=False).returncode
    except subprocess.TimeoutExpired:
        return 1


def reached_by(folder: Path) -> dict[str, dict[str, float]]:
    """Tests that reach each function of the core, with their seconds."""
    (folder / "reached_plugin.py").write_text(REACHED, encoding="utf-8")
    out = folder / "reached.json"
    if _pytest(folder, "-p", "reached_plugin", *FAST, REACHED=str(out)) != 0:
        raise SystemExit("The tests fail before anything is broken.")
    found: dict[str, dict[str, float]] = json.loads(out.read_text(encoding="utf-8"))
    return found


def _fitting(mutant: Mutant, reached: dict[str, dict[str, float]], breadth: Mapping[str, int]) -> list[str]:
    """The tests that are to notice a mutant: in turn the narrowest that reach it, and those that reach what few reach beside it.

    The first speak of it and little else; the others take the ways through its module that most houses never take.
    """
    if mutant.file.endswith(".csv"):
        return ["tests/rules", "tests/core/test_rules.py", "tests/core/test_mistakes.py", "tests/core/test_citations.py"]
    tests = reached.get(f"{mutant.file}:{mutant.function}", {})
    chosen: list[str] = []
    spent = 0.0
    beside = [others for place, others in reached.items() if place.startswith(f"{mutant.file}:")]
    rarity = {name: min(len(others) for others in beside if name in others) for name in tests}
    narrow = sorted(tests, key=lambda name: (breadth[name], tests[name]))
    rare = sorted(tests, key=lambda name: (rarity[name], tests[name]))
    for name in dict.fromkeys(one for pair in zip(narrow, rare, strict=True) for one in pair):
        if len(chosen) < MOST_TESTS and spent < MOST_SECONDS:
            chosen.append(name)
            spent += tests[name]
    # What every house and its studies say is broad: it comes last, so that the narrow tests speak first.
    # What no test enters may have run before the first of them, as when a table is read.
    kept = (OF_HOUSES, OF_STUDIES) if "study" in mutant.file else (OF_HOUSES,)
    return [*(name for name in chosen if not name.startswith(BROAD)), *kept]


def _chosen(everything: list[Mutant], count: int, seed: int, again: str | None) -> list[Mutant]:
    """A random sample, or once more what lived in an earlier one: of like changes in a function the one nearest to its old line."""
    if again is None:
        return random.Random(seed).sample(everything, min(count, len(everything)))
    found = []
    for row in json.loads(Path(again).read_text(encoding="utf-8")):
        alike = [m for m in everything if (m.file, m.function, m.change) == (row["file"], row["function"], row["change"])]
        if not row["killed"] and alike:
            found.append(min(alike, key=lambda m: abs(m.line - row["line"])))
    return found


def breadth_of(reached: Mapping[str, Mapping[str, float]]) -> Counter[str]:
    """How many functions each test reaches."""
    return Counter(name for tests in reached.values() for name in tests)


def main() -> int:
    """Choose, break, run, tell."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--count", type=int, default=300)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--kind", choices=("code", "finding"), default="code")
    parser.add_argument("--jobs", type=int, default=os.cpu_count() or 1)
    parser.add_argument("--out", default="mutants.json")
    parser.add_argument("--again", help="result of an earlier run: what lived there is tried once more")
    parser.add_argument("--reached", help="file that keeps which tests reach what, to be used again while sources and tests are the same")
    args = parser.parse_args()
    paths = [p for part in WITHIN for p in sorted((CORE / part).rglob("*.py"))]
    everything = [m for path in paths for m in mutants_of(path, args.kind)] + (list(rule_rows()) if args.kind == "finding" else [])
    chosen = _chosen(everything, args.count, args.seed, args.again)
    with tempfile.TemporaryDirectory() as root:
        shops: Queue[Path] = Queue()
        first = workshop(Path(root) / "0")
        kept = Path(args.reached) if args.reached else None
        reached = json.loads(kept.read_text(encoding="utf-8")) if kept and kept.exists() else reached_by(first)
        if kept:
            kept.write_text(json.dumps(reached), encoding="utf-8")
        breadth = breadth_of(reached)
        for shop in (first, *(workshop(Path(root) / str(n)) for n in range(1, args.jobs))):
            shops.put(shop)

        def tried(mutant: Mutant) -> tuple[Mutant, bool]:
            shop, tests = shops.get(), _fitting(mutant, reached, breadth)
            target = shop / "src" / "gumboot" / "core" / mutant.file
            whole = target.read_text(encoding="utf-8")
            target.write_text(mutant.source(), encoding="utf-8")
            try:
                killed = bool(tests) and _pytest(shop, *tests, timeout=LONGEST_S) != 0
                others = [name for name in reached.get(f"{mutant.file}:{mutant.function}", {}) if name not in tests]
                if not killed and others:
                    killed = _pytest(shop, *others, timeout=4 * LONGEST_S) != 0
                print(f"{'killed' if killed else 'lived '} {mutant.file}:{mutant.line} {mutant.function}: {mutant.change}", flush=True)
                return mutant, killed
            finally:
                target.write_text(whole, encoding="utf-8")
                shops.put(shop)

        with ThreadPoolExecutor(args.jobs) as pool:
            results = list(pool.map(tried, chosen))
    lived = [m for m, killed in results if not killed]
    rows = [{"file": m.file, "function": m.function, "line": m.line, "change": m.change, "killed": killed} for m, killed in results]
    Path(args.out).write_text(json.dumps(rows, indent=1), encoding="utf-8")
    print(
        f"{len(results) - len(lived)} of {len(results)} killed ({100 * (1 - len(lived) / len(results)):.0f} %), of {len(everything)} possible"
    )
    return 0


if __name__ == "__main__":
    sys.exit(main())
