"""``steps``: the table of the derivation as text and as a drawing, bare or for one job file."""

from __future__ import annotations

import argparse
from pathlib import Path

from gumboot.cli.checking import plan_of
from gumboot.cli.trouble import Trouble
from gumboot.core.plan.steps import STEPS
from gumboot.drawing.steps import canvas, left_behind


def run(args: argparse.Namespace) -> int:
    """Print the steps; with ``--svg`` write the drawing as well."""
    plan = plan_of(Path(args.file), noted=True) if args.file else None
    if args.svg:
        try:
            Path(args.svg).write_text(canvas(plan).file(), encoding="utf-8")
        except OSError as failure:
            raise Trouble(f"{args.svg} cannot be written: {failure.strerror}. Remedy: name a file in a folder you own.") from None
    for step in STEPS:
        print(f"{step.name:14}{step.title}")
        print(f"{'':14}needs {', '.join(step.needs) or 'the job and its cards only'}")
        if plan is not None:
            print(f"{'':14}{left_behind(plan, step)}")
    return 0
