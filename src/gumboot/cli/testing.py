"""``./gumboot test``: lint, types, contract, unit, database and web tests, then the browser tests, on every core there is.

``--quick`` stops after the tests of the core but the long ones: what a change of a rule can break, in a minute and a half.
"""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

from gumboot.cli.checkout import CHECKOUT

BIN = Path(sys.executable).parent
MOST_WORKERS = 4
WORKERS = str(min(MOST_WORKERS, os.cpu_count() or 1))
SCRIPTS = ("src/gumboot/web/static/js", "src/gumboot/web/stations", "tests/js")
STEPS: tuple[tuple[str, list[str]], ...] = (
    ("lint", ["ruff", "check", "src", "tests", "scripts"]),
    ("format", ["ruff", "format", "--check", "src", "tests", "scripts"]),
    ("types", ["mypy", "--num-workers", WORKERS]),
    ("architecture", ["lint-imports", "--no-cache"]),
    ("built styles", ["python", "scripts/check_styles.py"]),
    ("lint of scripts", ["oxlint", "--config", "frontend/oxlint.json", "--deny-warnings", *SCRIPTS]),
)


def node() -> Path:
    """The browser driver brings a Node of its own: the tests of scripts need no other."""
    import playwright

    return Path(playwright.__file__).parent / "driver" / "node"


def _script_tests() -> int:
    print("== tests of scripts: tests/js", flush=True)
    tests = sorted(str(path) for path in (CHECKOUT / "tests/js").glob("*.test.mjs"))
    return subprocess.run([str(node()), "--test", "--test-reporter=dot", *tests], cwd=CHECKOUT, check=False).returncode


CORE = ["tests/core", "tests/rules", "tests/properties", "tests/acceptance"]
# Each worker has a database and a browser of its own; no test waits for another.
SPREAD = "worksteal"


def _tests(folders: list[str], environment: dict[str, str], *asked: str) -> int:
    print(f"== tests: {' '.join(folders)}", flush=True)
    command = [str(BIN / "python"), "-m", "pytest", "-n", WORKERS, "--dist", SPREAD, *asked, *folders]
    return subprocess.run(command, cwd=CHECKOUT, env=environment, check=False).returncode


def run(quick: bool = False) -> int:
    """Run every step; the first failing step ends it, the last line is the test runner's own."""
    environment = {**os.environ, "PYTHONPATH": str(CHECKOUT / "src")}
    # Many processes read the same modules: each is compiled once, whatever the machine usually wants.
    environment.pop("PYTHONDONTWRITEBYTECODE", None)
    subprocess.run([sys.executable, "-m", "compileall", "-q", "-j", WORKERS, "src"], cwd=CHECKOUT, env=environment, check=False)
    for title, command in STEPS:
        print(f"== {title}: {' '.join(command)}", flush=True)
        done = subprocess.run([str(BIN / command[0]), *command[1:]], cwd=CHECKOUT, env=environment, check=False)
        if done.returncode:
            print(f"{title} failed", file=sys.stderr)
            return done.returncode
    if failed := _script_tests():
        return failed
    if quick:
        return _tests(CORE, environment, "-m", "not long")
    return _tests([*CORE, "tests/store", "tests/web", "tests/cli"], environment) or _tests(["tests/browser"], environment)
