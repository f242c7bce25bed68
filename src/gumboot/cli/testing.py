"""``./gumboot test``: lint, types, contract, unit, database and web tests, then the browser tests."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

from gumboot.cli.cluster import CHECKOUT

BIN = Path(sys.executable).parent
STEPS: tuple[tuple[str, list[str]], ...] = (
    ("lint", ["ruff", "check", "src", "tests", "scripts"]),
    ("format", ["ruff", "format", "--check", "src", "tests", "scripts"]),
    ("types", ["mypy"]),
    ("architecture", ["lint-imports", "--no-cache"]),
    ("built styles", ["python", "scripts/check_styles.py"]),
)


def run() -> int:
    """Run every step; the first failing step ends it, the last line is the test runner's own."""
    environment = {**os.environ, "PYTHONPATH": str(CHECKOUT / "src")}
    for title, command in STEPS:
        print(f"== {title}: {' '.join(command)}", flush=True)
        done = subprocess.run([str(BIN / command[0]), *command[1:]], cwd=CHECKOUT, env=environment, check=False)
        if done.returncode:
            print(f"{title} failed", file=sys.stderr)
            return done.returncode
    for folders in (["tests/core", "tests/properties", "tests/acceptance", "tests/store", "tests/web", "tests/cli"], ["tests/browser"]):
        print(f"== tests: {' '.join(folders)}", flush=True)
        done = subprocess.run([str(BIN / "python"), "-m", "pytest", *folders], cwd=CHECKOUT, env=environment, check=False)
        if done.returncode:
            return done.returncode
    return 0
